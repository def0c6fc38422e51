/** What sureness costs: lorries that are to be surer, the plans that were found for that, and one of them taken. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { isUnderWay, useAskSurer, useSurerPlans, useTakeSurer } from "../../api/queries";
import { duration, oneDecimal, percent, whole } from "../../app/format";
import { Frontier } from "../../charts/Frontier";
import { Button, Panel, Refused } from "../../ui/parts";
import { useWidth } from "../../ui/useWidth";
import { useWindowView } from "../planningWindow";
import { UnderWay } from "./UnderWay";

const ALL = "";
const WISHED_PCT = 95;

export function Sureness({ odds }: { odds: Schemas["LineOdds"] }) {
  const { day, clock } = useWindowView();
  const found = useSurerPlans(odds.line);
  const ask = useAskSurer();
  const [wave, setWave] = useState<string>();
  const [wished, setWished] = useState(WISHED_PCT);
  const search = found.data?.search;
  const underWay = isUnderWay(search);
  const names = new Map(day.waves.map((one) => [one.id, one.name]));
  const least = odds.lorries.toSorted((a, b) => a.odds - b.odds)[0];
  const chosen = wave ?? least?.wave ?? ALL;
  return (
    <Panel label="What sureness costs" className="px-4 py-3">
      <h2 className="font-bold">What sureness costs</h2>
      <p className="text-ink-2 text-xs">
        each point is a plan that passed the check; it makes some more, or has lorries ready earlier, as far as that
        pays
      </p>
      <div className="my-2 flex flex-wrap items-end gap-3 text-sm">
        <label className="text-ink-2 text-xs">
          lorry
          <select
            className="ml-1 rounded border border-trail/60 bg-ground px-2 py-1 text-ink text-sm"
            value={chosen}
            onChange={(event) => setWave(event.target.value)}
          >
            <option value={ALL}>all lorries</option>
            {odds.lorries.map((one) => (
              <option key={one.wave} value={one.wave}>
                {`${names.get(one.wave) ?? one.wave}, ${clock.moment(one.loaded_by_min)}: ${percent(one.odds)}`}
              </option>
            ))}
          </select>
        </label>
        <label className="text-ink-2 text-xs">
          complete on
          <input
            type="number"
            min={1}
            max={99}
            value={Number.isFinite(wished) ? wished : ""}
            onChange={(event) => setWished(event.target.valueAsNumber)}
            className="mx-1 w-16 rounded border border-trail/60 bg-ground px-2 py-1 text-ink text-sm"
          />
          of 100 days
        </label>
        <Button
          weight="strong"
          disabled={underWay || ask.isPending || !(wished >= 1 && wished <= 99)}
          onClick={() =>
            ask.mutate(
              { line: odds.line, waves: chosen === ALL ? [] : [chosen], odds: wished / 100 },
              { onSuccess: () => found.refetch() },
            )
          }
        >
          Plan for {Number.isFinite(wished) ? wished : "–"} %
        </Button>
        {underWay && search && <UnderWay search={search} sofar={`${found.data?.plans.length ?? 0} plans`} />}
      </div>
      {ask.isError && <Refused error={ask.error} />}
      {search?.state === "failed" && <p className="text-ember text-sm">{search.text}</p>}
      {found.data && search && <Plans found={found.data} search={search} names={names} />}
    </Panel>
  );
}

type PlansProps = { found: Schemas["SurerPlans"]; search: Schemas["SearchState"]; names: Map<string, string> };

function Plans({ found, search, names }: PlansProps) {
  const { day } = useWindowView();
  const [box, width] = useWidth<HTMLDivElement>(800);
  const [shown, setShown] = useState<number>();
  const take = useTakeSurer();
  const first = found.plans[0];
  if (!first) return null;
  const products = new Map(day.products.map((product) => [product.id, product.name]));
  const best = found.frontier.flatMap((number) => found.plans.filter((plan) => plan.number === number));
  const marked = shown ?? best.at(-1)?.number ?? first.number;
  const waves = search.request.wish?.waves ?? [];
  const lorries = waves.map((wave) => names.get(wave) ?? wave).join(", ") || "the least sure lorry";
  const said = (eased: Schemas["Eased"][]) =>
    eased.flatMap((one) => {
      const lorry = waves.length === 1 ? "" : ` for ${names.get(one.wave) ?? one.wave}`;
      return [
        ...(one.earlier_min ? [`${duration(one.earlier_min)} earlier${lorry}`] : []),
        ...Object.entries(one.more).map(
          ([product, packs]) => `${whole(packs)} ${products.get(product) ?? product} more${lorry}`,
        ),
      ];
    });
  return (
    <div ref={box}>
      <Frontier
        points={found.plans.map((plan) => ({
          number: plan.number,
          odds: plan.odds,
          more: plan.cost - first.cost,
          best: found.frontier.includes(plan.number),
        }))}
        wished={search.request.wish?.odds ?? 1}
        width={width}
        shown={marked}
        onShow={setShown}
      />
      <table className="w-full text-sm">
        <thead>
          <tr className="text-left text-ink-2 text-xs">
            <th className="whitespace-nowrap py-1 font-semibold">Odds of {lorries}</th>
            <th className="py-1 pl-3 text-right font-semibold">costs more</th>
            <th className="py-1 pl-3 font-semibold">what is asked for</th>
            <th className="py-1">
              <span className="sr-only">Save</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {best.map((plan) => (
            <tr
              key={plan.number}
              className={`border-rule border-t ${plan.number === marked ? "bg-ground" : ""}`}
              onPointerEnter={() => setShown(plan.number)}
            >
              <td className="py-1 font-bold tabular-nums">{percent(plan.odds)}</td>
              <td className="whitespace-nowrap py-1 pl-3 text-right tabular-nums">
                {plan === first
                  ? "–"
                  : `${whole(plan.cost - first.cost)} points, ${oneDecimal(100 * (plan.cost / first.cost - 1))} %`}
              </td>
              <td className="py-1 pl-3 text-ink-2 text-xs">
                {plan === first ? `as version ${search.request.start}` : said(plan.eased).join("; ")}
              </td>
              <td className="py-1 pl-3 text-right">
                {plan !== first && (
                  <Button
                    size="small"
                    className="whitespace-nowrap"
                    disabled={take.isPending}
                    onFocus={() => setShown(plan.number)}
                    onClick={() => take.mutate({ job: search.job, number: plan.number })}
                  >
                    Save as version
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {take.isError && <Refused error={take.error} />}
      {take.data && (
        <p role="status" className="mt-1 text-sm">
          Saved as version {take.data.version}: {take.data.note}.
        </p>
      )}
    </div>
  );
}
