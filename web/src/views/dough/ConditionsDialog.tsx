/** What the dough room measures now, and how it goes on: as it is, between two figures, hour by hour, by the weather. */
import { type FormEvent, useState } from "react";
import type { Schemas } from "../../api/client";
import { useSetConditions } from "../../api/queries";
import { useUnits } from "../../app/units";
import { Choice } from "../../ui/Choice";
import { Dialog } from "../../ui/Dialog";
import { Button, RefusedOrAsked } from "../../ui/parts";
import { useWindowView } from "../planningWindow";
import { type Course, CourseFields, courseOf, courseWanted } from "./CourseFields";
import { HourFields } from "./HourFields";
import { ReadBefore } from "./ReadBefore";
import { WeatherPanel } from "./WeatherPanel";

type Conditions = Schemas["Conditions"];
type Named = "room_c" | "flour_c" | "tap_c" | "chilled_c" | "humidity_pct" | "flour_moisture_pct";
type Field = { name: Named; label: string; quantity: string; unit: string; needed: boolean };
type Way = "steady" | "course" | "hours" | "weather";

const FIELDS: Field[] = [
  { name: "room_c", label: "Room", quantity: "temperature", unit: "", needed: true },
  { name: "flour_c", label: "Flour", quantity: "temperature", unit: "", needed: true },
  { name: "tap_c", label: "Tap water", quantity: "temperature", unit: "", needed: true },
  { name: "chilled_c", label: "Water from the chiller", quantity: "temperature", unit: "", needed: false },
  { name: "humidity_pct", label: "Humidity of the room", quantity: "", unit: "%", needed: false },
  { name: "flour_moisture_pct", label: "Moisture of the flour", quantity: "", unit: "%", needed: false },
];

const WAYS: { value: Way; label: string }[] = [
  { value: "steady", label: "As it is now" },
  { value: "course", label: "Low and high" },
  { value: "hours", label: "Hour by hour" },
  { value: "weather", label: "By the weather" },
];

function wayOf(conditions: Conditions): Way {
  if (conditions.by_weather) return "weather";
  if (conditions.room_course) return "course";
  return conditions.by_hour?.length ? "hours" : "steady";
}

export function ConditionsDialog({ onClose }: { onClose: () => void }) {
  const { day } = useWindowView();
  const units = useUnits();
  const save = useSetConditions();
  const [texts, setTexts] = useState<Record<string, string>>(() =>
    Object.fromEntries(
      FIELDS.map(({ name, quantity }) => {
        const value = day.conditions_now[name];
        return [name, value == null ? "" : units.shown(value, quantity)];
      }),
    ),
  );
  const [roomRead, setRoomRead] = useState(false);
  const [way, setWay] = useState(() => wayOf(day.conditions));
  const [course, setCourse] = useState<Course>(() => courseOf(day, units));
  const [hours, setHours] = useState(day.conditions.by_hour ?? []);
  const wanted = courseWanted(course, units);
  const typed = ({ name, quantity }: Field) => units.typed(texts[name] ?? "", quantity);
  const empty = ({ name }: Field) => (texts[name] ?? "").trim() === "";
  const wrong = FIELDS.filter((field) => typed(field) === undefined && (field.needed || !empty(field)));
  const courseWrong = way === "course" && wanted === undefined;
  const use = (confirmed: boolean) => {
    const entered = FIELDS.map((field) => [field.name, empty(field) ? null : Number(typed(field))]);
    save.mutate(
      {
        ...(Object.fromEntries(entered) as Conditions),
        by_hour: way === "hours" ? hours : [],
        by_weather: way === "weather",
        room_read: roomRead,
        room: way === "course" ? (wanted ?? null) : null,
        units: units.system,
        confirmed,
      },
      { onSuccess: onClose },
    );
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    use(false);
  };
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title="Conditions">
      <form onSubmit={submit} className="grid gap-3">
        <div className="grid gap-x-5 gap-y-2 sm:grid-cols-2">
          {FIELDS.map(({ name, label, quantity, unit, needed }) => (
            <label key={name} className="flex items-center justify-between gap-3 text-sm">
              <span>
                {label}
                {!needed && <span className="block text-ink-2 text-xs">empty where it is not known</span>}
              </span>
              <span className="flex items-center gap-1.5">
                <input
                  inputMode="decimal"
                  value={texts[name]}
                  onChange={(event) => {
                    setTexts({ ...texts, [name]: event.target.value });
                    if (name === "room_c") setRoomRead(true);
                  }}
                  className="w-20 rounded-lg border border-trail/60 bg-ground px-2 py-1.5 text-right text-base"
                />
                <span className="w-6">{units.name(quantity, unit)}</span>
              </span>
            </label>
          ))}
        </div>
        <fieldset className="grid gap-2 border-rule border-t pt-3">
          <legend className="font-semibold text-sm">How it goes on</legend>
          <p className="text-ink-2 text-xs">Each batch is mixed, and each run cooled, in the air of its hour.</p>
          <Choice label="How it goes on" value={way} onChange={setWay} options={WAYS} />
          {way === "course" && <CourseFields course={course} onChange={setCourse} />}
          {way === "hours" && <HourFields hours={hours} onChange={setHours} />}
          {way === "weather" && <WeatherPanel />}
        </fieldset>
        {courseWrong && (
          <p className="text-ember text-sm">
            Low and high: the room needs both temperatures, the coolest not above the warmest, and the time; of the
            others both figures or none.
          </p>
        )}
        {wrong.length > 0 && (
          <p className="text-ember text-sm">{wrong.map(({ label }) => label).join(", ")}: a number is needed.</p>
        )}
        <p className="text-ink-2 text-xs">
          A measured moisture corrects flour and water; without one, the plant&apos;s rule on humidity corrects the
          water. The room counts as read now only where you type it.
        </p>
        {save.isError && <RefusedOrAsked error={save.error} onConfirm={() => use(true)} />}
        <Button
          type="submit"
          weight="strong"
          disabled={wrong.length > 0 || courseWrong || save.isPending}
          className="justify-self-end"
        >
          Use these
        </Button>
      </form>
      <ReadBefore />
    </Dialog>
  );
}
