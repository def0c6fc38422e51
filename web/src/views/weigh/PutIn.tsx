/** One ingredient: how much, out of which lot, and what the scale shows. */
import { type FormEvent, useState } from "react";
import type { Schemas } from "../../api/client";
import { type BatchOf, useShown, useWeigh } from "../../api/queries";
import { kilograms } from "../../app/format";
import { useUnits } from "../../app/units";
import { useMinuteNow } from "../../app/useMinuteNow";
import { Button, Panel, Refused } from "../../ui/parts";
import { useWindowView } from "../planningWindow";

type Guide = Schemas["Guide"];
type Step = Guide["steps"][number];
type Lot = Step["lots"][number];

type Props = { batch: BatchOf; guide: Guide; step: Step; onDone: () => void };

const GRAMS = 1_000;

export function PutIn({ batch, guide, step, onDone }: Props) {
  const { clock } = useWindowView();
  const now = useMinuteNow();
  const units = useUnits();
  const weigh = useWeigh();
  const scale = useShown(guide.line, guide.station, "weight");
  const [uuid] = useState(() => crypto.randomUUID());
  const [lot, setLot] = useState(() => step.lots.find((one) => one.refused == null)?.lot);
  const [text, setText] = useState("");
  const [read, setRead] = useState(false);
  const [reason, setReason] = useState("");
  const mass = (grams: number) =>
    units.system === "us" ? units.shown(grams / GRAMS, "scaled mass") : kilograms(grams);
  const kg = units.name("scaled mass", "kg");
  const left = Math.max(0, step.grams - step.weighed_g);
  const typed = units.typed(text, "scaled mass");
  const grams = typed === undefined ? undefined : Math.round(Number(typed) * GRAMS);
  const total = step.weighed_g + (grams ?? 0);
  const over = grams !== undefined && total > step.high_g;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (grams === undefined || grams < 1) return;
    weigh.mutate(
      {
        ...batch,
        uuid,
        ingredient: step.ingredient,
        lot: lot ?? null,
        grams,
        reason,
        scale: read ? (scale.data?.path ?? null) : null,
        at: clock.stamp(now),
      },
      { onSuccess: onDone },
    );
  };
  const shown = scale.data?.value;
  return (
    <Panel label={step.name} className="p-5">
      <form onSubmit={submit}>
        <h2 className="font-bold text-2xl">{step.name}</h2>
        {step.allergens.length > 0 && (
          <p className="font-semibold text-ember text-sm">allergen: {step.allergens.join(", ")}</p>
        )}
        <p className="mt-1 font-extrabold text-6xl leading-none" data-figure="to-weigh">
          {mass(left)} <span className="font-normal text-2xl text-ink-2">{kg}</span>
        </p>
        <p className="mt-1 text-ink-2">
          {step.weighed_g > 0 && `${mass(step.weighed_g)} ${kg} are in. `}
          {mass(step.low_g)} to {mass(step.high_g)} {kg} is good.
        </p>
        {step.lots.length > 0 && (
          <fieldset className="mt-4">
            <legend className="text-sm">Out of lot, the oldest first</legend>
            <Scan lots={step.lots} what={step.name} onLot={setLot} />
            <div className="mt-1 grid gap-1.5">
              {step.lots.map((one) => (
                <LotChoice key={one.lot} one={one} chosen={one.lot === lot} onChoose={() => setLot(one.lot)} />
              ))}
            </div>
          </fieldset>
        )}
        {step.lots.length === 0 && step.role !== "water" && (
          <p className="mt-3 text-ember text-sm">No lot of it is known: it will be weighed in without one.</p>
        )}
        <div className="mt-4 flex flex-wrap items-end gap-3">
          <label className="text-sm">
            On the scale
            <span className="mt-1 flex items-center gap-2">
              <input
                inputMode="decimal"
                autoComplete="off"
                value={text}
                onChange={(event) => {
                  setText(event.target.value);
                  setRead(false);
                }}
                className="w-44 rounded-lg border-2 border-ink bg-paper px-3 py-2 font-bold text-3xl"
              />
              <span className="text-lg">{kg}</span>
            </span>
          </label>
          {!!shown && (
            <Button
              size="large"
              className="text-lg"
              onClick={() => {
                setText(mass(shown).replaceAll(",", ""));
                setRead(true);
              }}
            >
              Take {mass(shown)} {kg} from the {scale.data?.simulated && "simulated "}scale
            </Button>
          )}
          <Button size="large" className="text-lg" onClick={() => setText(mass(left).replaceAll(",", ""))}>
            As asked
          </Button>
          <Button
            type="submit"
            weight="strong"
            disabled={grams === undefined || grams < 1 || weigh.isPending}
            size="large"
            className="text-lg"
          >
            It is in
          </Button>
        </div>
        {(over || reason !== "" || weigh.isError) && (
          <label className="mt-3 block text-sm">
            {over ? "That is too much. Why it goes in so" : "Why it goes in so, where it is off"}
            <input
              value={reason}
              maxLength={200}
              onChange={(event) => setReason(event.target.value)}
              className="mt-1 block min-h-[48px] w-full rounded-lg border border-trail/60 bg-ground px-3 py-2 text-base"
            />
          </label>
        )}
        {weigh.isError && (
          <div className="mt-3">
            <Refused error={weigh.error} />
          </div>
        )}
      </form>
    </Panel>
  );
}

