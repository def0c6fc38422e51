/** Stock against orders: what is left to make of every product, and the runs and doughs that make it. */
import { useState } from "react";
import { Link } from "react-router";
import { useCountPacks, useDemand } from "../../api/queries";
import { percent, plural, whole } from "../../app/format";
import { Swatch } from "../../charts/dough";
import { Button, Loading, Refused } from "../../ui/parts";
import { useWindowView } from "../planningWindow";

export function NetDemand() {
  const demand = useDemand();
  const keep = useCountPacks();
  const { day, names, tones } = useWindowView();
  const [typed, setTyped] = useState<Record<string, string>>({});
  const [made, setMade] = useState<Record<string, string>>({});
  const [reason, setReason] = useState("");
  const [open, setOpen] = useState<string>();
  if (demand.isPending) return <Loading what="the stock" />;
  if (demand.isError) return <Refused error={demand.error} />;
  const changed = demand.data.filter(
    (line) => typed[line.product] !== undefined && Number(typed[line.product]) !== line.lying,
  );
  /** More than there should be: when those were made can be said. */
  const isMore = (line: { product: string; lying: number }) => Number(typed[line.product]) > line.lying;
  const store = () => {
    const counted = changed.map((line) => ({
      product: line.product,
      packs: Number(typed[line.product]),
      made: isMore(line) && made[line.product] ? made[line.product] : null,
    }));
    keep.mutate(
      { counted, reason: reason.trim() || "counted" },
      {
        onSuccess: () => {
          setTyped({});
          setMade({});
        },
      },
    );
  };
  return (
    <>
      <table className="w-full text-sm">
        <caption className="pb-2 text-left font-bold text-base">Stock and what is left to make</caption>
        <thead>
          <tr className="border-rule border-b text-right text-ink-2 text-xs">
            <th className="py-1.5 text-left font-semibold">Product</th>
            <th className="py-1.5 pl-2 font-semibold">ordered</th>
            <th className="py-1.5 pl-2 font-semibold">in stock</th>
            <th className="py-1.5 pl-2 font-semibold">to make</th>
            <th className="py-1.5 pl-4 text-left font-semibold">runs in the newest plan</th>
            <th className="py-1.5 pl-2 text-left font-semibold">as one run</th>
          </tr>
        </thead>
        <tbody>
          {demand.data.map((line) => (
            <tr key={line.product} className="border-rule border-b text-right align-top">
              <th scope="row" className="whitespace-nowrap py-1.5 text-left font-normal">
                <Swatch index={tones.get(line.product) ?? 0} /> {names.get(line.product)}
              </th>
              <td className="py-1.5 pl-2">{whole(line.ordered)}</td>
              <td className="py-1 pl-2">
                <input
                  type="number"
                  min={0}
                  max={1000000}
                  aria-label={`${names.get(line.product)} in stock`}
                  className="w-20 rounded border border-trail/60 bg-ground px-2 py-0.5 text-right"
                  value={typed[line.product] ?? String(line.lying)}
                  onChange={(event) => setTyped({ ...typed, [line.product]: event.target.value })}
                />
                {isMore(line) && (
                  <label className="mt-1 block whitespace-nowrap text-ink-2 text-xs">
                    the others made{" "}
                    <input
                      type="datetime-local"
                      aria-label={`When the other ${names.get(line.product)} were made`}
                      className="rounded border border-trail/60 bg-ground px-1 py-0.5"
                      value={made[line.product] ?? ""}
                      onChange={(event) => setMade({ ...made, [line.product]: event.target.value })}
                    />
                  </label>
                )}
                {line.oldest_h !== null && (
                  <div className="whitespace-nowrap text-ink-2 text-xs">oldest {whole(line.oldest_h)} h</div>
                )}
              </td>
              <td className="py-1.5 pl-2 font-semibold">{whole(line.net)}</td>
              <td className="py-1.5 pl-4 text-left text-xs">
                {line.runs.map((run) => (
                  <Link
                    key={run.run}
                    to={`/plan?line=${line.line}&run=${run.run}`}
                    className="mr-2 inline-block underline"
                    title={plural(run.batches, "batch", "batches")}
                  >
                    {run.run}: {whole(run.wanted)}
                    {run.packs > run.wanted && ` +${whole(run.packs - run.wanted)}`}
                  </Link>
                ))}
                {line.runs.length === 0 && line.net > 0 && <span className="text-ink-2">beside another</span>}
              </td>
              <td className="py-1.5 pl-2 text-left text-xs">
                {line.choices.length > 0 && (
                  <button
                    type="button"
                    className="underline"
                    aria-expanded={open === line.product}
                    onClick={() => setOpen(open === line.product ? undefined : line.product)}
                  >
                    {plural(line.choices[0]?.pieces.length ?? 0, "batch", "batches")}
                  </button>
                )}
                {open === line.product &&
                  line.choices.map((choice) => (
                    <div key={choice.policy}>
                      {CHOICES[choice.policy] ?? choice.policy}: {choice.pieces.length}, emptiest{" "}
                      {percent(choice.least_fill)},{" "}
                      {choice.surplus_packs ? `${whole(choice.surplus_packs)} over` : "none over"}
                    </div>
                  ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="mt-2 flex items-center gap-3">
        <Button weight="strong" disabled={changed.length === 0 || keep.isPending} onClick={store}>
          Keep this stock
        </Button>
        {changed.length > 0 && (
          <label className="text-ink-2 text-xs">
            why{" "}
            <input
              value={reason}
              maxLength={80}
              placeholder="counted"
              onChange={(event) => setReason(event.target.value)}
              className="w-40 rounded border border-trail/60 bg-ground px-2 py-1 text-ink text-sm"
            />
          </label>
        )}
        <span className="text-ink-2 text-xs">
          Stock goes to the earliest lorry for which it is fresh enough. Each run&apos;s own choice of doughs stands
          with the run, on the plan{day.lines.length > 1 && " of its line"}.
        </span>
      </div>
      {keep.isError && <Refused error={keep.error} />}
    </>
  );
}

const CHOICES: Record<string, string> = {
  equal: "equal",
  "short-last": "full ones and a short one",
  "round-up": "all full",
};
