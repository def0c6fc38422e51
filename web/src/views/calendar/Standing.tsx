/** Standing orders: packs that a lorry takes on some days of every week. */
import { useState } from "react";
import type { Calendar } from "../../api/client";
import { Button } from "../../ui/parts";
import { useWindowView } from "../planningWindow";
import { type EditCalendar, EVERY_DAY, put } from "./days";
import { Weekdays } from "./Weekdays";

const FIELD = "rounded border border-trail/60 bg-ground px-2 py-1 text-ink text-sm";

type Standing = NonNullable<Calendar["standing"]>[number];

export function StandingOrders({ calendar, edit }: { calendar: Calendar; edit: EditCalendar }) {
  const { day, names } = useWindowView();
  const standing = calendar.standing ?? [];
  const lorries = calendar.lorries ?? [];
  const [number, setNumber] = useState("");
  const [lorry, setLorry] = useState(lorries[0]?.id ?? "");
  const [product, setProduct] = useState(day.products[0]?.id ?? "");
  const [packs, setPacks] = useState("");
  const set = (place: number, parts: Partial<Standing>) =>
    edit({ standing: standing.map((order, at) => (at === place ? { ...order, ...parts } : order)) });
  const complete = number.trim() !== "" && Number(packs) >= 1 && lorry !== "" && product !== "";
  const add = () => {
    const weekly = { weekdays: EVERY_DAY, valid_from: null, valid_until: null, customer: null, fresh_for_h: null };
    edit({
      standing: [...standing, { ...weekly, number: number.trim(), lorry, product, packs: Math.round(Number(packs)) }],
    });
    setNumber("");
    setPacks("");
  };
  return (
    <>
      <h2 className="font-bold text-base">Standing orders</h2>
      <p className="pb-1 text-ink-2 text-xs">
        New ones come into the book for the lorries of the window at once, and all of them with every next day. Changing
        or taking away one changes what comes from then on; what is in the book is changed on the Orders page.
      </p>
      <ul>
        {standing.map((order, place) => (
          <li
            key={`${order.number} ${order.product} ${order.lorry}`}
            className="flex flex-wrap items-center gap-x-3 gap-y-1 border-rule border-b py-1.5 text-sm"
          >
            <span className="font-semibold">{order.number}</span>
            <span className="min-w-56 flex-1">
              {names.get(order.product) ?? order.product}, {lorries.find((one) => one.id === order.lorry)?.name}
            </span>
            <label className="text-ink-2 text-xs">
              <input
                type="number"
                min={1}
                aria-label={`Packs of ${order.number}`}
                className={`${FIELD} w-24 text-right`}
                value={order.packs}
                onChange={(event) => set(place, { packs: Math.max(1, Math.round(Number(event.target.value))) })}
              />{" "}
              packs
            </label>
            <label className="text-ink-2 text-xs">
              <input
                type="number"
                min={0.5}
                max={10000}
                step={0.5}
                placeholder="any"
                aria-label={`Hours old at most of ${order.number}`}
                className={`${FIELD} w-20 text-right`}
                value={order.fresh_for_h ?? ""}
                onChange={(event) =>
                  set(place, { fresh_for_h: Number(event.target.value) >= 0.5 ? Number(event.target.value) : null })
                }
              />{" "}
              h old at most
            </label>
            <Weekdays
              name={`${order.number} on`}
              days={order.weekdays ?? EVERY_DAY}
              onChange={(weekdays) => set(place, { weekdays })}
            />
            <Button
              className="min-h-8"
              aria-label={`Delete ${order.number}`}
              onClick={() => edit({ standing: put(standing, place, undefined) })}
            >
              Delete
            </Button>
          </li>
        ))}
      </ul>
      <form
        className="mt-2 flex flex-wrap items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (complete) add();
        }}
      >
        <input
          aria-label="Number of a standing order"
          placeholder="number"
          maxLength={30}
          className={`${FIELD} w-28`}
          value={number}
          onChange={(event) => setNumber(event.target.value)}
        />
        <select
          aria-label="Product of a standing order"
          className={FIELD}
          value={product}
          onChange={(event) => setProduct(event.target.value)}
        >
          {day.products.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </select>
        <select
          aria-label="Lorry of a standing order"
          className={FIELD}
          value={lorry}
          onChange={(event) => setLorry(event.target.value)}
        >
          {lorries.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </select>
        <input
          inputMode="numeric"
          aria-label="Packs of a standing order"
          placeholder="packs"
          className={`${FIELD} w-24 text-right`}
          value={packs}
          onChange={(event) => setPacks(event.target.value)}
        />
        <Button type="submit" disabled={!complete}>
          Add
        </Button>
      </form>
    </>
  );
}