/** A lot by the code on its bag: a scanner types it and ends with Enter; so may a hand. */
function Scan({ lots, what, onLot }: { lots: Lot[]; what: string; onLot: (lot: number) => void }) {
  const [code, setCode] = useState("");
  const [says, setSays] = useState<{ text: string; good: boolean }>();
  const take = () => {
    const read = code.trim();
    const number = Number(/\/lots\/(\d+)$/.exec(read)?.[1]);
    const found = lots.find((one) => one.lot === number || one.code === read || one.supplier === read);
    setCode("");
    if (!found) setSays({ text: `${read} is no lot of ${what} that is there.`, good: false });
    else if (found.refused != null) setSays({ text: `${found.code} is refused: ${found.refused}.`, good: false });
    else {
      setSays({ text: `${found.code} is taken.`, good: true });
      onLot(found.lot);
    }
  };
  return (
    <div className="mt-1 flex flex-wrap items-center gap-3">
      <input
        aria-label="Scan or type the code of a lot"
        placeholder="scan or type its code"
        autoComplete="off"
        value={code}
        onChange={(event) => setCode(event.target.value)}
        onKeyDown={(event) => {
          if (event.key !== "Enter") return;
          event.preventDefault();
          if (code.trim() !== "") take();
        }}
        className="min-h-[48px] w-72 rounded-lg border border-trail/60 bg-ground px-3 py-2 text-base"
      />
      {says && (
        <p role="status" className={`text-sm ${says.good ? "text-steam" : "font-semibold text-ember"}`}>
          {says.text}
        </p>
      )}
    </div>
  );
}

function LotChoice({ one, chosen, onChoose }: { one: Lot; chosen: boolean; onChoose: () => void }) {
  const units = useUnits();
  return (
    <button
      type="button"
      aria-pressed={chosen}
      disabled={one.refused != null}
      onClick={onChoose}
      className="flex min-h-[48px] items-center justify-between gap-3 rounded-lg border border-trail/60 bg-paper px-3 py-2 text-left text-sm hover:border-crust disabled:opacity-70 aria-pressed:border-2 aria-pressed:border-crust aria-pressed:font-bold"
    >
      <span>
        {one.code}
        {one.refused != null && <span className="block font-semibold text-ember text-xs">{one.refused}</span>}
      </span>
      <span className="whitespace-nowrap text-ink-2 text-xs">
        {units.system === "us" ? units.shown(one.left_kg, "dough mass") : kilograms(one.left_kg * GRAMS)}{" "}
        {units.name("dough mass", "kg")} left
        {one.best_before && `, best before ${one.best_before}`}
      </span>
    </button>
  );
}
