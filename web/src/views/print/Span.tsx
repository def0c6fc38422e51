/** From when to when: a shift of the calendar, or two moments. */
import { Pick } from "../../ui/Pick";
import { useWindowView } from "../planningWindow";
import type { Part } from "./part";

type Props = { part: Part; onChange: (changes: { from?: string; to?: string }) => void };

const FIELD = "rounded border border-trail/60 bg-ground px-2 py-1.5 text-ink text-sm";

export function Span({ part, onChange }: Props) {
  const { day, clock } = useWindowView();
  const chosen = day.shifts.findIndex((shift) => shift.from_min === part.from && shift.to_min === part.to);
  const typed = (minute: number) => (Number.isFinite(minute) ? clock.typed(minute) : "");
  const minute = (text: string) => (text === "" ? undefined : String(clock.minuteOf(text)));
  return (
    <>
      {day.shifts.length > 0 && (
        <Pick
          label="Shift"
          value={String(chosen)}
          onChange={(place) => {
            const shift = day.shifts[Number(place)];
            onChange({ from: shift && String(shift.from_min), to: shift && String(shift.to_min) });
          }}
          options={[
            { value: "-1", label: "Any shift" },
            ...day.shifts.map((shift, place) => ({
              value: String(place),
              label: `${clock.moment(shift.from_min)} to ${clock.moment(shift.to_min)}: ${shift.crews.join(", ")}`,
            })),
          ]}
        />
      )}
      <label className="text-ink-2 text-xs">
        from
        <input
          type="datetime-local"
          className={`${FIELD} ml-1`}
          value={typed(part.from)}
          onChange={(event) => onChange({ from: minute(event.target.value) })}
        />
      </label>
      <label className="text-ink-2 text-xs">
        until
        <input
          type="datetime-local"
          className={`${FIELD} ml-1`}
          value={typed(part.to)}
          onChange={(event) => onChange({ to: minute(event.target.value) })}
        />
      </label>
    </>
  );
}
