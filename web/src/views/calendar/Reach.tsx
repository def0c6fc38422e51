/** How far ahead is planned, when the window goes on by itself, and days without lorries. */
import { useState } from "react";
import type { Calendar } from "../../api/client";
import { Button } from "../../ui/parts";
import type { EditCalendar } from "./days";

const FIELD = "rounded border border-trail/60 bg-ground px-2 py-1 text-ink text-sm";

export function Reach({ calendar, edit }: { calendar: Calendar; edit: EditCalendar }) {
  const holidays = calendar.holidays ?? [];
  const [on, setOn] = useState("");
  const [name, setName] = useState("");
  return (
    <>
      <h2 className="font-bold text-base">The window</h2>
      <div className="flex flex-wrap items-center gap-x-6 gap-y-2 py-1 text-sm">
        <label>
          It reaches{" "}
          <input
            type="number"
            min={1}
            max={7}
            className={`${FIELD} w-14 text-right`}
            value={calendar.days ?? 3}
            onChange={(event) => edit({ days: Math.min(7, Math.max(1, Number(event.target.value))) })}
          />{" "}
          days ahead
        </label>
        <label>
          and goes on by itself at{" "}
          <input
            type="time"
            className={FIELD}
            value={calendar.rolls_at?.slice(0, 5) ?? ""}
            onChange={(event) => edit({ rolls_at: event.target.value || null })}
          />
        </label>
        <span className="text-ink-2 text-xs">Without a time somebody does it, with Next day.</span>
      </div>
      <h3 className="mt-2 font-semibold text-muted text-xs">Days on which no lorry of the timetable leaves</h3>
      <ul>
        {holidays.map((holiday) => (
          <li key={holiday.on} className="flex items-center gap-3 border-rule border-b py-1 text-sm">
            <span className="w-28 font-semibold">{holiday.on}</span>
            <span className="flex-1">{holiday.name}</span>
            <Button
              className="min-h-7 px-2 py-0.5 text-xs"
              aria-label={`Delete ${holiday.name}`}
              onClick={() => edit({ holidays: holidays.filter((one) => one.on !== holiday.on) })}
            >
              Delete
            </Button>
          </li>
        ))}
      </ul>
      <form
        className="mt-2 flex flex-wrap items-center gap-2 text-sm"
        onSubmit={(event) => {
          event.preventDefault();
          edit({ holidays: [...holidays.filter((one) => one.on !== on), { on, name: name.trim() }] });
          setOn("");
          setName("");
        }}
      >
        <input
          type="date"
          aria-label="Day of a holiday"
          className={FIELD}
          value={on}
          onChange={(event) => setOn(event.target.value)}
        />
        <input
          aria-label="Name of a holiday"
          placeholder="A holiday"
          className={`${FIELD} w-44`}
          value={name}
          maxLength={80}
          onChange={(event) => setName(event.target.value)}
        />
        <Button type="submit" disabled={!on || !name.trim()}>
          Add
        </Button>
      </form>
    </>
  );
}
