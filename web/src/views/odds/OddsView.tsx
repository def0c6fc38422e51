/** Odds: how sure a line's plan is, lorry by lorry, and which stations' stops the risk comes from. */
import type { Schemas } from "../../api/client";
import { useOdds } from "../../api/queries";
import { duration, oneDecimal, percent, whole } from "../../app/format";
import { PackBands } from "../../charts/PackBands";
import { Empty, Figure, Header, Loading, Panel, Refused } from "../../ui/parts";
import { useWidth } from "../../ui/useWidth";
import { LineOfPage } from "../LineOfPage";
import { useLine, useWindowView } from "../planningWindow";

type Odds = Schemas["LineOdds"];

/** A lorry below this is at risk. */
const SURE = 0.95;

export function OddsView() {
  const line = useLine();
  const { day } = useWindowView();
  const plan = day.plans.find((one) => one.line === line?.id);
  const found = useOdds(plan?.number);
  const costliest = found.data?.stations[0];
  const least = found.data?.lorries.toSorted((a, b) => a.odds - b.odds)[0];
  const waves = new Map(day.waves.map((wave) => [wave.id, wave.name]));
  return (
    <>
      <Header
        title={`${line?.name ?? ""}, how sure`}
        sub={
          found.data ? `the newest plan, run through ${whole(found.data.days)} times` : "the newest plan under chance"
        }
        figures={
          found.data && (
            <>
              <Figure
                value={percent(found.data.all_complete)}
                label={`all lorries that the plan fills, ± ${oneDecimal(100 * found.data.error)} %`}
                wrong={found.data.all_complete < SURE}
              />
              {least && (
                <Figure
                  value={percent(least.odds)}
                  label={`${waves.get(least.wave) ?? least.wave}, the least sure`}
                  wrong={least.odds < SURE}
                />
              )}
              {costliest && costliest.packs > 0 && (
                <Figure value={costliest.name} label={`costs most, ${whole(costliest.packs)} packs a window`} />
              )}
            </>
          )
        }
        actions={<LineOfPage line={line?.id ?? ""} />}
      />
      {!plan && <Empty title="This line has no plan yet">Plan the day; then its odds are here.</Empty>}
      {found.isError && (
        <div className="m-5">
          <Refused error={found.error} again={() => found.refetch()} />
        </div>
      )}
      {plan && found.isPending && <Loading what="a thousand days" />}
      {found.data && <Shown odds={found.data} />}
    </>
  );
}

function Shown({ odds }: { odds: Odds }) {
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-2 px-2 pb-2 lg:grid-cols-[minmax(0,1fr)_27rem]">
      <div className="grid grid-cols-[minmax(0,1fr)] content-start gap-2">
        <Curve odds={odds} />
        <Lorries odds={odds} />
      </div>
      <Stations odds={odds} />
    </div>
  );
}

/** The lorries, each with the least sure of its products. */
function lorriesOf(odds: Odds, names: Map<string, string>) {
  const found = new Map<string, { id: string; name: string; loaded_by_min: number; odds: number }>();
  for (const one of odds.lorries) {
    const before = found.get(one.wave);
    const name = names.get(one.wave) ?? one.wave;
    found.set(one.wave, {
      id: one.wave,
      name,
      loaded_by_min: one.loaded_by_min,
      odds: Math.min(one.odds, before?.odds ?? 1),
    });
  }
  return [...found.values()].sort((a, b) => a.loaded_by_min - b.loaded_by_min);
}

function Curve({ odds }: { odds: Odds }) {
  const { day, clock } = useWindowView();
  const [box, width] = useWidth<HTMLDivElement>(800);
  const names = new Map(day.waves.map((wave) => [wave.id, wave.name]));
  return (
    <Panel label="Packs made against packs owed" className="px-4 py-3">
      <h2 className="font-bold">Packs made against packs owed</h2>
      <p className="text-ink-2 text-xs">
        line: half of the days are better; bands: 50, 80 and 95 of 100 days; dashed: packs owed; each lorry with the
        least sure of its products
      </p>
      <div ref={box}>
        <PackBands curve={odds.curve} lorries={lorriesOf(odds, names)} width={width} time={clock.time} />
      </div>
    </Panel>
  );
}

