/** One figure of a station: the node that tells it, in which unit, and what that says now. */
import type { Schemas } from "../../api/client";
import { useAskNode } from "../../api/queries";
import { digits } from "../../app/format";
import { Button } from "../../ui/parts";
import { type Source, sameSignal } from "./InstrumentsView";

type Props = {
  signal: Schemas["SignalView"];
  source: Source;
  elsewhere: string | undefined;
  onChange: (next: Source) => void;
};

/** How a node's figure is turned into the figure's unit. */
const FIGURES = [
  { name: "Factor", key: "factor", plain: 1 },
  { name: "Offset", key: "offset", plain: 0 },
] as const;

export function SignalRow({ signal, source, elsewhere, onChange }: Props) {
  const ask = useAskNode();
  const mapped = source.nodes.find((one) => sameSignal(one.signal, signal.signal));
  const others = source.nodes.filter((one) => one !== mapped);
  const put = (next: Partial<NonNullable<typeof mapped>>) => {
    const node = { signal: signal.signal, node: "", factor: 1, offset: 0, ...mapped, ...next };
    onChange({ ...source, nodes: node.node.trim() === "" ? others : [...others, node] });
  };
  const what = `${signal.station}, ${signal.quantity}`;
  return (
    <tr>
      <td className="py-1 pr-3">{signal.station}</td>
      <td className="pr-3 text-ink-2">
        {signal.quantity} {signal.unit && `(${signal.unit})`}
      </td>
      <td className="w-2/5 pr-3">
        {elsewhere ? (
          <span className="text-ink-2">told by {elsewhere}</span>
        ) : (
          <input
            aria-label={`Node of ${what}`}
            list="nodes"
            className="w-full rounded border border-trail/60 bg-paper px-2 py-1"
            value={mapped?.node ?? ""}
            onChange={(event) => put({ node: event.target.value })}
          />
        )}
      </td>
      {FIGURES.map(({ name, key, plain }) => (
        <td key={key} className="pr-2">
          <input
            type="number"
            step="any"
            aria-label={`${name} of ${what}`}
            disabled={!mapped}
            className="w-20 rounded border border-trail/60 bg-paper px-2 py-1 text-right disabled:opacity-50"
            value={mapped?.[key] ?? plain}
            onChange={(event) => put({ [key]: Number(event.target.value) })}
          />
        </td>
      ))}
      <td className="w-40">
        {mapped && (
          <span className="flex items-center gap-2">
            <Button
              size="small"
              aria-label={`Ask ${what}`}
              disabled={ask.isPending}
              onClick={() => ask.mutate({ endpoint: source.endpoint, mapped })}
            >
              Ask
            </Button>
            <span
              role="status"
              className={ask.isError || ask.data?.value == null ? "text-ember text-xs" : "font-semibold"}
            >
              {ask.isError
                ? ask.error.message
                : ask.data &&
                  (ask.data.value == null ? ask.data.why : `${digits(ask.data.value, 0, 2)} ${signal.unit}`)}
            </span>
          </span>
        )}
      </td>
    </tr>
  );
}
