/** Room, flour and tap, entered once; every card that is not mixed yet follows. */
import { type FormEvent, useState } from "react";
import { useSetConditions } from "../../api/queries";
import { useUnits } from "../../app/units";
import { Dialog } from "../../ui/Dialog";
import { Button, Refused } from "../../ui/parts";
import { useDayView } from "../day";

const ASKED = [
  ["room_c", "Room"],
  ["flour_c", "Flour"],
  ["tap_c", "Tap water"],
] as const;

export function ConditionsDialog({ onClose }: { onClose: () => void }) {
  const { day } = useDayView();
  const units = useUnits();
  const save = useSetConditions();
  const [texts, setTexts] = useState(() =>
    Object.fromEntries(ASKED.map(([name]) => [name, units.shown(day.conditions[name], "temperature")])),
  );
  const wrong = ASKED.filter(([name]) => units.typed(texts[name] ?? "", "temperature") === undefined);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const celsius = (name: string) => Number(units.typed(texts[name] ?? "", "temperature"));
    const wanted = { room_c: celsius("room_c"), flour_c: celsius("flour_c"), tap_c: celsius("tap_c") };
    save.mutate(wanted, { onSuccess: onClose });
  };
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title="Today's conditions">
      <form onSubmit={submit} className="grid gap-3">
        {ASKED.map(([name, label]) => (
          <label key={name} className="flex items-center justify-between gap-4">
            {label}
            <span>
              <input
                inputMode="decimal"
                value={texts[name]}
                onChange={(event) => setTexts({ ...texts, [name]: event.target.value })}
                className="w-28 rounded-lg border border-trail/60 bg-ground px-3 py-2 text-right text-lg"
              />{" "}
              {units.name("temperature")}
            </span>
          </label>
        ))}
        {wrong.length > 0 && (
          <p className="text-ember text-sm">{wrong.map(([, label]) => label).join(", ")}: a number is needed.</p>
        )}
        {save.isError && <Refused error={save.error} />}
        <Button
          type="submit"
          weight="strong"
          disabled={wrong.length > 0 || save.isPending}
          className="justify-self-end"
        >
          Use these
        </Button>
      </form>
    </Dialog>
  );
}
