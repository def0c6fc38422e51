/** One order line with other packs, or cancelled. */
import { type FormEvent, useState } from "react";
import type { Schemas } from "../../api/client";
import { useChangeOrder } from "../../api/queries";
import { Dialog } from "../../ui/Dialog";
import { Button, Refused } from "../../ui/parts";

type Props = { order: Schemas["MovedOrder"]; packs: number; said: string; onDone: () => void };

export function ChangeOrder({ order, packs, said, onDone }: Props) {
  const change = useChangeOrder();
  const [text, setText] = useState(String(packs));
  const save = (event: FormEvent) => {
    event.preventDefault();
    change.mutate({ order, packs: Number(text) }, { onSuccess: onDone });
  };
  return (
    <Dialog open onOpenChange={(open) => !open && onDone()} title={said}>
      <form onSubmit={save} className="grid gap-3">
        <label className="text-sm">
          <span className="block text-ink-2 text-xs">Packs</span>
          <input
            type="number"
            required
            min={1}
            max={100000}
            value={text}
            onChange={(event) => setText(event.target.value)}
            className="w-32 rounded border border-trail/60 bg-ground px-2 py-1.5 text-right"
          />
        </label>
        <p className="text-ink-2 text-xs">
          The next order book has it so; the plan is out of date until it is fitted. The history restores the book
          before.
        </p>
        {change.isError && <Refused error={change.error} />}
        <div className="flex justify-end gap-2">
          <Button
            disabled={change.isPending}
            onClick={() => change.mutate({ order, packs: null }, { onSuccess: onDone })}
          >
            Cancel the order line
          </Button>
          <Button type="submit" weight="strong" disabled={change.isPending || Number(text) === packs}>
            Save
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
