import { WEEKDAYS } from "./days";

type Props = { name: string; days: number[]; onChange: (days: number[]) => void };

/** Seven switches, a day each; one at least stays on. */
export function Weekdays({ name, days, onChange }: Props) {
  const toggled = (day: number) => (days.includes(day) ? days.filter((one) => one !== day) : [...days, day].sort());
  return (
    <fieldset className="inline-flex overflow-hidden rounded border border-trail/60">
      <legend className="sr-only">{name}</legend>
      {WEEKDAYS.map((weekday, day) => (
        <button
          key={weekday}
          type="button"
          aria-pressed={days.includes(day)}
          aria-label={`${name}, ${weekday}`}
          disabled={days.length === 1 && days[0] === day}
          onClick={() => onChange(toggled(day))}
          className={`min-w-9 px-1 py-1 text-xs ${
            days.includes(day) ? "bg-crumb font-semibold text-ink" : "bg-paper text-muted line-through"
          }`}
        >
          {weekday}
        </button>
      ))}
    </fieldset>
  );
}
