/** What every lorry gets, late ones first to be seen; and the runs, to choose from. */
import type { PlanView } from "../../api/client";
import { duration, whole } from "../../app/format";
import { Swatch } from "../../charts/dough";
import { Heading } from "../../ui/parts";
import { useDayView } from "../day";

export function WavePanel({ view, onSelect }: { view: PlanView; onSelect: (run: string) => void }) {
  const { day, clock, names, tones } = useDayView();
  return (
    <>
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
                </span>
                {outcome.short > 0 || outcome.ready_min == null ? (
                  <span className="font-semibold text-ember">{whole(outcome.short)} short</span>
                ) : outcome.stale > 0 ? (
                  <span className="font-semibold text-ember">{whole(outcome.stale)} thrown away</span>
                ) : (
                  <span className="text-ink-2">{duration(wave.departs_min - outcome.ready_min)} early</span>
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
