/** Orders whose lorry does not leave: ticked, and given to another. */
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useMoveOrders } from "../../api/queries";
import { plural, whole } from "../../app/format";
import { HANDS, momentFormat } from "../../app/moments";
import { Button, Notice, Refused } from "../../ui/parts";
import { useWindowView } from "../planningWindow";

type Order = Schemas["BeyondOrder"]["order"];
type Props = { orders: Order[]; ahead: Schemas["LorryAhead"][] };

const lineOf = (order: Order) => `${order.id} ${order.product} ${order.wave}`;

export function Stranded({ orders, ahead }: Props) {
  const { day, names } = useWindowView();
  const move = useMoveOrders();
  const [left, setLeft] = useState<string[]>([]);
  const [to, setTo] = useState(ahead[0]?.id ?? "");
  const written = momentFormat(day.time_zone, { weekday: "short", day: "numeric", month: "short", ...HANDS });
  const going = orders.filter((order) => !left.includes(lineOf(order)));
  const give = () =>
    move.mutate({ orders: going.map((order) => ({ number: order.id, product: order.product, wave: order.wave })), to });
  return (
    <Notice tone="wrong" title={`${plural(orders.length, "order")} without a lorry`}>
      <p>
        The lorry they were for does not leave.{" "}
        <Link to="/calendar" className="font-semibold underline">
          Let it leave, or add one
        </Link>
        , or give them to another.
      </p>
      <ul className="mt-1 max-h-56 overflow-auto">
        {orders.map((order) => (
          <li key={lineOf(order)}>
            <label className="flex items-center gap-2">
              <input
                type="checkbox"
                className="accent-crust"
                checked={!left.includes(lineOf(order))}
                onChange={(event) =>
                  setLeft(event.target.checked ? left.filter((one) => one !== lineOf(order)) : [...left, lineOf(order)])
                }
              />
              {order.id}: {whole(order.packs)} {names.get(order.product)}
            </label>
          </li>
        ))}
      </ul>
      {ahead.length > 0 && (
        <div className="mt-2 flex flex-wrap items-center gap-2">
          <select
            aria-label="Another lorry"
            value={to}
            onChange={(event) => setTo(event.target.value)}
            className="rounded border border-trail/60 bg-ground px-2 py-1.5 text-sm"
          >
            {ahead.map((lorry) => (
              <option key={lorry.id} value={lorry.id}>
                {lorry.name}, {written.format(new Date(lorry.leaves))}
              </option>
            ))}
          </select>
          <Button disabled={going.length === 0 || move.isPending} onClick={give}>
            Give {plural(going.length, "order")} to it
          </Button>
        </div>
      )}
      {move.isError && <Refused error={move.error} />}
    </Notice>
  );
}
