/** An order that comes in when the plan is made: into the book, and into the plan with as little change as may be. */
import { useState } from "react";
import { useNavigate } from "react-router";
import { useOrders, useUrgentOrder } from "../../api/queries";
import { Dialog } from "../../ui/Dialog";
import { Pick } from "../../ui/Pick";
import { Button, Refused } from "../../ui/parts";
import { useWindowView } from "../planningWindow";

type Props = { open: boolean; onOpenChange: (open: boolean) => void };

export function UrgentOrder({ open, onOpenChange }: Props) {
  return (
    <Dialog open={open} onOpenChange={onOpenChange} title="An urgent order">
      <Form onDone={() => onOpenChange(false)} />
    </Dialog>
  );
}

function Form({ onDone }: { onDone: () => void }) {
  const { day, clock } = useWindowView();
  const take = useUrgentOrder();
  const navigate = useNavigate();
  const [product, setProduct] = useState(day.products[0]?.id ?? "");
  const known = useOrders().data?.ahead ?? [];
  const ahead = day.waves.filter((found) => known.some((lorry) => lorry.id === found.id));
  const [picked, setWave] = useState<string>();
  const wave = picked ?? ahead[0]?.id ?? "";
  const [packs, setPacks] = useState("200");
  const [number, setNumber] = useState("");
  const [fresh, setFresh] = useState("");
  const line = day.products.find((found) => found.id === product)?.line;
  return (
    <form
      className="grid gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        take.mutate(
          { id: number.trim(), product, wave, packs: Number(packs), fresh_for_h: fresh ? Number(fresh) : null },
          {
            onSuccess: (made) => {
              onDone();
              navigate(`/plan/${made.version}?line=${line}`);
            },
          },
        );
      }}
    >
      <div className="flex flex-wrap gap-2">
        <Pick
          label="Product"
          value={product}
          onChange={setProduct}
          options={day.products.map((found) => ({
            value: found.id,
            label: found.name,
            group: day.lines.find((entry) => entry.id === found.line)?.name,
          }))}
        />
        <Pick
          label="Lorry"
          value={wave}
          onChange={setWave}
          options={ahead.map((found) => ({
            value: found.id,
            label: `${found.name} ${clock.time(found.departs_min)}`,
          }))}
        />
      </div>
      <div className="flex flex-wrap gap-3 text-sm">
        <label>
          <span className="block text-ink-2 text-xs">Packs</span>
          <input
            type="number"
            required
            min={1}
            max={100000}
            className="w-28 rounded border border-trail/60 bg-ground px-2 py-1.5 text-right"
            value={packs}
            onChange={(event) => setPacks(event.target.value)}
          />
        </label>
        <label>
          <span className="block text-ink-2 text-xs">At most so many hours old</span>
          <input
            type="number"
            min={0.5}
            max={10000}
            step={0.5}
            placeholder="as the product"
            className="w-40 rounded border border-trail/60 bg-ground px-2 py-1.5 text-right"
            value={fresh}
            onChange={(event) => setFresh(event.target.value)}
          />
        </label>
        <label>
          <span className="block text-ink-2 text-xs">Order number</span>
          <input
            required
            maxLength={40}
            className="w-40 rounded border border-trail/60 bg-ground px-2 py-1.5"
            value={number}
            onChange={(event) => setNumber(event.target.value)}
          />
        </label>
      </div>
      <p className="text-ink-2 text-xs">
        It goes into the order book and into the newest plan, at the place where it costs least. What moves for it is
        shown there; undo restores the plan.
      </p>
      {take.isError && <Refused error={take.error} />}
      <div className="flex justify-end">
        <Button type="submit" weight="strong" disabled={take.isPending}>
          Add
        </Button>
      </div>
    </form>
  );
}
