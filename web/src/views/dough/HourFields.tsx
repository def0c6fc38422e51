/** The window hour by hour: what is empty is as it is now. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useUnits } from "../../app/units";
import { useWindowView } from "../planningWindow";

type Hour = Schemas["HourlyConditions"];
type Props = { hours: Hour[]; onChange: (hours: Hour[]) => void };

const MINUTES_PER_HOUR = 60;
const COLUMNS: { of: keyof Hour; label: string; quantity: string; unit: string }[] = [
  { of: "room_c", label: "Room", quantity: "temperature", unit: "" },
  { of: "humidity_pct", label: "Humidity", quantity: "", unit: "%" },
  { of: "flour_c", label: "Flour", quantity: "temperature", unit: "" },
  { of: "tap_c", label: "Tap water", quantity: "temperature", unit: "" },
];

export function HourFields({ hours, onChange }: Props) {
  const { day, clock } = useWindowView();
  const units = useUnits();
  const [typing, setTyping] = useState<{ cell: string; text: string }>();
  const count = Math.ceil(day.window.minutes / MINUTES_PER_HOUR);
  const put = (place: number, of: keyof Hour, text: string, quantity: string) => {
    setTyping({ cell: `${place} ${of}`, text });
    const figure = units.typed(text, quantity);
    if (figure === undefined && text.trim() !== "") return;
    const all = Array.from({ length: Math.max(count, hours.length) }, (_, at) => hours[at] ?? {});
    onChange(
      all.map((hour, at) => (at === place ? { ...hour, [of]: figure === undefined ? null : Number(figure) } : hour)),
    );
  };
  const shown = (place: number, of: keyof Hour, quantity: string) => {
    if (typing?.cell === `${place} ${of}`) return typing.text;
    const value = hours[place]?.[of];
    return value == null ? "" : units.shown(value, quantity);
  };
  return (
    <div className="max-h-64 overflow-auto rounded-lg border border-rule">
      <table className="w-full text-sm">
        <thead className="sticky top-0 bg-paper text-left text-muted text-xs">
          <tr>
            <th className="px-2 py-1 font-semibold">Hour from</th>
            {COLUMNS.map(({ of, label, quantity, unit }) => (
              <th key={of} className="font-semibold">
                {label} {units.name(quantity, unit)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {Array.from({ length: count }, (_, place) => clock.moment(place * MINUTES_PER_HOUR)).map((from, place) => (
            <tr key={from}>
              <th scope="row" className="px-2 text-left font-normal">
                {from}
              </th>
              {COLUMNS.map(({ of, label, quantity }) => (
                <td key={of} className="py-0.5 pr-2">
                  <input
                    inputMode="decimal"
                    aria-label={`${label}, ${from}`}
                    value={shown(place, of, quantity)}
                    onChange={(event) => put(place, of, event.target.value, quantity)}
                    onBlur={() => setTyping(undefined)}
                    className="w-16 rounded border border-trail/60 bg-ground px-1.5 py-0.5 text-right"
                  />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
