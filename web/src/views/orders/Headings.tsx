/** A customer's own headings: which of theirs is which of ours, kept by a name. */
import { useState } from "react";
import { useKeepColumns } from "../../api/queries";
import { Choice } from "../../ui/Choice";
import { Button, Notice, Refused } from "../../ui/parts";

type Ours = "order" | "dispatch" | "product" | "packs" | "priority" | "fresh_h" | "customer" | "reference";

const OURS: { key: Ours; label: string; needed: boolean }[] = [
  { key: "order", label: "order number", needed: true },
  { key: "dispatch", label: "lorry, or when it leaves", needed: true },
  { key: "product", label: "product", needed: true },
  { key: "packs", label: "packs", needed: true },
  { key: "priority", label: "priority", needed: false },
  { key: "fresh_h", label: "hours that packs may be old at the lorry", needed: false },
  { key: "customer", label: "customer", needed: false },
  { key: "reference", label: "the customer's reference", needed: false },
];

type Props = { headings: string[]; firstRow: string[]; onKept: (name: string) => void };

const A_FIGURE = /^[\d.,']+$/;

export function Headings({ headings, firstRow, onKept }: Props) {
  const keep = useKeepColumns();
  const [name, setName] = useState("");
  const [first, setFirst] = useState<"headings" | "order">(
    firstRow.some((cell) => A_FIGURE.test(cell)) ? "order" : "headings",
  );
  const [chosen, setChosen] = useState<Partial<Record<Ours, string>>>({});
  const columns =
    first === "headings"
      ? headings.map((heading) => ({ value: heading, label: heading }))
      : firstRow.map((cell, place) => ({ value: String(place + 1), label: `column ${place + 1}: ${cell}` }));
  const complete = OURS.every(({ key, needed }) => !needed || chosen[key]) && name.trim() !== "";
  const submit = () => {
    const named: Record<string, string> = {};
    for (const [ours, heading] of Object.entries(chosen)) if (heading) named[ours] = heading;
    keep.mutate(
      { name: name.trim(), headings: named, has_header: first === "headings" },
      { onSuccess: () => onKept(name.trim()) },
    );
  };
  return (
    <Notice title="This file has columns of its own. Say once which is which.">
      <Choice
        label="What the first row holds"
        value={first}
        onChange={(held) => {
          setFirst(held);
          setChosen({});
        }}
        options={[
          { value: "headings", label: "The first row has headings" },
          { value: "order", label: "The first row is an order already" },
        ]}
      />
      <div className="grid gap-2 py-1 sm:grid-cols-2 lg:grid-cols-4">
        {OURS.map(({ key, label, needed }) => (
          <label key={key} className="text-ink-2 text-xs">
            {label}
            {needed ? "" : ", if it has that"}
            <select
              className="mt-0.5 block w-full rounded border border-trail/60 bg-ground px-2 py-1 text-ink text-sm"
              value={chosen[key] ?? ""}
              onChange={(event) => setChosen({ ...chosen, [key]: event.target.value })}
            >
              <option value="">–</option>
              {columns.map(({ value, label: said }) => (
                <option key={value} value={value}>
                  {said}
                </option>
              ))}
            </select>
          </label>
        ))}
        <label className="text-ink-2 text-xs">
          keep as
          <input
            className="mt-0.5 block w-full rounded border border-trail/60 bg-ground px-2 py-1 text-ink text-sm"
            placeholder="the customer's name"
            maxLength={80}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
      </div>
      <Button weight="strong" disabled={!complete || keep.isPending} onClick={submit}>
        Keep, and read again
      </Button>
      {keep.isError && <Refused error={keep.error} />}
    </Notice>
  );
}
