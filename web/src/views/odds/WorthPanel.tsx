/** What changes to a line would be worth: each planned anew and run through a thousand days, beside today. */
import type { Schemas } from "../../api/client";
import { isUnderWay, useCompare, useWorth } from "../../api/queries";
import { oneDecimal, whole } from "../../app/format";
import { Button, Panel, Refused } from "../../ui/parts";
import { UnderWay } from "./UnderWay";

function said({ change, at }: Schemas["Worth"]) {
  switch (change.kind) {
    case "today":
      return "As it is today";
    case "one more":
      return `One more at ${at}`;
    case "longer":
      return `${at} a quarter longer`;
    case "steadier":
      return `${at} stops half as often`;
    case "more orders":
      return "A tenth more ordered";
    case "later lorries":
      return "Lorries half an hour later";
  }
}

export function WorthPanel({ line }: { line: string }) {
  const compared = useWorth(line);
  const compare = useCompare();
  const search = compared.data?.search;
  const found = compared.data?.found ?? [];
  const today = found.find((one) => one.change.kind === "today");
  return (
    <Panel label="What would a change be worth" className="px-4 py-3">
      <h2 className="mb-1 font-bold">What would a change be worth</h2>
      {found.length > 0 && (
        <table className="w-full text-sm">
          <thead>
            <tr className="text-left text-ink-2 text-xs">
              <th className="py-1 font-semibold">Change</th>
              <th className="py-1 pl-3 text-right font-semibold">complete</th>
              <th className="py-1 pl-3 text-right font-semibold">by plan</th>
              <th className="py-1 pl-3 text-right font-semibold">missed</th>
            </tr>
          </thead>
          <tbody>
            {found.map((one) => (
              <tr
                key={`${one.change.kind} ${one.change.station}`}
                className={`border-rule border-t ${one === today ? "font-bold" : ""}`}
              >
                <td className="py-1">{said(one)}</td>
                <td className="py-1 pl-3 text-right tabular-nums">{oneDecimal(100 * one.complete)} %</td>
                <td className="py-1 pl-3 text-right tabular-nums">{whole(one.planned_short)}</td>
                <td className="py-1 pl-3 text-right tabular-nums">{whole(one.missed)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <p className="mt-2 text-ink-2 text-xs">
        Each is planned anew and run through a thousand days with the same dice: lorries that are complete, packs short
        by the plan, and packs missed in the mean. One machine more works beside the others; it does not take over when
        one of them stops.
      </p>
      <div className="mt-2 flex items-center gap-3 text-sm">
        {isUnderWay(search) && search ? (
          <UnderWay search={search} sofar={`${found.length} compared`} />
        ) : (
          <Button
            disabled={compare.isPending}
            onClick={() => compare.mutate(line, { onSuccess: () => compared.refetch() })}
          >
            Compare changes
          </Button>
        )}
      </div>
      {search?.state === "failed" && <p className="text-ember text-sm">{search.text}</p>}
      {compare.isError && <Refused error={compare.error} />}
    </Panel>
  );
}
