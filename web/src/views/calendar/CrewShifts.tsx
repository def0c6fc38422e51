/** When people of a crew are there: a crew without a shift always is. */
import { useState } from "react";
import type { Calendar } from "../../api/client";
import { useLibrary } from "../../api/queries";
import { keyFor } from "../../app/keys";
import { Button } from "../../ui/parts";
import { type EditCalendar, EVERY_DAY, put } from "./days";
import { Weekdays } from "./Weekdays";

const FIELD = "rounded border border-trail/60 bg-ground px-2 py-1";
const MINUTES_PER_HOUR = 60;
const SHIFT_H = 8;

type Shift = NonNullable<Calendar["shifts"]>[number];

export function CrewShifts({ calendar, edit }: { calendar: Calendar; edit: EditCalendar }) {
  const shifts = calendar.shifts ?? [];
  const crews = useLibrary().data?.library.plant.crews ?? [];
  if (crews.length === 0 && shifts.length === 0) return null;
  const set = (place: number, parts: Partial<Shift>) =>
    edit({ shifts: shifts.map((shift, at) => (at === place ? { ...shift, ...parts } : shift)) });
  const nameOf = (shift: Shift) =>
    crews.find((crew) => crew.id === shift.crew)?.name ?? "a crew that is no longer there";
  return (
    <section aria-label="Shifts of crews" className="mt-5">
      <h2 className="font-bold text-base">Shifts of crews</h2>
      <p className="text-ink-2 text-xs">
        A crew that has shifts is there in them only, none on a holiday; without one it always is.
      </p>
      <ul>
        {shifts.map((shift, place) => (
          <li
            key={shift.id}
            className="flex flex-wrap items-center gap-x-3 gap-y-1.5 border-rule border-b py-2 text-sm"
          >
            <span className="basis-full font-semibold lg:basis-auto lg:flex-1">{nameOf(shift)}</span>
            <label className="text-ink-2 text-xs">
              <input
                type="number"
                min={1}
                aria-label={`${nameOf(shift)}, people in shift ${place + 1}`}
                className={`${FIELD} w-16 text-right text-ink text-sm`}
                value={shift.people}
                onChange={(event) => set(place, { people: Math.max(1, Math.round(Number(event.target.value))) })}
              />{" "}
              people
            </label>
            <label className="text-ink-2 text-xs">
              from{" "}
              <input
                type="time"
                aria-label={`${nameOf(shift)}, shift ${place + 1} begins`}
                className={`${FIELD} text-ink text-sm`}
                value={shift.begins.slice(0, 5)}
                onChange={(event) => event.target.value && set(place, { begins: event.target.value })}
              />
            </label>
            <label className="text-ink-2 text-xs">
              for{" "}
              <input
                type="number"
                min={0.5}
                max={168}
                step={0.5}
                aria-label={`${nameOf(shift)}, hours of shift ${place + 1}`}
                className={`${FIELD} w-16 text-right text-ink text-sm`}
                value={shift.minutes / MINUTES_PER_HOUR}
                onChange={(event) =>
                  set(place, { minutes: Math.max(30, Number(event.target.value) * MINUTES_PER_HOUR) })
                }
              />{" "}
              h
            </label>
            <Weekdays
              name={`${nameOf(shift)}, shift ${place + 1} on`}
              days={shift.weekdays ?? EVERY_DAY}
              onChange={(weekdays) => set(place, { weekdays })}
            />
            <Button
              className="min-h-8"
              aria-label={`Delete shift ${place + 1} of ${nameOf(shift)}`}
              onClick={() => edit({ shifts: put(shifts, place, undefined) })}
            >
              Delete
            </Button>
          </li>
        ))}
      </ul>
      {crews.length > 0 && <AddShift crews={crews} shifts={shifts} edit={edit} />}
    </section>
  );
}

type Crews = NonNullable<NonNullable<ReturnType<typeof useLibrary>["data"]>["library"]["plant"]["crews"]>;

function AddShift({ crews, shifts, edit }: { crews: Crews; shifts: Shift[]; edit: EditCalendar }) {
  const [crew, setCrew] = useState(crews[0]?.id ?? "");
  const add = () => {
    const of = crews.find((one) => one.id === crew);
    const id = keyFor(
      `${crew.slice(0, 18)} shift`,
      shifts.map((shift) => shift.id),
    );
    const weekly = { weekdays: EVERY_DAY, valid_from: null, valid_until: null };
    const made = { id, crew, begins: "06:00", minutes: SHIFT_H * MINUTES_PER_HOUR, people: of?.people ?? 1 };
    edit({ shifts: [...shifts, { ...made, ...weekly }] });
  };
  return (
    <div className="mt-3 flex flex-wrap items-center gap-2 text-sm">
      <select aria-label="Crew" className={FIELD} value={crew} onChange={(event) => setCrew(event.target.value)}>
        {crews.map((one) => (
          <option key={one.id} value={one.id}>
            {one.name}, {one.people} people
          </option>
        ))}
      </select>
      <Button onClick={add}>Add a shift</Button>
    </div>
  );
}
