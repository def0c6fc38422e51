/** Orders that are not planned yet: for lorries behind the window, and for lorries that do not leave. */

import type { Schemas } from "../../api/client";
import { whole } from "../../app/format";
import { HANDS, momentFormat } from "../../app/moments";
import { useWindowView } from "../planningWindow";
import { Stranded } from "./Stranded";

type Order = Schemas["BeyondOrder"];
type Lorry = { name: string; leaves: string; orders: number; packs: number };

/** The lorries of some orders, in the order in which they leave. */
function lorriesOf(orders: Order[]): Lorry[] {
  const found = new Map<string, Lorry>();
  for (const { order, lorry } of orders) {
    if (!lorry) continue;
    const known = found.get(order.wave) ?? { ...lorry, orders: 0, packs: 0 };
    found.set(order.wave, { ...known, orders: known.orders + 1, packs: known.packs + order.packs });
  }
  return [...found.values()];
}

export function Later({ orders, ahead }: { orders: Order[]; ahead: Schemas["LorryAhead"][] }) {
  const { day } = useWindowView();
  const written = momentFormat(day.time_zone, { weekday: "short", day: "numeric", month: "short", ...HANDS });
  const stranded = orders.filter(({ lorry }) => !lorry);
  const lorries = lorriesOf(orders);
  return (
    <>
      <h2 className="font-bold text-base">Later orders</h2>
      <p className="pb-2 text-ink-2 text-xs">They are kept, and planned once the window reaches their lorry.</p>
      {stranded.length > 0 && <Stranded orders={stranded.map(({ order }) => order)} ahead={ahead} />}
      {lorries.length > 0 && (
        <table className="mt-1 w-full max-w-xl text-sm">
          <thead>
            <tr className="border-rule border-b text-left text-ink-2 text-xs">
              <th className="py-1.5 font-semibold">Lorry</th>
              <th className="py-1.5 font-semibold">leaves</th>
              <th className="py-1.5 text-right font-semibold">orders</th>
              <th className="py-1.5 text-right font-semibold">packs</th>
            </tr>
          </thead>
          <tbody>
            {lorries.map((lorry) => (
              <tr key={`${lorry.name} ${lorry.leaves}`} className="border-rule border-b">
                <td className="py-1">{lorry.name}</td>
                <td className="py-1">{written.format(new Date(lorry.leaves))}</td>
                <td className="py-1 text-right">{whole(lorry.orders)}</td>
                <td className="py-1 text-right">{whole(lorry.packs)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}
