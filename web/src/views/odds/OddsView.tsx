/** Odds: how sure a line's plan is, lorry by lorry, and which stations' stops the risk comes from. */
import type { Schemas } from "../../api/client";
import { useOdds } from "../../api/queries";
import { duration, oneDecimal, percent, whole } from "../../app/format";
import { PackBands } from "../../charts/PackBands";
import { Empty, Figure, Header, Loading, Panel, Refused } from "../../ui/parts";
import { useWidth } from "../../ui/useWidth";
import { LineOfPage } from "../LineOfPage";
import { useLine, useWindowView } from "../planningWindow";
import { Sureness } from "./Sureness";
import { WorthPanel } from "./WorthPanel";

type Odds = Schemas["LineOdds"];

export function OddsView() {
  const line = useLine();
  const { day } = useWindowView();
  const plan = day.plans.find((one) => one.line === line?.id);
  const found = useOdds(plan?.number);
  const costliest = found.data?.stations[0];
  const least = found.data?.lorries.toSorted((a, b) => a.odds - b.odds)[0];
  const all = found.data?.all_complete;
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
              {all && (
                <Figure
                  value={percent(all.value)}
                  label={`all lorries that the plan fills, ${oneDecimal(100 * all.low)} to ${oneDecimal(100 * all.high)} %`}
                  wrong={found.data.at_risk}
                />
              )}
              {least && (
                <Figure
                  value={percent(least.odds)}
                  label={`${waves.get(least.wave) ?? least.wave}, the least sure`}
                  wrong={least.at_risk}
                />
              )}
              {costliest?.clear && (
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
        <Sureness odds={odds} />
        <Lorries odds={odds} />
      </div>
      <div className="grid grid-cols-[minmax(0,1fr)] content-start gap-2">
        <Stations odds={odds} />
        <Runs odds={odds} />
        <WorthPanel line={odds.line} />
      </div>
    </div>
  );
}

function Curve({ odds }: { odds: Odds }) {
  const { day, clock } = useWindowView();
  const [box, width] = useWidth<HTMLDivElement>(800);
  const names = new Map(day.waves.map((wave) => [wave.id, wave.name]));
  const lorries = odds.lorries.map((one) => ({ ...one, name: names.get(one.wave) ?? one.wave }));
  return (
    <Panel label="Packs made against packs owed" className="px-4 py-3">
      <h2 className="font-bold">Packs made against packs owed</h2>
      <p className="text-ink-2 text-xs">
        line: half of the days are better; bands: 50, 80 and 95 of 100 days; dashed: packs owed; each lorry with its
        odds of getting all that the plan gives it
      </p>
      <div ref={box}>
        <PackBands curve={odds.curve} lorries={lorries} width={width} time={clock.time} />
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
          {odds.lorries.flatMap((lorry) =>
            lorry.products.map((one, place) => (
              <tr key={`${lorry.wave}-${one.product}`} className="border-rule border-t">
                <td className="py-1">
                  {place === 0 && (
                    <>
                      {waves.get(lorry.wave) ?? lorry.wave}{" "}
                      <span className="text-ink-2 text-xs">{clock.moment(lorry.loaded_by_min)}</span>{" "}
                      <b className={lorry.at_risk ? "text-ember" : "text-steam"}>{percent(lorry.odds)}</b>
                    </>
                  )}
                </td>
                <td className="py-1 pl-3">{products.get(one.product) ?? one.product}</td>
                <td className="py-1 pl-3 text-right tabular-nums">{whole(one.packs)}</td>
                <td className="py-1 pl-3 text-right tabular-nums">
                  {one.planned_short ? whole(one.planned_short) : "–"}
                </td>
                <td className="py-1 pl-3 text-right tabular-nums">{whole(one.short)}</td>
                <td
                  className={`py-1 pl-3 text-right font-bold tabular-nums ${one.at_risk ? "text-ember" : "text-steam"}`}
                >
                  {percent(one.odds)}
                </td>
              </tr>
            )),
          )}
        </tbody>
      </table>
      <p className="mt-2 text-ink-2 text-xs">
        The odds that a lorry misses no more than by the plan itself, of all that it is owed and of each product. It
        takes the oldest packs that are fresh enough.
      </p>
    </Panel>
  );
}

/** So many runs are shown: those that carry most. */
const RUNS = 8;

function Runs({ odds }: { odds: Odds }) {
  const { day, clock } = useWindowView();
  const products = new Map(day.products.map((product) => [product.id, product.name]));
  return (
    <Panel label="Runs that carry the risk" className="px-4 py-3">
      <h2 className="mb-1 font-bold">Runs that carry the risk</h2>
      <table className="w-full text-sm">
        <thead>
          <tr className="text-left text-ink-2 text-xs">
            <th className={HEAD}>Run</th>
            <th className={RIGHT}>late by</th>
            <th className={RIGHT}>spoiled</th>
            <th className={RIGHT}>missed</th>
          </tr>
        </thead>
        <tbody>
          {odds.runs.slice(0, RUNS).map((one) => (
            <tr key={`${one.run}-${one.product}`} className="border-rule border-t">
              <td className="py-1.5">
                <b>{one.run}</b> {products.get(one.product) ?? one.product}{" "}
                <span className="text-ink-2 text-xs">{clock.moment(one.start_min)}</span>
              </td>
              <td className="py-1.5 pl-3 text-right tabular-nums">{duration(one.late_min)}</td>
              <td className="py-1.5 pl-3 text-right tabular-nums">{whole(one.lost)}</td>
              <td className="py-1.5 pl-3 text-right font-bold tabular-nums">
                {one.missed === null ? "–" : whole(one.missed)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-2 text-ink-2 text-xs">
        Late by: on nine of ten days its last pack comes no later. Spoiled where the line stood, and missed by the
        lorries that it is made for: packs in the mean.
      </p>
    </Panel>
  );
}

function Stations({ odds }: { odds: Odds }) {
  const suggested = odds.stations.some((one) => one.suggested);
  return (
    <Panel label="Where the risk comes from" className="px-4 py-3">
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
              <td className="py-1.5 pl-3 text-right font-bold tabular-nums">
                {one.clear ? whole(one.packs) : <span title="no more than chance">–</span>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-2 text-ink-2 text-xs">
        Eight of ten stops last so long. What a station costs: the packs that lorries miss with its stops, less those
        they miss without, on the same days with the same dice; – where that may be chance.
      </p>
      <p className="mt-1 text-ink-2 text-xs">
        Suggested here as well, for nobody has counted it: eight of ten runs begin{" "}
        {oneDecimal(odds.suggested.earliest_min)} to {oneDecimal(odds.suggested.latest_min)} min late; two of three
        paces are within {oneDecimal(odds.suggested.pace_pct)} % of the plan’s, settings within{" "}
        {whole(odds.suggested.change_pct)} %.
      </p>
      {suggested && (
        <p className="mt-1 text-ink-2 text-xs">
          * Nobody knows yet: the usual is taken. Learning proposes the plant’s own; or enter it at the station.
        </p>
      )}
    </Panel>
  );
}