const HEAD = "py-1 font-semibold";
const RIGHT = `${HEAD} pl-3 text-right`;

function Lorries({ odds }: { odds: Odds }) {
  const { day, clock } = useWindowView();
  const waves = new Map(day.waves.map((wave) => [wave.id, wave.name]));
  const products = new Map(day.products.map((product) => [product.id, product.name]));
  return (
    <Panel label="Lorries" className="overflow-x-auto px-4 py-3">
      <h2 className="mb-1 font-bold">How sure each lorry is of its packs</h2>
      <table className="w-full text-sm">
        <thead>
          <tr className="text-left text-ink-2 text-xs">
            <th className={HEAD}>Lorry</th>
            <th className={`${HEAD} pl-3`}>Product</th>
            <th className={RIGHT}>owed</th>
            <th className={RIGHT}>short by plan</th>
            <th className={RIGHT}>short in the mean</th>
            <th className={RIGHT}>odds</th>
          </tr>
        </thead>
        <tbody>
          {odds.lorries.map((one) => (
            <tr key={`${one.wave}-${one.product}`} className="border-rule border-t">
              <td className="py-1">
                {waves.get(one.wave) ?? one.wave}{" "}
                <span className="text-ink-2 text-xs">{clock.moment(one.loaded_by_min)}</span>
              </td>
              <td className="py-1 pl-3">{products.get(one.product) ?? one.product}</td>
              <td className="py-1 pl-3 text-right tabular-nums">{whole(one.packs)}</td>
              <td className="py-1 pl-3 text-right tabular-nums">
                {one.planned_short ? whole(one.planned_short) : "–"}
              </td>
              <td className="py-1 pl-3 text-right tabular-nums">{whole(one.short)}</td>
              <td
                className={`py-1 pl-3 text-right font-bold tabular-nums ${one.odds < SURE ? "text-ember" : "text-steam"}`}
              >
                {percent(one.odds)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-2 text-ink-2 text-xs">
        The odds that a lorry misses no more than by the plan itself. It takes the oldest packs that are fresh enough.
      </p>
    </Panel>
  );
}

function Stations({ odds }: { odds: Odds }) {
  const suggested = odds.stations.some((one) => one.suggested);
  return (
    <Panel label="Where the risk comes from" className="self-start px-4 py-3">
      <h2 className="mb-1 font-bold">Where the risk comes from</h2>
      <table className="w-full text-sm">
        <thead>
          <tr className="text-left text-ink-2 text-xs">
            <th className={HEAD}>Station</th>
            <th className={RIGHT}>stops every</th>
            <th className={RIGHT}>each, min</th>
            <th className={RIGHT}>packs missed</th>
          </tr>
        </thead>
        <tbody>
          {odds.stations.map((one) => (
            <tr key={one.station} className="border-rule border-t">
              <td className="py-1.5 font-semibold">{one.name}</td>
              <td className="py-1.5 pl-3 text-right tabular-nums">
                {duration(one.every_min)}
                {one.suggested && <span title="usual, nobody knows"> *</span>}
              </td>
              <td className="py-1.5 pl-3 text-right tabular-nums">
                {oneDecimal(one.shortest_min)} to {oneDecimal(one.longest_min)}
              </td>
              <td className="py-1.5 pl-3 text-right font-bold tabular-nums">{whole(one.packs)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-2 text-ink-2 text-xs">
        Eight of ten stops last so long. What a station costs: the packs that lorries miss with its stops, less those
        they miss without, on the same days with the same dice.
      </p>
      {suggested && (
        <p className="mt-1 text-ink-2 text-xs">
          * Nobody knows yet: the usual is taken. Learning proposes the plant’s own; or enter it at the station.
        </p>
      )}
    </Panel>
  );
}
