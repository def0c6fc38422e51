/** What the draft does: to the product's pace, to today's plan, and why it cannot be used where it cannot. */

import type { ReactNode } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { duration, whole } from "../../app/format";
import { Figure, Notice, Panel } from "../../ui/parts";
import { Said } from "../../ui/Said";
import { useWindowView } from "../planningWindow";
import type { Kind, Library, Thing } from "./draft";
import type { Parts } from "./PlantView";

type Trial = Schemas["Trial"];
type Shown = NonNullable<Trial["now"]>;

const MOST_FAULTS = 8;

export function Effect({ parts, product }: { parts: Parts; product: Thing | undefined }) {
  const { trial, draft } = parts;
  const faults = trial?.faults ?? [];
  const changed = draft.edits.length > 0;
  if (!changed && !product) return null;
  return (
    <Panel label="What the change does" className="self-start p-4 lg:sticky lg:top-2">
      <h2 className="mb-2 font-bold text-lg leading-6">{changed ? "What the change does" : "As it is"}</h2>
      {faults.length > 0 && (
        <div className="mb-3">
          <Notice tone="wrong" title="It cannot be used like this:">
            <ul className="list-disc pl-5">
              {faults.slice(0, MOST_FAULTS).map((fault) => (
                <li key={fault.says}>
                  {fault.kind && fault.id ? (
                    <Link className="underline" to={`/plant/${fault.kind satisfies Kind}/${fault.id}`}>
                      <Said text={fault.says} />
                    </Link>
                  ) : (
                    <Said text={fault.says} />
                  )}
                </li>
              ))}
              {faults.length > MOST_FAULTS && <li>and {faults.length - MOST_FAULTS} more</li>}
            </ul>
          </Notice>
        </div>
      )}
      {product && <Pace product={product} was={trial?.was ?? undefined} now={trial?.now ?? trial?.was ?? undefined} />}
      {changed && trial && faults.length === 0 && <InThePlan trial={trial} library={draft.library} />}
      {changed && (trial?.changes?.length ?? 0) > 0 && (
        <details className="mt-3 text-sm">
          <summary className="cursor-pointer text-ink-2">All that is changed</summary>
          <ul className="mt-1 list-disc pl-5">
            {trial?.changes?.map((line) => (
              <li key={line}>
                <Said text={line} />
              </li>
            ))}
          </ul>
        </details>
      )}
      {changed && (
        <p className="mt-3 text-ink-2 text-xs">
          Nothing is used until you say so; plans already made keep the version that they were made for.
        </p>
      )}
    </Panel>
  );
}

type PaceProps = { product: Thing; was: Shown | undefined; now: Shown | undefined };

function Pace({ product, was, now }: PaceProps) {
  if (now?.refused) return <Notice tone="wrong" title={<Said text={now.refused} />} />;
  const balance = now?.balance;
  if (!balance) return null;
  const before = was?.balance;
  const stage = balance.stages.find((one) => one.station === balance.bottleneck);
  const earlier = before?.stages.find((one) => one.station === before.bottleneck);
  const unlike = (here: ReactNode, there: ReactNode) => (there !== undefined && here !== there ? `, was ${there}` : "");
  const most = whole(balance.most_per_h);
  const took = duration(balance.flour_to_pack_min);
  return (
    <>
      <div className="flex flex-wrap gap-x-8 gap-y-2">
        <Figure
          value={`${most} /h`}
          label={`most of ${product.name}${unlike(most, before ? whole(before.most_per_h) : undefined)}`}
        />
        <Figure value={stage?.name} label={`is the bottleneck${unlike(stage?.name, earlier?.name)}`} wrong />
        <Figure
          value={took}
          label={`flour to first pack${unlike(took, before ? duration(before.flour_to_pack_min) : undefined)}`}
        />
      </div>
      <p className="mt-2 text-ink-2 text-sm">
        <Said text={stage?.arithmetic} />
      </p>
    </>
  );
}

