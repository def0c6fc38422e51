/** A day's lowest and highest: of the room, and of what goes with it. */
import type { PlanningWindow, Schemas } from "../../api/client";
import { type Units, useUnits } from "../../app/units";

type Of = "room" | "flour_c" | "tap_c" | "humidity_pct";
export type Course = Record<Of, { low: string; high: string }> & { at: string };

const ROWS: { of: Of; label: string; quantity: string; unit: string; help: string }[] = [
  { of: "room", label: "Room", quantity: "temperature", unit: "", help: "" },
  { of: "humidity_pct", label: "Humidity", quantity: "", unit: "%", help: "lowest when the room is warmest" },
  { of: "flour_c", label: "Flour", quantity: "temperature", unit: "", help: "warmest with the room" },
  { of: "tap_c", label: "Tap water", quantity: "temperature", unit: "", help: "warmest with the room" },
];

export function courseOf(day: PlanningWindow, units: Units): Course {
  const before = day.conditions.room_course;
  const pair = (between: { low: number; high: number } | null | undefined, quantity: string) =>
    between
      ? { low: units.shown(between.low, quantity), high: units.shown(between.high, quantity) }
      : { low: "", high: "" };
  return {
    room: pair(before ? { low: before.low_c, high: before.high_c } : null, "temperature"),
    humidity_pct: pair(before?.humidity_pct, ""),
    flour_c: pair(before?.flour_c, "temperature"),
    tap_c: pair(before?.tap_c, "temperature"),
    at: day.warmest_at?.slice(0, 5) ?? "",
  };
}

/** What was typed as the API takes it; undefined where it does not hold together. */
export function courseWanted(course: Course, units: Units): Schemas["RoomRequest"] | undefined {
  const pairs = ROWS.map(({ of, quantity }) => {
    const { low, high } = course[of];
    if (low.trim() === "" && high.trim() === "") return null;
    const [from, to] = [units.typed(low, quantity), units.typed(high, quantity)];
    return from === undefined || to === undefined || Number(from) > Number(to)
      ? undefined
      : { low: Number(from), high: Number(to) };
  });
  const [room, humidity_pct, flour_c, tap_c] = pairs;
  if (!room || pairs.includes(undefined) || course.at === "") return undefined;
  return {
    low_c: room.low,
    high_c: room.high,
    warmest_at: course.at,
    humidity_pct: humidity_pct ?? null,
    flour_c: flour_c ?? null,
    tap_c: tap_c ?? null,
  };
}

const LOOK = "w-20 rounded-lg border border-trail/60 bg-ground px-2 py-1.5 text-right";

export function CourseFields({ course, onChange }: { course: Course; onChange: (course: Course) => void }) {
  const units = useUnits();
  return (
    <table className="text-sm">
      <thead>
        <tr className="text-left text-muted text-xs">
          <th className="font-semibold">
            <span className="sr-only">What</span>
          </th>
          <th className="font-semibold">Lowest</th>
          <th className="font-semibold">Highest</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {ROWS.map(({ of, label, quantity, unit, help }) => (
          <tr key={of}>
            <th scope="row" className="py-0.5 pr-3 text-left font-normal">
              {label}
            </th>
            {(["low", "high"] as const).map((end) => (
              <td key={end} className="pr-2">
                <input
                  inputMode="decimal"
                  aria-label={`${label}, ${end === "low" ? "lowest" : "highest"}`}
                  value={course[of][end]}
                  onChange={(event) => onChange({ ...course, [of]: { ...course[of], [end]: event.target.value } })}
                  className={LOOK}
                />
              </td>
            ))}
            <td className="text-ink-2 text-xs">
              {units.name(quantity, unit)} {help}
            </td>
          </tr>
        ))}
        <tr>
          <th scope="row" className="py-0.5 pr-3 text-left font-normal">
            Warmest at
          </th>
          <td colSpan={3}>
            <input
              type="time"
              aria-label="Warmest at"
              value={course.at}
              onChange={(event) => onChange({ ...course, at: event.target.value })}
              className="rounded-lg border border-trail/60 bg-ground px-2 py-1.5"
            />
          </td>
        </tr>
      </tbody>
    </table>
  );
}
