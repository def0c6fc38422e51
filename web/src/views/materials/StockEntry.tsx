/** A material counted, or delivered: what comes in by lot and date, and who has entered what. */

import { type FormEvent, useState } from "react";
import type { Supply } from "../../api/client";
import { useCountMaterial, useDeliver, useOpening, useStockEntries } from "../../api/queries";
import { whole } from "../../app/format";
import { HANDS, momentFormat } from "../../app/moments";
import { useUnits } from "../../app/units";
import { Button, Heading, Refused } from "../../ui/parts";
import { useWindowView } from "../planningWindow";

const FIELD = "rounded border border-trail/60 bg-ground px-2 py-1 text-ink text-sm";

/** Amounts as they are typed: kilograms by the reader's units, or pieces. */
function useTyped(unit: string) {
  const units = useUnits();
  const name = unit === "kg" ? units.name("dough mass") : "pieces";
  const read = (text: string) => {
    const found = unit === "kg" ? units.typed(text, "dough mass") : units.typed(text, "");
    return found === undefined || Number(found) < 0 ? undefined : Number(found);
  };
  const shown = (amount: number) => (unit === "kg" ? units.shown(amount, "dough mass") : whole(amount));
  return { name, read, shown };
}

export function StockEntry({ supply }: { supply: Supply }) {
  return (
    <div className="mt-4 grid gap-x-6 gap-y-3 border-rule border-t pt-3 xl:grid-cols-2">
      <Count supply={supply} />
      <Deliver supply={supply} />
      <Coming supply={supply} />
      <Entries />
    </div>
  );
}

function Count({ supply }: { supply: Supply }) {
  const { name, read } = useTyped(supply.unit);
  const count = useCountMaterial();
  const [text, setText] = useState("");
  const [reason, setReason] = useState("");
  const amount = read(text);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (amount === undefined) return;
    const request = { item: supply.item, amount, reason: reason.trim() || "counted" };
    count.mutate(request, { onSuccess: () => setText("") });
  };
  return (
    <form onSubmit={submit}>
      <h3 className="font-bold text-sm">Counted now</h3>
      <div className="mt-1 flex flex-wrap items-center gap-2 text-ink-2 text-xs">
        <input
          inputMode="decimal"
          aria-label={`${supply.name} counted`}
          className={`${FIELD} w-28 text-right`}
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        {name}
        <input
          aria-label="Why it is counted"
          placeholder="why"
          maxLength={80}
          className={`${FIELD} w-36`}
          value={reason}
          onChange={(event) => setReason(event.target.value)}
        />
        <Button type="submit" disabled={amount === undefined || count.isPending}>
          Keep the count
        </Button>
      </div>
      {count.isError && <Refused error={count.error} />}
    </form>
  );
}

function Deliver({ supply }: { supply: Supply }) {
  const { clock } = useWindowView();
  const { name, read } = useTyped(supply.unit);
  const deliver = useDeliver();
  const [text, setText] = useState("");
  const [at, setAt] = useState(() => clock.typed(Math.max(0, clock.minuteNow())));
  const [lot, setLot] = useState("");
  const [best, setBest] = useState("");
  const amount = read(text);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!amount) return;
    const request = {
      item: supply.item,
      amount,
      at,
      lot: lot.trim() || null,
      best_before: best || null,
      allergens: [],
    };
    deliver.mutate(request, { onSuccess: () => setText("") });
  };
  return (
    <form onSubmit={submit}>
      <h3 className="font-bold text-sm">Delivery</h3>
      <div className="mt-1 flex flex-wrap items-center gap-2 text-ink-2 text-xs">
        <input
          inputMode="decimal"
          aria-label={`${supply.name} delivered`}
          className={`${FIELD} w-28 text-right`}
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        {name}
        <input
          type="datetime-local"
          aria-label="When it comes"
          className={FIELD}
          value={at}
          onChange={(event) => setAt(event.target.value || at)}
        />
        <input
          aria-label="Supplier's lot"
          placeholder="supplier's lot"
          maxLength={80}
          className={`${FIELD} w-32`}
          value={lot}
          onChange={(event) => setLot(event.target.value)}
        />
        <label>
          best before{" "}
          <input type="date" className={FIELD} value={best} onChange={(event) => setBest(event.target.value)} />
        </label>
        <Button type="submit" disabled={!amount || deliver.isPending}>
          Enter it
        </Button>
      </div>
      {deliver.isError && <Refused error={deliver.error} />}
    </form>
  );
}

function Coming({ supply }: { supply: Supply }) {
  const { clock } = useWindowView();
  const { name, shown } = useTyped(supply.unit);
  const stock = useOpening().data?.stocks.find((found) => found.item === supply.item);
  const coming = stock?.deliveries ?? [];
  if (coming.length === 0) return null;
  return (
    <div>
      <Heading>Deliveries in the window</Heading>
      <ul>
        {coming.map((one) => (
          <li key={`${one.at_min} ${one.lot} ${one.amount}`} className="border-rule border-b py-1 text-sm">
            <span className="font-semibold">{clock.moment(one.at_min)}</span> {shown(one.amount)} {name}
            {one.lot && `, lot ${one.lot}`}
            {one.best_before && `, best before ${one.best_before}`}
          </li>
        ))}
      </ul>
    </div>
  );
}

const SHOWN_ENTRIES = 6;

function Entries() {
  const { day } = useWindowView();
  const entries = useStockEntries().data ?? [];
  const written = momentFormat(day.time_zone, { day: "numeric", month: "short", ...HANDS });
  const said = entries.filter((one) => one.origin.includes(":") || one.origin.includes("counted"));
  if (said.length === 0) return null;
  return (
    <div>
      <Heading>What was entered last</Heading>
      <ul>
        {said.slice(0, SHOWN_ENTRIES).map((one) => (
          <li key={one.number} className="border-rule border-b py-1 text-sm">
            {one.origin} <span className="text-ink-2 text-xs">{written.format(new Date(one.created_at))}</span>
          </li>
        ))}
      </ul>
    </div>
  );
}