/** What changes in the plan, in its order. */
export function InThePlan({ trial, library }: { trial: Trial; library: Library }) {
  const lines = trial.plan ?? [];
  if (trial.cannot) return <Notice tone="wrong" title={`Today's plan could not be made like this. ${trial.cannot}`} />;
  if (trial.version == null)
    return <p className="mt-3 text-ink-2 text-sm">There is no plan of today&apos;s orders yet to compare with.</p>;
  if (lines.length === 0)
    return <p className="mt-3 text-ink-2 text-sm">Plan {trial.version}, in its order, stays as it is.</p>;
  return (
    <table className="mt-4 w-full text-sm">
      <thead>
        <tr className="border-rule border-b text-left text-muted text-xs">
          <th className="font-semibold">In plan {trial.version}, in its order</th>
          <th className="text-right font-semibold">is</th>
          <th className="text-right font-semibold">would be</th>
        </tr>
      </thead>
      <tbody>
        {lines.map((line) => (
          <LineRows key={line.line} line={line} library={library} />
        ))}
      </tbody>
    </table>
  );
}

const MOST_RUNS = 6;

function LineRows({ line, library }: { line: Schemas["LineAmended"]; library: Library }) {
  const { day, clock, names, waveNames } = useWindowView();
  const there = library.plant.lines.find((one) => one.id === line.line);
  const stationName = (id: string) => there?.stations.find((one) => one.id === id)?.name ?? id;
  const runs = line.runs ?? [];
  const breaks = line.breaks ?? [];
  return (
    <>
      {day.lines.length > 1 && <Row wide what={day.lines.find((one) => one.id === line.line)?.name ?? ""} />}
      {(line.gone ?? []).length > 0 && <Row what={(line.gone ?? []).join(", ")} was="in the plan" now="gone" wrong />}
      {(line.stays ?? []).map((stay) => (
        <Row
          key={`${stay.product} ${stay.station}`}
          what={`${stay.runs.join(", ")} ${names.get(stay.product)}, in the ${stationName(stay.station)}`}
          was={`${stay.was_min} min`}
          now={`${stay.now_min} min`}
        />
      ))}
      {runs.slice(0, MOST_RUNS).map((run) => (
        <Row
          key={run.run}
          what={`${run.run} ${names.get(run.product)}, last pack`}
          was={clock.moment(run.was_last_pack_min)}
          now={clock.moment(run.now_last_pack_min)}
        />
      ))}
      {runs.length > MOST_RUNS && <Row wide what={`and ${runs.length - MOST_RUNS} more runs`} />}
      {(line.gaps ?? []).slice(0, MOST_RUNS).map((gap) => (
        <Row
          key={`${gap.first} ${gap.then}`}
          what={`Between ${gap.first} and ${gap.then}`}
          was={duration(gap.was_min)}
          now={duration(gap.now_min)}
        />
      ))}
      {(line.lorries ?? []).map((lorry) => (
        <Row
          key={`${lorry.wave} ${lorry.product}`}
          what={`${waveNames.get(lorry.wave)}, ${names.get(lorry.product)}`}
          was={missing(lorry.was_short)}
          now={missing(lorry.now_short)}
          wrong={lorry.now_short > lorry.was_short}
        />
      ))}
      {breaks.length > 0 && (
        <Row
          wide
          wrong
          what={`As it stands, the plan would break ${breaks.length === 1 ? "a rule" : `${breaks.length} rules`}: ${said(breaks[0])}`}
        />
      )}
    </>
  );
}

const missing = (packs: number) => (packs === 0 ? "in time" : `${whole(packs)} short`);

const said = (broken: Schemas["Violation"] | undefined) =>
  broken ? `${broken.run}${broken.station ? ` at ${broken.station}` : ""} ${broken.text}` : "";

type RowProps = { what: string; was?: string; now?: string; wrong?: boolean; wide?: boolean };

function Row({ what, was, now, wrong = false, wide = false }: RowProps) {
  return (
    <tr className={`border-rule border-b ${wrong ? "font-semibold text-ember" : ""}`}>
      <td className="py-1.5 pr-3" colSpan={wide ? 3 : 1}>
        <Said text={what} />
      </td>
      {!wide && (
        <>
          <td className="text-right">{was}</td>
          <td className="text-right font-semibold">{now}</td>
        </>
      )}
    </tr>
  );
}
