/** The sheets of a plan on paper: what a line makes and when, and one card each. */
import { type Card, mixedFor, type PlanView, type Schemas } from "../../api/client";
import { whole } from "../../app/format";
import { RibbonChart } from "../../charts/RibbonChart";
import { useInSight } from "../../ui/useInSight";
import { BatchCard } from "../dough/BatchCard";
import { useWindowView } from "../planningWindow";
import { Code } from "./Code";
import { lorriesOf, type Part, runsOf } from "./part";

const SHEET = 880;
const [BEFORE, BEHIND] = [10, 10];
const nothing = () => {};

function Heads({ names }: { names: string[] }) {
  return (
    <thead>
      <tr className="border-ink border-b text-left">
        {names.map((name) => (
          <th key={name} className="py-1 pr-2">
            {name}
          </th>
        ))}
      </tr>
    </thead>
  );
}

type LineProps = { view: PlanView; part: Part; named: boolean };

/** A line's runs, its lorries and its ribbons. */
export function LineSheets({ view, part, named }: LineProps) {
  const { day, clock, names, tones, waveNames } = useWindowView();
  const departs = new Map(day.waves.map((wave) => [wave.id, wave.departs_min]));
  const runs = runsOf(view, part);
  const { from_min, to_min } = view.timeline;
  const lineName = day.lines.find((found) => found.id === view.plan.line)?.name;
  return (
    <section className={named ? "new-page mb-8 first-of-type:[break-before:auto]" : ""} aria-label={lineName}>
      <div className="mb-2 flex items-start justify-between gap-4">
        <div className="text-sm">
          {named && <h2 className="font-bold text-lg">{lineName}</h2>}
          <p>
            {clock.date(from_min)} {clock.time(from_min)} to {clock.date(to_min)} {clock.time(to_min)}, order book{" "}
            {view.book}
          </p>
          {view.stale && (
            <p className="font-bold text-ember">The orders or the plant's data have changed since this plan.</p>
          )}
        </div>
        <Code path={`/print/${view.number}`} />
      </div>
      <table className="sheet w-full text-sm">
        <Heads names={["Run", "Product", "First dough", "Divider", "First pack", "Last pack", "Packs", "Batches"]} />
        <tbody>
          {runs.map((run) => (
            <tr key={run.id} className="border-rule border-b">
              <td className="py-1 font-bold">{run.id}</td>
              <td>{names.get(run.product)}</td>
              <td>{clock.moment(run.batches[0]?.start_min ?? run.start_min)}</td>
              <td>{clock.moment(run.start_min)}</td>
              <td>{clock.moment(run.first_pack_min)}</td>
              <td>{clock.moment(run.last_pack_min)}</td>
              <td>{whole(run.packs)}</td>
              <td>{mixedFor(run).length}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="far-below mt-5">
        <table className="sheet w-full text-sm">
          <Heads names={["Lorry", "Leaves", "Product", "Packs", "Ready", "Short"]} />
          <tbody>
            {lorriesOf(view, part, departs).map((outcome) => (
              <tr key={`${outcome.wave}-${outcome.product}`} className="border-rule border-b">
                <td className="py-1">{waveNames.get(outcome.wave)}</td>
                <td>{clock.moment(departs.get(outcome.wave) ?? 0)}</td>
                <td>{names.get(outcome.product)}</td>
                <td>{whole(outcome.packs)}</td>
                <td>{outcome.ready_min == null ? "never" : clock.moment(outcome.ready_min)}</td>
                <td className={outcome.short ? "font-bold" : ""}>{outcome.short ? whole(outcome.short) : ""}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {runs.length > 0 && (
        <div className="sheet far-below mt-5 overflow-hidden">
          <RibbonChart
            {...{ view, clock, names, tones }}
            waves={day.waves.filter((wave) => view.plan.waves.some((outcome) => outcome.wave === wave.id))}
            span={spanOf(view, part, runs)}
            width={SHEET}
            height={520}
            now={Number.NEGATIVE_INFINITY}
            selected={part.run ?? undefined}
            met={undefined}
            onSelect={nothing}
            onMeet={nothing}
            onZoom={nothing}
            onMove={nothing}
          />
        </div>
      )}
    </section>
  );
}

/** What the chart shows: the stretch that is asked for; else all of the line, or of the run. */
function spanOf({ timeline }: PlanView, { run, from, to }: Part, runs: PlanView["plan"]["runs"]) {
  const own = run === null ? undefined : runs[0];
  const begin = own ? (own.batches[0]?.start_min ?? own.start_min) : timeline.from_min;
  const end = own ? own.last_pack_min : timeline.to_min;
  return [Number.isFinite(from) ? from : begin - BEFORE, Number.isFinite(to) ? to : end + BEHIND] as const;
}

/** Cards so near to what is in sight are drawn; of the others, of which a day has hundreds, only what tells them apart. */
const NEAR_PX = 1_000;

/** A batch card, with what tells it from every other. */
export function CardSheet({ card, of }: { card: Card; of: Schemas["CardsView"] }) {
  const { day, clock } = useWindowView();
  const [element, seen] = useInSight<HTMLDivElement>(NEAR_PX);
  const lineName = day.lines.find((found) => found.id === of.line)?.name;
  return (
    <div
      ref={element}
      data-sheet={`${card.run}-${card.key}`}
      className="sheet new-page far-below mt-6 min-h-[46rem] border-rule border-t pt-4 print:mt-0 print:min-h-0 print:border-0"
    >
      <div className="mb-1 flex items-start justify-between gap-4">
        <p className="text-xs">
          {day.plant}, {lineName}, version {of.version}; {clock.date(card.start_min)}, {card.run} batch {card.number}
        </p>
        <Code path={`/dough/${of.plan}/${card.run}/${card.key}`} />
      </div>
      {seen && (
        <>
          <BatchCard card={card} />
          <ul className="mt-3 text-xs">
            {card.cautions.map((caution) => (
              <li key={caution.about}>
                <strong>{caution.about}.</strong> {caution.text}
              </li>
            ))}
          </ul>
        </>
      )}
    </div>
  );
}
