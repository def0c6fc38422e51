/** The records beneath an account's figures: each figure above leads to its own. */
import type { ReactNode } from "react";
import { Link } from "react-router";
import { digits, duration, plural, whole } from "../../app/format";
import { useUnits } from "../../app/units";
import { Panel } from "../../ui/parts";
import { useWindowView } from "../planningWindow";
import { costWords, givenWords, type View } from "./words";

type Props = { view: View };

/** What a product of an account is called. */
function useNameOf(view: View) {
  const { names } = useWindowView();
  return (id: string | null) => view.products[id ?? ""] ?? names.get(id ?? "") ?? id ?? "";
}

function Part({ id, title, none, children }: { id: string; title: string; none?: string; children: ReactNode }) {
  return (
    <Panel label={title} className="p-4" id={id}>
      <h2 className="mb-1 font-bold">{title}</h2>
      {none ? <p className="text-ink-2 text-sm">{none}</p> : children}
    </Panel>
  );
}

const ROW = "flex flex-wrap items-baseline justify-between gap-x-4 border-rule border-b py-1 text-sm";

/** What each run gave, with the lots of packs that came of it. */
export function RunsBeneath({ view }: Props) {
  const productOf = useNameOf(view);
  const { clock } = useWindowView();
  const lots = (run: string, product: string) => view.lots.filter((lot) => lot.product === product && lot.run === run);
  return (
    <Part id="runs" title="Runs, and the lots they gave" none={view.runs.length ? undefined : "No run gave packs."}>
      <ul>
        {view.runs.map((run) => (
          <li key={`${run.run} ${run.product}`} className="border-rule border-b py-1.5 text-sm">
            <span className="flex flex-wrap justify-between gap-x-4">
              <Link className="underline" to={`/plan?line=${view.line}&run=${run.run}`}>
                {run.run} {productOf(run.product)}
              </Link>
              <span>
                <b>{whole(run.made)}</b> of {whole(run.planned)} packs
              </span>
            </span>
            <span className="block text-ink-2 text-xs">
              {clock.moment(run.first_pack_min)} to {clock.moment(run.last_pack_min)}
              {Math.abs(run.late_min) >= 1 &&
                `, ${duration(Math.abs(run.late_min))} ${run.late_min > 0 ? "late" : "early"}`}
            </span>
            {lots(run.run, run.product).length > 0 && (
              <span className="block text-xs">
                {lots(run.run, run.product).map((lot) => (
                  <Link key={lot.lot} className="mr-2 underline" to={`/lots/${lot.lot}`}>
                    {lot.code} ({whole(lot.packs)})
                  </Link>
                ))}
              </span>
            )}
          </li>
        ))}
      </ul>
    </Part>
  );
}

/** What stood, and what somebody has told of it. */
export function StoodBeneath({ view }: Props) {
  const { clock } = useWindowView();
  return (
    <Part id="stood" title="What stood" none={view.stood.length ? undefined : "Nothing stood."}>
      <ul>
        {view.stood.map((one) => (
          <li key={`${one.station} ${one.from_min}`} className={ROW}>
            <span>
              <b>{clock.moment(one.from_min)}</b> {view.stations[one.station] ?? one.station}
              {one.cause && ` (${one.cause})`}
              {one.stop != null && (
                <>
                  {" "}
                  <Link className="underline" to={`/stop/${one.stop}`}>
                    stop {one.stop}
                  </Link>
                </>
              )}
            </span>
            <span>{duration(one.felt_min)} without packs</span>
          </li>
        ))}
      </ul>
    </Part>
  );
}

/** What was scrapped and pulled, and by cause. */
export function OffBeneath({ view }: Props) {
  const productOf = useNameOf(view);
  const { clock } = useWindowView();
  const { off } = view;
  return (
    <Part
      id="off"
      title="Scrap and pulled pieces"
      none={off.length ? undefined : "Nothing was scrapped, and nobody has told of pulled pieces."}
    >
      <p className="mb-1 text-sm">
        {off.map((one) => (
          <span key={one.cause} className="mr-4 inline-block">
            {one.cause}{" "}
            <b>
              {[one.packs > 0 && plural(one.packs, "pack"), one.pieces > 0 && plural(one.pieces, "piece")]
                .filter(Boolean)
                .join(", ")}
            </b>
          </span>
        ))}
      </p>
      <ul>
        {view.scrapped.map((one) => (
          <li key={`${one.lot} ${one.at}`} className={ROW}>
            <span>
              <b>{clock.moment(clock.minuteAt(one.at))}</b> {plural(one.packs, "pack")} {productOf(one.product)},{" "}
              {[one.cause, one.reason].filter(Boolean).join(", ")}, {one.author}
            </span>
            <Link className="underline" to={`/lots/${one.lot}`}>
              {one.code}
            </Link>
          </li>
        ))}
        {view.pulled.map((one) => (
          <li key={one.uuid} className={ROW}>
            <span>
              <b>{clock.moment(clock.minuteAt(one.at))}</b> {plural(one.pieces, "piece")} {productOf(one.product)},{" "}
              {[one.cause, one.note].filter(Boolean).join(", ")}, {one.author}
            </span>
            <span className="text-ink-2">at {view.stations[one.station] ?? one.station}</span>
          </li>
        ))}
      </ul>
    </Part>
  );
}

/** What was given away in pieces that were too heavy, product by product, with its arithmetic. */
export function GivenBeneath({ view }: Props) {
  const productOf = useNameOf(view);
  const units = useUnits();
  const grams = (value: number) => `${units.shown(value, "piece mass")} ${units.name("piece mass", "g")}`;
  return (
    <Part id="given" title="Giveaway" none={view.given.length ? undefined : "No scale behind a divider was heard."}>
      <ul>
        {view.given.map((one) => (
          <li key={one.product} className={ROW}>
            <span>
              {productOf(one.product)}: {whole(one.pieces)} pieces at {grams(one.mean_g)} instead of{" "}
              {grams(one.target_g)}
              <span className="text-ink-2"> ({whole(one.weighed)} weighed)</span>
            </span>
            <b>
              {givenWords(one.kg, units)}
              {costWords(one.money, view.currency)}
            </b>
          </li>
        ))}
      </ul>
      <p className="mt-1 text-xs">
        <Link className="underline" to={`/quality?line=${view.line}`}>
          The charts of what was weighed
        </Link>
      </p>
    </Part>
  );
}

/** When ovens burned without product. */
export function OvensBeneath({ view }: Props) {
  const { clock } = useWindowView();
  return (
    <Part id="ovens" title="Oven idle" none={view.ovens.length ? undefined : "No oven burned without product."}>
      <ul>
        {view.ovens.map((one) => (
          <li key={`${one.station} ${one.from_min}`} className={ROW}>
            <span>
              {view.stations[one.station] ?? one.station}, {clock.moment(one.from_min)} to {clock.moment(one.until_min)}
            </span>
            <b>{digits(one.until_min - one.from_min, 0)} min</b>
          </li>
        ))}
      </ul>
    </Part>
  );
}
