/** Each lorry that is still to be loaded: when its packs are ready by what the line does, and by how much to spare. */
import { duration, whole } from "../../app/format";
import { useWindowView } from "../planningWindow";
import type { LineNow } from "./NowView";

const MOST = 4;
const SAME_MIN = 1;

type Lorry = LineNow["lorries"][number];

/** What a lorry misses of a product, or by how much it is ready in time. */
export function inHand({ short, in_hand_min }: Lorry, missed = "short"): string {
  if (short > 0) return `${whole(short)} ${missed}`;
  return in_hand_min == null ? "in stock" : `${duration(in_hand_min)} in hand`;
}

export function Lorries({ now }: { now: LineNow }) {
  const { clock, waveNames } = useWindowView();
  const waves = [...new Set(now.lorries.map((lorry) => lorry.wave))].slice(0, MOST);
  return (
    <>
      <h2 className="font-bold">Lorries</h2>
      {waves.length === 0 && <p className="text-ink-2 text-sm">No lorry of this line is still to be loaded.</p>}
      <ol className="divide-y divide-rule">
        {waves.map((wave) => {
          const own = now.lorries.filter((lorry) => lorry.wave === wave);
          return (
            <li key={wave} className="py-1.5">
              <p className="flex justify-between font-semibold text-sm">
                <span>{waveNames.get(wave) ?? wave}</span>
                <span>{clock.time(own[0]?.loaded_by_min ?? 0)}</span>
              </p>
              {own.map((lorry) => (
                <OfProduct key={lorry.product} lorry={lorry} />
              ))}
            </li>
          );
        })}
      </ol>
    </>
  );
}

function OfProduct({ lorry }: { lorry: Lorry }) {
  const { clock, names } = useWindowView();
  const later = lorry.later_min;
  return (
    <p className={`flex justify-between text-xs ${lorry.is_worse ? "font-semibold text-ember" : "text-ink-2"}`}>
      <span>
        {whole(lorry.packs)} {names.get(lorry.product) ?? lorry.product}
        {lorry.ready_min != null && ` by ${clock.time(lorry.ready_min)}`}
        {Math.abs(later) >= SAME_MIN && ` (${duration(Math.abs(later))} ${later > 0 ? "later" : "earlier"})`}
      </span>
      <span>{inHand(lorry)}</span>
    </p>
  );
}
