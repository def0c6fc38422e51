/** A batch card, for the screen and for paper. */

import { memo } from "react";
import type { Card } from "../../api/client";
import { kilograms, oneDecimal, whole } from "../../app/format";
import { useUnits } from "../../app/units";
import { Said } from "../../ui/Said";
import { useWindowView } from "../planningWindow";
import { WetSoon } from "../WetAhead";
import { MixStrip } from "./MixStrip";

export const BatchCard = memo(({ card }: { card: Card }) => {
  const { clock } = useWindowView();
  const { water } = card;
  const units = useUnits();
  const [kg, celsius] = [units.name("scaled mass", "kg"), units.name("temperature", "°C")];
  const mass = (grams: number) => (units.system === "us" ? units.shown(grams / 1000, "scaled mass") : kilograms(grams));
  const degrees = (temperature: number) => units.shown(temperature, "temperature");
  return (
    <article aria-label={`${card.run} batch ${card.key}`}>
      <div className="flex flex-wrap items-baseline justify-between gap-x-6">
        <h2 className="font-bold text-2xl">{card.product_name}</h2>
        <p className="text-lg text-ink-2">
          {card.run}, batch {card.number} of {card.of}, {card.mixer},{" "}
          <strong className="text-ink">start {clock.moment(card.start_min)}</strong>
        </p>
      </div>
      <dl className="mt-3 flex flex-wrap gap-x-10 gap-y-2">
        {water && (
          <>
            <Big name="Water" value={mass(water.total_g)} unit={kg} />
            <Big
              name="at"
              value={degrees(water.wanted_c)}
              unit={celsius}
              wrong={!water.feasible}
              id="water-temperature"
            />
            {water.chilled_g > 0 && <Big name="of it chilled" value={mass(water.chilled_g)} unit={kg} />}
            {water.ice_g > 0 && <Big name="of it ice" value={mass(water.ice_g)} unit={kg} />}
          </>
        )}
        {card.dry_ice_g > 0 && <Big name="Dry ice" value={mass(card.dry_ice_g)} unit={kg} />}
        <Big
          name={card.preparation == null ? "Target dough temperature" : "Target"}
          value={degrees(card.dough_temperature_c)}
          unit={celsius}
        />
      </dl>
      {water && (
        <p className={`mt-1 text-sm ${water.feasible ? "text-ink-2" : "font-semibold text-ember"}`}>
          <Said text={water.remark} />
        </p>
      )}
      {card.correction && (
        <p className="mt-1 text-sm">
          <Said text={card.correction} />
        </p>
      )}
      <WetSoon minute={card.start_min} />
      <table className="mt-3 w-full text-base">
        <thead>
          <tr className="border-rule border-b text-left text-muted text-xs">
            <th className="py-1 font-semibold">To weigh</th>
            <th className="py-1 text-right font-semibold">{kg}</th>
            <th className="py-1 text-right font-semibold">of flour</th>
            <th className="py-1 pl-8 font-semibold">goes in</th>
          </tr>
        </thead>
        <tbody>
          {card.ingredients.map((line) => (
            <tr key={line.ingredient} className="border-rule border-b">
              <td className="py-1">
                {line.name}
                {line.allergens.length > 0 && (
                  <strong className="pl-2 text-ember text-xs">allergen: {line.allergens.join(", ")}</strong>
                )}
              </td>
              <td className="py-1 text-right font-bold">{mass(line.grams)}</td>
              <td className="py-1 text-right">{oneDecimal(line.percent)} %</td>
              <td className="py-1 pl-8">{line.at_min > 0 ? `at minute ${line.at_min}` : "at the start"}</td>
            </tr>
          ))}
          <tr>
            <td className="py-1 text-ink-2">
              {card.preparation == null
                ? `Dough, to scale ${whole(card.pieces)} pieces${alsoScaled(card.rest)}`
                : `All of it, for batch ${card.number} of ${card.run}`}
            </td>
            <td className="py-1 text-right font-bold">{mass(card.dough_g)}</td>
          </tr>
        </tbody>
      </table>
      <MixStrip card={card} />
      <p className="mt-2 text-base">
        Out of the mixer {clock.moment(card.discharged_min)}
        {card.trough && (
          <>
            , into <strong>{card.trough}</strong>
          </>
        )}
        .{" "}
        {card.preparation == null ? (
          <>
            At the divider from <strong>{clock.moment(card.divided_min)}</strong>; use by{" "}
            <strong>{clock.moment(card.divide_by_min)}</strong>.
          </>
        ) : (
          <>
            Goes into its dough at <strong>{clock.moment(card.divided_min)}</strong>; use by{" "}
            <strong>{clock.moment(card.divide_by_min)}</strong>.
          </>
        )}
      </p>
      {card.tasks.length > 0 && (
        <ul className="mt-2 text-base">
          {card.tasks.map((task) => (
            <li key={`${task.minute} ${task.what}`}>
              <strong>{clock.moment(task.minute)}</strong> {task.what}
            </li>
          ))}
        </ul>
      )}
      {card.rest && (
        <p className="mt-2 text-base">
          <strong>
            {mass(card.rest.grams)} {kg} of it
          </strong>{" "}
          is for {whole(card.rest.pieces)} pieces of {card.rest.product_name} ({card.rest.run}), from{" "}
          <strong>{clock.moment(card.rest.from_min)}</strong>.
        </p>
      )}
      {card.rework_g > 0 && (
        <p className="text-ink-2 text-sm">
          About {mass(card.rework_g)} {kg} of this dough comes back from the line and can go into a later one.
        </p>
      )}
    </article>
  );
});

const alsoScaled = (rest: Card["rest"]) => (rest ? ` and ${whole(rest.pieces)} of ${rest.product_name}` : "");

function Big(props: { name: string; value: string; unit: string; wrong?: boolean; id?: string }) {
  return (
    <div>
      <dt className="text-ink-2 text-sm">{props.name}</dt>
      <dd className={`font-extrabold text-4xl leading-10 ${props.wrong ? "text-ember" : ""}`} data-figure={props.id}>
        {props.value} <span className="font-normal text-ink-2 text-lg">{props.unit}</span>
      </dd>
    </div>
  );
}
