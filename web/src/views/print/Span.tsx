/** From when to when: a shift of the calendar, or two moments. */
import { Pick } from "../../ui/Pick";
import { useWindowView } from "../planningWindow";
import type { Part } from "./part";

type Props = { part: Part; onChange: (changes: { from?: string; to?: string }) => void };

export function Span({ part, onChange }: Props) {
  const { day, clock } = useWindowView();
  const chosen = day.shifts.findIndex((shift) => shift.from_min === part.from && shift.to_min === part.to);
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
      <Limit name="from" minute={part.from} onChange={(from) => onChange({ from })} />
      <Limit name="until" minute={part.to} onChange={(to) => onChange({ to })} />
    </>
  );
}

type LimitProps = { name: string; minute: number; onChange: (minute: string | undefined) => void };

/** A moment, or none. */
function Limit({ name, minute, onChange }: LimitProps) {
  const { clock } = useWindowView();
  return (
    <label className="text-ink-2 text-xs">
      {name}
      <input
        type="datetime-local"
        className="ml-1 rounded border border-trail/60 bg-ground px-2 py-1.5 text-ink text-sm"
        value={Number.isFinite(minute) ? clock.typed(minute) : ""}
        onChange={({ target }) => onChange(target.value === "" ? undefined : String(clock.minuteOf(target.value)))}
      />
    </label>
  );
}
