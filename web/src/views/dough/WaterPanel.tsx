/** How the water was calculated by factor rule and heat balance, the friction learnt, and what to take care of. */

import { Link } from "react-router";
import type { Card } from "../../api/client";
import { useFriction } from "../../api/queries";
import { oneDecimal, plural, whole } from "../../app/format";
import { useUnits } from "../../app/units";
import { Cautions } from "../../ui/Cautions";
import { Heading, Panel, Row } from "../../ui/parts";
import { Said } from "../../ui/Said";
import { useWindowView } from "../planningWindow";

export function WaterPanel({ card }: { card: Card }) {
  const { day } = useWindowView();
  const units = useUnits();
  const [rule, icing] = card.rule?.equations ?? [];
  const figures = new URLSearchParams({
    dough_c: String(card.dough_temperature_c),
    flour_c: String(day.conditions.flour_c),
    room_c: String(day.conditions.room_c),
    tap_c: String(day.conditions.tap_c),
    friction_c: String(card.friction.friction_c),
  });
  return (
    <Panel label="Water for this batch" className="p-4">
      <h2 className="font-bold text-lg leading-6">Water for this batch</h2>
      <p className="text-ink-2 text-xs">two ways to calculate it, on today's figures</p>
      {card.water_why && (
        <p className="mt-1 font-semibold text-sm">
          The card says the water{" "}
          {card.water_by === "heat balance" ? "of the heat balance" : "of the factor rule, doubtful"}:{" "}
          <Said text={card.water_why} />.
        </p>
      )}
      <Heading>Factor rule</Heading>
      <p className="text-sm">
        <Said text={rule ?? "No water in this formula."} />
      </p>
      {icing && (
        <p className="text-sm">
          <Said text={icing} />
        </p>
      )}
      {card.heat && (
        <>
          <Heading>Heat balance</Heading>
          <p className="text-sm">
            <Said text={card.heat.equation} />
          </p>
          {card.heat.ice_kg > 0 && (
            <p className="text-sm">
              ice {units.shown(card.heat.ice_kg, "dough mass")} {units.name("dough mass")}
            </p>
          )}
          {card.heat.dry_ice_kg > 0 && (
            <p className="text-sm">
              Or no ice, the water cold, and {units.shown(card.heat.dry_ice_kg, "scaled mass")}{" "}
              {units.name("scaled mass", "kg")} of dry ice in all
              {card.dry_ice_g > 0 && `; the formula has a fixed ${units.shown(card.dry_ice_g / 1000, "scaled mass")}`}.
              {card.heat.dry_ice_room && !card.heat.dry_ice_room.keeps_limits && (
                <b className="block text-ember">
                  So much in every batch is above a limit for CO2 in this room:{" "}
                  {oneDecimal(card.heat.dry_ice_room.air_changes_needed)} room volumes of fresh air an hour are needed.
                </b>
              )}
            </p>
          )}
          {card.heat.short_k > 0 && (
            <p className="font-semibold text-ember text-sm">
              <Said text={`All ice still leaves ${oneDecimal(card.heat.short_k)} K.`} />
            </p>
          )}
          {card.heat.remedies.length > 0 && (
            <dl>
              {card.heat.remedies.map((remedy) => (
                <Row key={remedy.measure} name={<Said text={remedy.measure} />}>
                  <Said text={`−${oneDecimal(remedy.cools_k)} K`} />
                </Row>
              ))}
            </dl>
          )}
        </>
      )}
      <Link to={`/calculators/water?${figures}`} className="mt-1 inline-block text-sm underline">
        Try other figures
      </Link>
      {card.preparation == null && (
        <>
          <Heading>Friction</Heading>
          <Learnt card={card} />
        </>
      )}
      {card.room && <DryIceRoom room={card.room} />}
      <Heading>Cautions</Heading>
      <Cautions cautions={card.cautions} />
    </Panel>
  );
}

/** CO2 in the mixers' room at the plan's pace, against the usual limits. */
function DryIceRoom({ room }: { room: NonNullable<Card["room"]> }) {
  return (
    <>
      <Heading>CO2 in the room, limits 5,000 and 30,000 ppm</Heading>
      <dl>
        <Row name="over 8 h">{whole(room.eight_hours_ppm)} ppm</Row>
        <Row name="over its worst 15 min">{whole(room.quarter_hour_ppm)} ppm</Row>
        <Row name="fresh air needed, an hour">{oneDecimal(room.air_changes_needed)} room volumes</Row>
      </dl>
      <p className={`text-sm ${room.keeps_limits ? "text-ink-2" : "font-semibold text-ember"}`}>
        {room.keeps_limits
          ? "Within both limits, if the room is well mixed."
          : "Above a limit: more air, or less dry ice."}
      </p>
    </>
  );
}

const SHOWN = 6;

function Learnt({ card }: { card: Card }) {
  const units = useUnits();
  const friction = useFriction(card.product, card.mixer).data;
  if (!friction) return <p className="text-ink-2 text-sm">…</p>;
  const { learnt, probes, own_c } = friction;
  const kelvin = (factor: number) => units.shown(factor, "temperature difference");
  const from = Math.max(0, probes.length - SHOWN);
  return (
    <>
      <dl>
        <Row name={card.probe ? "this batch was mixed with" : "for this batch"}>{kelvin(card.friction.friction_c)}</Row>
        <Row name="the product's own">{kelvin(own_c)}</Row>
        {probes.length > 0 && (
          <Row name={`learnt on ${card.mixer}, ${plural(probes.length, "probe")}`}>
            {kelvin(learnt.friction_c)} ± {kelvin(learnt.spread_c)}
          </Row>
        )}
      </dl>
      {probes.length === 0 ? (
        <p className="text-ink-2 text-xs">No probe of this product from {card.mixer} yet.</p>
      ) : (
        <ol className="text-ink-2 text-xs">
          {probes.slice(from).map((entry, index) => (
            <li key={entry.created_at} className="flex justify-between">
              <span>
                {entry.run} batch {entry.batch}: dough {units.shown(entry.reading.dough_c, "temperature")}{" "}
                {units.name("temperature")}
              </span>
              <span>
                {oneDecimal(learnt.factors[from + index] ?? 0)}
                {learnt.held_out[from + index] && " held out"}
              </span>
            </li>
          ))}
        </ol>
      )}
    </>
  );
}
