/** Today's figures, entered once; every card that is not mixed yet follows. */
import { type FormEvent, useState } from "react";
import type { Schemas } from "../../api/client";
import { useSetConditions } from "../../api/queries";
import { useUnits } from "../../app/units";
import { Dialog } from "../../ui/Dialog";
import { Button, Refused } from "../../ui/parts";
import { useWindowView } from "../planningWindow";

type Conditions = Schemas["Conditions"];
type Named = Exclude<keyof Conditions, "by_hour" | "room_course">;
type Field = { name: Named; label: string; quantity: string; unit: string; needed: boolean };

const FIELDS: Field[] = [
  { name: "room_c", label: "Room", quantity: "temperature", unit: "", needed: true },
  { name: "flour_c", label: "Flour", quantity: "temperature", unit: "", needed: true },
  { name: "tap_c", label: "Tap water", quantity: "temperature", unit: "", needed: true },
  { name: "chilled_c", label: "Water from the chiller", quantity: "temperature", unit: "", needed: false },
  { name: "humidity_pct", label: "Humidity of the room", quantity: "", unit: "%", needed: false },
  { name: "flour_moisture_pct", label: "Moisture of the flour", quantity: "", unit: "%", needed: false },
];

export function ConditionsDialog({ onClose }: { onClose: () => void }) {
  const { day } = useWindowView();
  const units = useUnits();
  const save = useSetConditions();
  const [texts, setTexts] = useState<Record<string, string>>(() =>
    Object.fromEntries(
      FIELDS.map(({ name, quantity }) => {
        const value = day.conditions[name];
        return [name, value == null ? "" : units.shown(value, quantity)];
      }),
    ),
  );
  const before = day.conditions.room_course;
  const [course, setCourse] = useState(() => ({
    low: before ? units.shown(before.low_c, "temperature") : "",
    high: before ? units.shown(before.high_c, "temperature") : "",
    at: day.warmest_at?.slice(0, 5) ?? "",
  }));
  const low = units.typed(course.low, "temperature");
  const high = units.typed(course.high, "temperature");
  const steady = [course.low, course.high, course.at].every((text) => text.trim() === "");
  const courseWrong = !steady && (low === undefined || high === undefined || low > high || course.at === "");
  const typed = ({ name, quantity }: Field) => units.typed(texts[name] ?? "", quantity);
  const empty = ({ name }: Field) => (texts[name] ?? "").trim() === "";
  const wrong = FIELDS.filter((field) => typed(field) === undefined && (field.needed || !empty(field)));
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const entered = FIELDS.map((field) => [field.name, empty(field) ? null : Number(typed(field))]);
    const room = steady ? null : { low_c: Number(low), high_c: Number(high), warmest_at: course.at };
    save.mutate({ ...(Object.fromEntries(entered) as Conditions), room }, { onSuccess: onClose });
  };
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title="Today's conditions">
      <form onSubmit={submit} className="grid gap-3">
        {FIELDS.map(({ name, label, quantity, unit, needed }) => (
          <label key={name} className="flex items-center justify-between gap-4">
            <span>
              {label}
              {!needed && <span className="block text-ink-2 text-xs">empty where it is not known</span>}
            </span>
            <span className="flex items-center gap-2">
              <input
                inputMode="decimal"
                value={texts[name]}
                onChange={(event) => setTexts({ ...texts, [name]: event.target.value })}
                className="w-28 rounded-lg border border-trail/60 bg-ground px-3 py-2 text-right text-lg"
              />
              <span className="w-6">{units.name(quantity, unit)}</span>
            </span>
          </label>
        ))}
        <fieldset className="grid gap-2 border-rule border-t pt-3">
          <legend className="font-semibold text-sm">The room by the hour</legend>
          <p className="text-ink-2 text-xs">
            What the day brings: each batch is mixed, and each run cooled, in the room of its hour. Empty: the room
            stays as it is.
          </p>
          <div className="grid grid-cols-3 gap-3">
            {(
              [
                ["low", "Coolest", "text"],
                ["high", "Warmest", "text"],
                ["at", "Warmest at", "time"],
              ] as const
            ).map(([part, label, type]) => (
              <label key={part} className="grid min-w-0 gap-1 text-sm">
                {label}
                {type === "text" && ` (${units.name("temperature")})`}
                <input
                  type={type}
                  inputMode={type === "text" ? "decimal" : undefined}
                  value={course[part]}
                  onChange={(event) => setCourse({ ...course, [part]: event.target.value })}
                  className="w-full min-w-0 rounded-lg border border-trail/60 bg-ground px-3 py-2 text-right"
                />
              </label>
            ))}
          </div>
        </fieldset>
        {courseWrong && (
          <p className="text-ember text-sm">
            The room by the hour: needs both temperatures, the coolest not above the warmest, and the time; or none.
          </p>
        )}
        {wrong.length > 0 && (
          <p className="text-ember text-sm">{wrong.map(({ label }) => label).join(", ")}: a number is needed.</p>
        )}
        <p className="text-ink-2 text-xs">
          A measured moisture corrects flour and water; without one, the plant's rule on humidity corrects the water.
        </p>
        {save.isError && <Refused error={save.error} />}
        <Button
          type="submit"
          weight="strong"
          disabled={wrong.length > 0 || courseWrong || save.isPending}
          className="justify-self-end"
        >
          Use these
        </Button>
      </form>
    </Dialog>
  );
}
