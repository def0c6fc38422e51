/** What every lorry gets, those that miss packs first and why; and the runs, to choose from. */

import { useState } from "react";
import type { PlanView } from "../../api/client";
import { useLateness, useWaysIn } from "../../api/queries";
import { asksFor, duration, plural, whole } from "../../app/format";
import { Swatch } from "../../charts/dough";
import { Heading, Refused } from "../../ui/parts";
import { Said } from "../../ui/Said";
import { useWindowView } from "../planningWindow";
import { Chain } from "./Chain";
import { signedPoints } from "./points";

type Props = { version: number; view: PlanView; onSelect: (run: string) => void };

export function WavePanel({ version, view, onSelect }: Props) {
  const { day, clock, names, tones } = useWindowView();
  return (
    <>
      <LateLorries version={version} views={[view]} onSelect={(_, run) => onSelect(run)} />
      <h2 className="font-bold text-lg leading-5">What each lorry gets</h2>
      {day.waves.map((wave) => {
        const lines = view.plan.waves.filter((outcome) => outcome.wave === wave.id);
        if (lines.length === 0) return null;
        return (
          <section key={wave.id} className="mt-3">
            <div className="flex justify-between font-semibold text-sm">
              <span>{wave.name}</span>
              <span>{clock.time(wave.departs_min)}</span>
            </div>
            {lines.map((outcome) => (
              <div key={outcome.product} className="flex justify-between gap-2 text-xs leading-5">
                <span className="text-ink-2">
                  {whole(outcome.packs)} {names.get(outcome.product)}
                  {outcome.fresh_for_h != null && `, ${asksFor(outcome.fresh_for_h)}`}
                </span>
                {outcome.short > 0 || outcome.ready_min == null ? (
                  <span className="shrink-0 font-semibold text-ember">{whole(outcome.short)} short</span>
                ) : outcome.stale > 0 ? (
                  <span className="shrink-0 font-semibold text-ember">{whole(outcome.stale)} wasted</span>
                ) : (
                  <span className="shrink-0 text-ink-2">{duration(wave.departs_min - outcome.ready_min)} early</span>
                )}
              </div>
            ))}
          </section>
        );
      })}
      <Heading>Runs</Heading>
      <ul>
        {view.plan.runs.map((run) => (
          <li key={run.id}>
            <button
              type="button"
              onClick={() => onSelect(run.id)}
              className="flex w-full items-baseline gap-2 rounded px-1 py-1 text-left text-sm hover:bg-crumb"
            >
              <Swatch index={tones.get(run.product) ?? 0} />
              <span className="font-semibold">{run.id}</span>
              <span className="flex-1">{names.get(run.product)}</span>
              <span className="text-ink-2 text-xs">{clock.moment(run.start_min)}</span>
            </button>
          </li>
        ))}
      </ul>
    </>
  );
}

type LateProps = { version: number; views: PlanView[]; onSelect: (line: string, run: string) => void };

/** The lorries that miss packs, the most first; each opens to its chain and its cheapest cure. */
export function LateLorries({ version, views, onSelect }: LateProps) {
  const late = views
    .flatMap((view) =>
      view.plan.waves.map((outcome) => ({
        ...outcome,
        line: view.plan.line,
        because: view.plan.left_out.find((out) => out.wave === outcome.wave && out.product === outcome.product)
          ?.because,
      })),
    )
    .filter((outcome) => outcome.short > 0)
    .sort((one, other) => other.short - one.short);
  if (late.length === 0)
    return (
      <p className="mb-3 border-steam border-l-4 pl-3 font-semibold text-sm text-steam">No lorry misses a pack.</p>
    );
  return (
    <section className="mb-4" aria-label="Lorries that miss packs">
      <h2 className="font-bold text-ember text-lg leading-5">Lorries that miss packs</h2>
      {late.map((outcome) => (
        <Late key={`${outcome.wave} ${outcome.product}`} {...outcome} version={version} onSelect={onSelect} />
      ))}
    </section>
  );
}

/** What outside the plan would fit it in, each change tried with a plan of its own. */
function WaysIn(of: { version: number; line: string; wave: string; product: string }) {
  const ways = useWaysIn(of, true);
  if (ways.isError) return <Refused error={ways.error} />;
  if (ways.isPending) return <p className="mt-1 text-ink-2 text-xs">Trying what else would fit it in …</p>;
  if (ways.data.length === 0) return <p className="mt-1 text-xs">Nothing that was tried would fit it in.</p>;
  return (
    <div className="mt-1 text-xs">
      <p className="font-semibold">What would fit it in</p>
      <ul>
        {ways.data.map((way) => (
          <li key={way.what} className="flex justify-between gap-2 border-rule border-t py-0.5">
            <span>
              <Said text={way.what} />
            </span>
            <span className={`whitespace-nowrap ${way.short > 0 ? "text-ember" : "font-semibold text-steam"}`}>
              {way.short > 0 ? `${whole(way.short)} still short` : "all of it"}
            </span>
          </li>
        ))}
      </ul>
    </div>
  );
}

type Outcome = PlanView["plan"]["waves"][number] & {
  line: string;
  because?: string | null;
  version: number;
  onSelect: LateProps["onSelect"];
};

function Late({ version, line, wave, product, packs, short, never, because, onSelect }: Outcome) {
  const { clock, day, names, waveNames } = useWindowView();
  const [open, setOpen] = useState(false);
  const why = useLateness({ version, line, wave, product }, open);
  const departs = day.waves.find((found) => found.id === wave)?.departs_min ?? 0;
  return (
    <div className="border-rule border-b py-1.5 text-sm">
      <button type="button" aria-expanded={open} onClick={() => setOpen(!open)} className="w-full text-left">
        <span className="flex justify-between gap-2">
          <span className="font-semibold">{waveNames.get(wave)}</span>
          <span>{clock.moment(departs)}</span>
        </span>
        <span className="flex justify-between gap-2 text-xs">
          <span className="text-ink-2">{names.get(product)}</span>
          <span className="font-semibold text-ember">
            {whole(short)} of {whole(packs)} short
          </span>
        </span>
        {never > 0 && (
          <span className="block text-xs">
            {plural(never, "pack")} left out: <Said text={because ?? "no run in this window makes them"} />.
          </span>
        )}
        <span className="text-ink-2 text-xs underline">{open ? "Close" : "Why, and how to fix it"}</span>
      </button>
      {open && why.isError && <Refused error={why.error} />}
      {open && why.isPending && <p className="text-ink-2 text-xs">Calculating …</p>}
      {open && why.data && (
        <div className="mt-1">
          {why.data.late_min > 0 && (
            <p className="text-xs">Its last pack is made {duration(why.data.late_min)} after it leaves.</p>
          )}
          <Chain links={why.data.chain} onSelect={(run) => onSelect(line, run)} />
          <p className="mt-1 text-xs">
            {why.data.cure ? (
              <>
                <span className="font-semibold">Cheapest fix:</span> <Said text={why.data.cure.what} />;{" "}
                {signedPoints(why.data.cure.points)}
                {why.data.cure.short_elsewhere > 0 &&
                  `, but ${plural(why.data.cure.short_elsewhere, "pack")} short elsewhere`}
                .
              </>
            ) : (
              <span className="font-semibold">No single change of the plan fixes it.</span>
            )}
          </p>
          <WaysIn version={version} line={line} wave={wave} product={product} />
        </div>
      )}
    </div>
  );
}
