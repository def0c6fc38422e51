/** To hold a lot, to release it, or to scrap packs of it: with a reason, and what that costs. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useHold, useRelease, useScrap } from "../../api/queries";
import { plural, whole } from "../../app/format";
import { Dialog } from "../../ui/Dialog";
import { Button, Notice, Refused } from "../../ui/parts";
import { WASTE_CAUSES, type WasteCause } from "../../ui/wasteCauses";
import { useWindowView } from "../planningWindow";

type View = Schemas["LotView"];
type Costs = Schemas["HeldLots"]["costs"];

export type LotAct = "hold" | "release" | "scrap";

const WORDS: Record<LotAct, { title: string; yes: string; why: string }> = {
  hold: { title: "Hold", yes: "Hold", why: "Why it is held" },
  release: { title: "Release", yes: "Release", why: "Why it may go" },
  scrap: { title: "Scrap packs", yes: "Scrap", why: "What else is to be said of it" },
};

export function LotDialog({ act, view, onClose }: { act: LotAct; view: View; onClose: () => void }) {
  const [reason, setReason] = useState("");
  const [onward, setOnward] = useState(true);
  const [packs, setPacks] = useState("");
  const [cause, setCause] = useState<WasteCause | "">("");
  const hold = useHold();
  const release = useRelease();
  const scrap = useScrap();
  const { number } = view.line.lot;
  const going = { hold, release, scrap }[act];
  const others = view.trace.went_into.length;
  const done: Costs | undefined = going.data?.costs;
  const submit = () => {
    if (act === "scrap") {
      if (cause) scrap.mutate({ number, cause, reason, packs: Number(packs) });
    } else (act === "hold" ? hold : release).mutate({ number, reason, onward });
  };
  const words = WORDS[act];
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title={`${words.title}: ${view.line.lot.code}`}>
      {done ? (
        <Done costs={done} onClose={onClose} />
      ) : (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            submit();
          }}
        >
          {act === "scrap" && (
            <label className="mb-3 block text-sm">
              Packs, of {whole(view.line.left)} that are there
              <input
                inputMode="numeric"
                value={packs}
                onChange={(event) => setPacks(event.target.value)}
                className="mt-1 block w-32 rounded-lg border border-trail/60 bg-ground px-3 py-2 text-base"
              />
            </label>
          )}
          {act === "scrap" && (
            <label className="mb-3 block text-sm">
              Why they are scrapped
              <select
                value={cause}
                onChange={(event) => setCause(event.target.value as WasteCause | "")}
                className="mt-1 block w-full rounded-lg border border-trail/60 bg-ground px-3 py-2 text-base"
              >
                <option value="">choose a cause</option>
                {WASTE_CAUSES.map((one) => (
                  <option key={one} value={one}>
                    {one}
                  </option>
                ))}
              </select>
            </label>
          )}
          <label className="block text-sm">
            {words.why}
            <input
              value={reason}
              maxLength={200}
              onChange={(event) => setReason(event.target.value)}
              className="mt-1 block w-full rounded-lg border border-trail/60 bg-ground px-3 py-2 text-base"
            />
          </label>
          {act !== "scrap" && others > 0 && (
            <label className="mt-3 flex items-center gap-2 text-sm">
              <input
                type="checkbox"
                checked={onward}
                onChange={(event) => setOnward(event.target.checked)}
                className="h-5 w-5"
              />
              And all {plural(others, "lot")} that hold some of it
            </label>
          )}
          {going.isError && <Refused error={going.error} />}
          <div className="mt-4 flex justify-end gap-2">
            <Button onClick={onClose}>Cancel</Button>
            <Button
              type="submit"
              weight="strong"
              disabled={going.isPending || (act === "scrap" ? !cause || !(Number(packs) > 0) : reason.trim() === "")}
            >
              {words.yes}
            </Button>
          </div>
        </form>
      )}
    </Dialog>
  );
}

/** What it does to which lorry. */
function Done({ costs, onClose }: { costs: Costs; onClose: () => void }) {
  const { names, waveNames } = useWindowView();
  return (
    <>
      {costs.length === 0 ? (
        <Notice tone="good" title="Done. No lorry gets less, or more, for it." />
      ) : (
        <Notice tone="wrong" title="Done. This is what it does to the lorries; fit the plan to it:">
          <ul>
            {costs.map((cost) => (
              <li key={`${cost.wave} ${cost.product}`}>
                {waveNames.get(cost.wave) ?? cost.wave}: {names.get(cost.product) ?? cost.product} {whole(cost.short)}{" "}
                short, {whole(cost.short_before)} before
              </li>
            ))}
          </ul>
        </Notice>
      )}
      <div className="mt-4 flex justify-end">
        <Button weight="strong" onClick={onClose}>
          Close
        </Button>
      </div>
    </>
  );
}
