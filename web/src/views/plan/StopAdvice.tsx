/** What a stop does to what is on the line, until when it must run again, and what can be done about it. */
import type { Schemas } from "../../api/client";
import type { StopRequest } from "../../api/queries";
import { duration, oneDecimal, plural, whole } from "../../app/format";
import { useUnits } from "../../app/units";
import { Heading } from "../../ui/parts";
import { useWindowView } from "../planningWindow";
import { OptionsTable } from "../stop/Options";
import { useCurrency } from "../useCurrency";

type Advice = Schemas["StopAdvice"];
type Stretch = Schemas["Stretch"];

type Props = {
  version: number;
  asked: StopRequest;
  advice: Advice;
  nameOf: (station: string) => string;
  onTaken: () => void;
};

export function StopAdvice({ version, asked, advice, nameOf, onTaken }: Props) {
  const { clock } = useWindowView();
  const { effect, options } = advice;
  return (
    <section aria-label="What the stop does" className="mt-4 border-rule border-t pt-3">
      <p className="font-bold text-lg leading-6">
        {effect.stretches.length === 0
          ? "Nothing that has begun is touched."
          : effect.restart_by_min == null
            ? "What is on the line waits; no limit is set for any of it."
            : effect.restart_by_min > effect.stop.from_min + 0.5
              ? `Running again by ${clock.moment(effect.restart_by_min)}, nothing is lost.`
              : "Some of it is lost at once."}
      </p>
      {effect.hold_from_min != null && (
        <p className="mt-1 text-sm">
          Hold the mixers: the next dough was due at <b>{clock.moment(effect.hold_from_min)}</b>; mix it when the line
          runs again.
        </p>
      )}
      {effect.store_full_min != null && (
        <p className="mt-1 text-sm">
          What comes before it can go on until the store is full at {clock.moment(effect.store_full_min)}.
        </p>
      )}
      {effect.stretches.length > 0 && <Standing stretches={effect.stretches} nameOf={nameOf} />}
      {effect.stretches.length > 0 && <Losses effect={effect} />}
      <Heading>What can be done</Heading>
      <OptionsTable stop={asked} options={options} cheapest={advice.cheapest} version={version} onTaken={onTaken} />
      <p className="mt-3 text-muted text-xs">
        Stand clear of what can start by itself; isolate and lock out before reaching in, and leave hot oil and ovens to
        trained people. Local rules decide.
      </p>
    </section>
  );
}

const cell = "py-1 pr-3 text-right align-top";

function Standing({ stretches, nameOf }: { stretches: Stretch[]; nameOf: (station: string) => string }) {
  const units = useUnits();
  const { names } = useWindowView();
  return (
    <table className="mt-3 w-full text-sm">
      <thead className="text-ink-2 text-xs">
        <tr className="text-left">
          <th className="py-1 pr-3 font-semibold">Where it stands</th>
          <th className={`${cell} font-semibold`}>Pieces</th>
          <th className={`${cell} font-semibold`}>{units.name("dough mass", "kg")}</th>
          <th className="py-1 text-right font-semibold">Lost after</th>
        </tr>
      </thead>
      <tbody>
        {stretches.map((one) => (
          <tr key={`${one.run} ${one.what} ${one.station} ${one.batch ?? ""}`} className="border-rule border-t">
            <td className="py-1 pr-3">
              <span className="font-semibold">
                {one.what === "pieces"
                  ? nameOf(one.station)
                  : `${one.what === "dough" ? "Dough" : "Filling"} ${one.batch}`}
              </span>
              <span className="block text-ink-2 text-xs">
                {one.run} {names.get(one.product)}
                {one.aside > 0 && `; ${plural(one.aside, "piece")} can be put aside for ${duration(one.aside_min)}`}
              </span>
            </td>
            <td className={cell}>{one.pieces >= 1 ? whole(one.pieces) : ""}</td>
            <td className={cell}>{units.shown(one.kg, "dough mass")}</td>
            <td className="py-1 text-right align-top">
              {one.spoils_after_min == null ? (
                <span className="text-ink-2">waits; no limit set</span>
              ) : one.spoils_after_min < 0.5 ? (
                <b className="text-ember">at once</b>
              ) : (
                <b>{oneDecimal(one.spoils_after_min)} min</b>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Losses({ effect }: { effect: Advice["effect"] }) {
  const { clock } = useWindowView();
  const currency = useCurrency();
  const units = useUnits();
  return (
    <table className="mt-4 w-full text-sm">
      <caption className="text-left font-semibold text-muted text-xs">If it stands for</caption>
      <tbody>
        {effect.losses.map((loss) => (
          <tr key={loss.stop_min} className="border-rule border-t">
            <th className="py-1 pr-3 text-left align-top">
              {duration(loss.stop_min)}
              <span className="block font-normal text-ink-2 text-xs">runs {clock.time(loss.runs_again_min)}</span>
            </th>
            <td className="py-1 pr-3">
              {loss.pieces < 1 && loss.kg < 0.05
                ? "nothing is lost"
                : `${whole(loss.pieces)} pieces, ${units.shown(loss.kg, "wasted mass")} ${units.name("wasted mass", "kg")}, ${plural(Math.round(loss.packs), "pack")} lost${loss.money != null && loss.money >= 0.5 ? `, ${whole(loss.money)} ${currency} of materials` : ""}`}
              {loss.put_aside >= 1 && `; ${whole(loss.put_aside)} pieces put aside`}
            </td>
            <td className="py-1 text-right">
              {loss.mix_again_min != null && <>mix again {clock.moment(loss.mix_again_min)}</>}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
