import { useState } from "react";
import { Dialog } from "../ui/Dialog";
import { keysAct, letKeysAct } from "../ui/useKeys";

const KEYS: [string, [string, string][]][] = [
  [
    "Everywhere",
    [
      ["1 … 9", "Orders, Plan, Materials, Dough room, Now, Capacity, Plant, Calculators, Walk"],
      ["/ or Ctrl K", "go to a run, a product, a screen"],
      ["?", "these keys"],
    ],
  ],
  [
    "Plan",
    [
      ["j  k", "next run, run before"],
      ["Space  Enter", "on a run: choose it; choose it and go to its panel"],
      ["Esc", "back from the panel to the run; no run chosen"],
      ["+  −  0", "closer, wider, whole day"],
      ["← →", "earlier, later"],
      ["n", "search for a better plan"],
      ["v", "versions, and comparing them"],
      ["u  r", "undo, redo; also Ctrl Z, Ctrl Y"],
      ["b", "the chosen run's batch cards"],
      ["[  ]", "the chosen run earlier, later in the order"],
      [",  .", "it 5 minutes earlier, later, and pinned"],
      ["p", "pin it, or unpin it"],
      ["s  m", "split it in half, join it with the next"],
    ],
  ],
  ["Dough room", [["j  k", "next batch, batch before"]]],
  ["Capacity", [["j  k", "next station, station before"]]],
  ["Materials", [["j  k", "next item, item before"]]],
];

export function Help({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  const [act, setAct] = useState(keysAct);
  return (
    <Dialog open={open} onOpenChange={onOpenChange} title="Keys">
      <label className="mb-3 flex items-center gap-2 text-sm">
        <input
          type="checkbox"
          checked={act}
          onChange={(event) => {
            letKeysAct(event.target.checked);
            setAct(event.target.checked);
          }}
          className="h-5 w-5"
        />
        Keys without Ctrl act
      </label>
      {KEYS.map(([where, keys]) => (
        <section key={where} className="mb-3">
          <h3 className="font-semibold text-muted text-xs">{where}</h3>
          <dl>
            {keys.map(([key, does]) => (
              <div key={key} className="flex gap-4 border-rule border-b py-1 text-sm">
                <dt className="w-28 font-bold">{key}</dt>
                <dd>{does}</dd>
              </div>
            ))}
          </dl>
        </section>
      ))}
    </Dialog>
  );
}
