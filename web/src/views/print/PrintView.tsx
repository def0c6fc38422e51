/** The day on paper: runs, lorries, the ribbon chart, and every batch card on a sheet of its own. */
import { useParams } from "react-router";
import { mixedFor } from "../../api/client";
import { useCards, usePlan } from "../../api/queries";
import { plural, whole } from "../../app/format";
import { RibbonChart } from "../../charts/RibbonChart";
import { Button, Header, Loading, Refused } from "../../ui/parts";
import { BatchCard } from "../dough/BatchCard";
import { useLine, useWindowView } from "../planningWindow";

const SHEET = 880;
const nothing = () => {};

export function PrintView() {
  const { number } = useParams();
  const { day, clock, names, tones, waveNames } = useWindowView();
  const line = useLine()?.id;
  const plan = usePlan(number === undefined ? undefined : Number(number), line);
  const cards = useCards(plan.data?.number);
  const failed = plan.error ?? cards.error;
  if (failed)
    return (
      <div className="m-5">
        <Refused error={failed} />
      </div>
    );
  if (!plan.data || !cards.data) return <Loading what="the day" />;
  const view = plan.data;
  const { from_min, to_min } = view.timeline;
  const lineName = day.lines.find((found) => found.id === view.plan.line)?.name;
  return (
    <div className="mx-auto w-full max-w-[62rem] bg-paper px-6 pb-6 print:max-w-none print:p-0">
      <Header
        title={`${day.plant}, ${lineName}: version ${cards.data.version}`}
        sub={`${clock.date(from_min)} ${clock.time(from_min)} to ${clock.date(to_min)} ${clock.time(to_min)}, order book ${view.book}`}
        actions={
          <Button weight="strong" onClick={() => window.print()}>
            Print
          </Button>
        }
      />
      {view.stale && (
        <p className="font-bold text-ember">The orders or the plant's data have changed since this plan.</p>
      )}
      <table className="sheet w-full text-sm">
        <thead>
          <tr className="border-ink border-b text-left">
            {["Run", "Product", "First dough", "Divider", "First pack", "Last pack", "Packs", "Batches"].map((head) => (
              <th key={head} className="py-1 pr-2">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {view.plan.runs.map((run) => (
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
      <table className="sheet mt-5 w-full text-sm">
        <thead>
          <tr className="border-ink border-b text-left">
            {["Lorry", "Leaves", "Product", "Packs", "Ready", "Short"].map((head) => (
              <th key={head} className="py-1 pr-2">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {view.plan.waves.map((outcome) => (
            <tr key={`${outcome.wave}-${outcome.product}`} className="border-rule border-b">
              <td className="py-1">{waveNames.get(outcome.wave)}</td>
              <td>{clock.time(day.waves.find((wave) => wave.id === outcome.wave)?.departs_min ?? 0)}</td>
              <td>{names.get(outcome.product)}</td>
              <td>{whole(outcome.packs)}</td>
              <td>{outcome.ready_min == null ? "never" : clock.moment(outcome.ready_min)}</td>
              <td className={outcome.short ? "font-bold" : ""}>{outcome.short ? whole(outcome.short) : ""}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="sheet mt-5 overflow-hidden">
        <RibbonChart
          {...{ view, clock, names, tones }}
          waves={day.waves.filter((wave) => view.plan.waves.some((outcome) => outcome.wave === wave.id))}
          span={[from_min - 10, to_min + 10]}
          width={SHEET}
          height={520}
          now={Number.NEGATIVE_INFINITY}
          selected={undefined}
          met={undefined}
          onSelect={nothing}
          onMeet={nothing}
          onZoom={nothing}
          onMove={nothing}
        />
      </div>
      <p className="no-print mt-6 border-rule border-t pt-3 text-ink-2 text-sm">
        On paper, {plural(cards.data.cards.length, "batch card")} follow, one to a sheet.
      </p>
      {cards.data.cards.map((card) => (
        <div
          key={`${card.run}-${card.key}`}
          className="sheet new-page mt-6 border-rule border-t pt-4 print:mt-0 print:border-0"
        >
          <p className="mb-1 text-xs">
            {day.plant}, {lineName}, version {cards.data.version}; {clock.date(card.start_min)}, {card.run} batch{" "}
            {card.number}
          </p>
          <BatchCard card={card} />
          <ul className="mt-3 text-xs">
            {card.cautions.map((caution) => (
              <li key={caution.about}>
                <strong>{caution.about}.</strong> {caution.text}
              </li>
            ))}
          </ul>
        </div>
      ))}
    </div>
  );
}
