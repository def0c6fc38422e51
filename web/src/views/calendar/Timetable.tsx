/** The weekly timetable: every lorry with its days, its time, and when its loading ends. */
import { useState } from "react";
import type { Calendar } from "../../api/client";
import { keyFor } from "../../app/keys";
import { Button } from "../../ui/parts";
import { type EditCalendar, EVERY_DAY, put } from "./days";
import { Weekdays } from "./Weekdays";

const FIELD = "rounded border border-trail/60 bg-ground px-2 py-1";

export function Timetable({ calendar, edit }: { calendar: Calendar; edit: EditCalendar }) {
  const lorries = calendar.lorries ?? [];
  const [name, setName] = useState("");
  const [leaves, setLeaves] = useState("06:00");
  const set = (place: number, parts: Partial<(typeof lorries)[number]>) =>
    edit({ lorries: lorries.map((lorry, at) => (at === place ? { ...lorry, ...parts } : lorry)) });
  const add = () => {
    const taken = lorries.map((lorry) => lorry.id);
    const lorry = { id: keyFor(name, taken), name: name.trim(), leaves, loading_min: 0, weekdays: EVERY_DAY };
    edit({ lorries: [...lorries, { ...lorry, valid_from: null, valid_until: null }] });
    setName("");
  };
  const drop = (place: number) => {
    const gone = lorries[place]?.id;
    edit({
      lorries: put(lorries, place, undefined),
      moved: (calendar.moved ?? []).filter((one) => one.lorry !== gone),
      cancelled: (calendar.cancelled ?? []).filter((one) => one.lorry !== gone),
      standing: (calendar.standing ?? []).filter((one) => one.lorry !== gone),
    });
  };
  return (
    <>
      <h2 className="font-bold text-base">Timetable</h2>
      <p className="pb-2 text-ink-2 text-xs">
        Every week. Loading ends so many minutes before a lorry leaves: what is not made by then has missed it.
      </p>
      <ul>
        {lorries.map((lorry, place) => (
          <li
            key={lorry.id}
            className="flex flex-wrap items-center gap-x-3 gap-y-1.5 border-rule border-b py-2 text-sm"
          >
            <input
              aria-label="Name of the lorry"
              className={`${FIELD} w-36 font-semibold`}
              value={lorry.name}
              maxLength={80}
              onChange={(event) => set(place, { name: event.target.value })}
            />
            <label className="text-ink-2 text-xs">
              leaves{" "}
              <input
                type="time"
                className={`${FIELD} text-ink text-sm`}
                value={lorry.leaves.slice(0, 5)}
                onChange={(event) => event.target.value && set(place, { leaves: event.target.value })}
              />
            </label>
            <label className="text-ink-2 text-xs">
              loading ends{" "}
              <input
                type="number"
                min={0}
                max={1440}
                className={`${FIELD} w-18 text-right text-ink text-sm`}
                value={lorry.loading_min}
                onChange={(event) => set(place, { loading_min: Math.max(0, Number(event.target.value)) })}
              />{" "}
              min before
            </label>
            <Weekdays
              name={`${lorry.name} leaves on`}
              days={lorry.weekdays ?? EVERY_DAY}
              onChange={(weekdays) => set(place, { weekdays })}
            />
            <label className="text-ink-2 text-xs">
              from{" "}
              <input
                type="date"
                className={`${FIELD} text-ink`}
                value={lorry.valid_from ?? ""}
                onChange={(event) => set(place, { valid_from: event.target.value || null })}
              />
            </label>
            <label className="text-ink-2 text-xs">
              until{" "}
              <input
                type="date"
                className={`${FIELD} text-ink`}
                value={lorry.valid_until ?? ""}
                onChange={(event) => set(place, { valid_until: event.target.value || null })}
              />
            </label>
            <Button className="ml-auto min-h-8" aria-label={`Delete ${lorry.name}`} onClick={() => drop(place)}>
              Delete
            </Button>
          </li>
        ))}
      </ul>
      <form
        className="mt-3 flex flex-wrap items-center gap-2 text-sm"
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim()) add();
        }}
      >
        <input
          aria-label="Name of a new lorry"
          placeholder="Another lorry"
          className={`${FIELD} w-44`}
          value={name}
          maxLength={80}
          onChange={(event) => setName(event.target.value)}
        />
        <label className="text-ink-2 text-xs">
          leaves{" "}
          <input
            type="time"
            className={`${FIELD} text-ink text-sm`}
            value={leaves}
            onChange={(event) => setLeaves(event.target.value || leaves)}
          />
        </label>
        <Button type="submit" disabled={!name.trim()}>
          Add
        </Button>
      </form>
    </>
  );
}
