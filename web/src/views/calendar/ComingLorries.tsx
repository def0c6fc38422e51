/** The lorries of the coming weeks, day by day: moved, cancelled, let go after all, and extra ones. */

import { useState } from "react";
import type { Calendar, DepartureView } from "../../api/client";
import { whole } from "../../app/format";
import { keyFor } from "../../app/keys";
import { HANDS, momentFormat } from "../../app/moments";
import { Button } from "../../ui/parts";
import { useWindowView } from "../planningWindow";
import type { EditCalendar } from "./days";

type View = { departures: DepartureView[] };
type Props = { view: View; calendar: Calendar; edit: EditCalendar };

const FIELD = "rounded border border-trail/60 bg-ground px-2 py-1";
const SHOWN_DAYS = 10;

const SAID: Record<string, string> = {
  moved: "moved",
  cancelled: "does not leave",
  extra: "extra",
  holiday: "holiday, does not leave",
};

function byDay(departures: DepartureView[]): [string, DepartureView[]][] {
  const found = new Map<string, DepartureView[]>();
  for (const one of departures) found.set(one.departure.on, [...(found.get(one.departure.on) ?? []), one]);
  return [...found];
}

export function ComingLorries({ view, calendar, edit }: Props) {
  const [all, setAll] = useState(false);
  const days = byDay(view.departures);
  return (
    <>
      <h2 className="font-bold text-base">Coming lorries</h2>
      <p className="pb-2 text-ink-2 text-xs">Of one day alone: move a lorry, cancel it, or add an extra one.</p>
      {days.slice(0, all ? undefined : SHOWN_DAYS).map(([on, departures]) => (
        <Day key={on} on={on} departures={departures} calendar={calendar} edit={edit} />
      ))}
      {!all && days.length > SHOWN_DAYS && (
        <Button className="mt-2" onClick={() => setAll(true)}>
          Show all {days.length} days
        </Button>
      )}
      <AddExtra view={view} calendar={calendar} edit={edit} />
    </>
  );
}

type DayProps = { on: string; departures: DepartureView[]; calendar: Calendar; edit: EditCalendar };

function Day({ on, departures, calendar, edit }: DayProps) {
  const dated = momentFormat("UTC", { weekday: "long", day: "numeric", month: "long" });
  return (
    <section aria-label={dated.format(new Date(on))} className="mb-2">
      <h3 className="border-trail border-b font-semibold text-muted text-xs">{dated.format(new Date(on))}</h3>
      <ul>
        {departures.map((one) => (
          <Leaving key={one.departure.id} view={one} calendar={calendar} edit={edit} />
        ))}
      </ul>
    </section>
  );
}

function Leaving({ view, calendar, edit }: { view: DepartureView; calendar: Calendar; edit: EditCalendar }) {
  const { departure, packs, is_planned, has_left } = view;
  const { day } = useWindowView();
  const [moving, setMoving] = useState(false);
  const time = momentFormat(day.time_zone, HANDS);
  const others = <T extends { lorry: string; on: string }>(list: T[] | undefined) =>
    (list ?? []).filter((one) => one.lorry !== departure.lorry || one.on !== departure.on);
  const moved = calendar.moved?.find((one) => one.lorry === departure.lorry && one.on === departure.on);
  const cancelled = calendar.cancelled?.some((one) => one.lorry === departure.lorry && one.on === departure.on);
  const extra = departure.lorry === null && calendar.extra?.some((one) => one.id === departure.id);
  const goes = departure.lorry === null ? extra : !cancelled && departure.change !== "holiday";
  const typed = moved?.leaves.slice(0, 16) ?? stamped(departure.leaves, day.time_zone);
  const state = goes ? (moved ? "moved" : departure.change === "extra" ? "extra" : "") : "cancelled";
  const name = departure.name.replace(/, \w{3}$/, "");
  const move = (leaves: string) =>
    edit({ moved: [...others(calendar.moved), { lorry: departure.lorry ?? "", on: departure.on, leaves }] });
  return (
    <li className="flex flex-wrap items-center gap-x-3 gap-y-1 border-rule border-b py-1 text-sm">
      <span className={`w-12 font-semibold ${goes ? "" : "text-muted line-through"}`}>
        {moved ? moved.leaves.slice(11, 16) : time.format(new Date(departure.leaves))}
      </span>
      <span className={`flex-1 ${goes ? "" : "text-muted"}`}>
        {name}
        {state && <span className="ml-2 font-semibold text-crust text-xs">{SAID[state]}</span>}
      </span>
      <span className="text-ink-2 text-xs">
        {packs ? `${whole(packs)} packs` : "no orders"}
        {has_left ? ", has left" : is_planned && ", planned"}
      </span>
      {has_left ? null : departure.lorry === null ? (
        <Button
          className="min-h-7 px-2 py-0.5 text-xs"
          aria-label={`Delete ${name}`}
          disabled={!extra}
          onClick={() => edit({ extra: (calendar.extra ?? []).filter((one) => one.id !== departure.id) })}
        >
          Delete
        </Button>
      ) : (
        <>
          <Button
            className="min-h-7 px-2 py-0.5 text-xs"
            aria-label={`Move ${departure.name}`}
            disabled={!goes}
            aria-expanded={moving}
            onClick={() => setMoving(!moving)}
          >
            Move
          </Button>
          <Button
            className="min-h-7 px-2 py-0.5 text-xs"
            aria-label={`${cancelled ? "Let it leave:" : "Cancel"} ${departure.name}`}
            onClick={() =>
              edit({
                cancelled: cancelled
                  ? others(calendar.cancelled)
                  : [...others(calendar.cancelled), { lorry: departure.lorry ?? "", on: departure.on }],
              })
            }
          >
            {cancelled ? "Let it leave" : "Cancel"}
          </Button>
        </>
      )}
      {moving && goes && (
        <span className="flex basis-full items-center gap-2 pb-1 pl-15">
          <label className="text-ink-2 text-xs">
            leaves{" "}
            <input
              type="datetime-local"
              className={`${FIELD} text-ink text-sm`}
              value={typed}
              onChange={(event) => event.target.value && move(event.target.value)}
            />
          </label>
          {moved && (
            <Button
              className="min-h-7 px-2 py-0.5 text-xs"
              onClick={() => {
                edit({ moved: others(calendar.moved) });
                setMoving(false);
              }}
            >
              As in the timetable
            </Button>
          )}
        </span>
      )}
    </li>
  );
}

/** A moment as a field for date and time takes it, on the plant's clock. */
const stamped = (moment: string, zone: string) =>
  new Intl.DateTimeFormat("sv-SE", { timeZone: zone, dateStyle: "short", timeStyle: "short" })
    .format(new Date(moment))
    .replace(" ", "T");

function AddExtra({ view, calendar, edit }: Props) {
  const { day } = useWindowView();
  const [name, setName] = useState("");
  const [leaves, setLeaves] = useState(
    stamped(view.departures[0]?.departure.leaves ?? day.window.starts_at, day.time_zone),
  );
  const extra = calendar.extra ?? [];
  const add = () => {
    const taken = [...extra.map((one) => one.id), ...view.departures.map((one) => one.departure.id)];
    edit({ extra: [...extra, { id: keyFor(`${name} ${leaves.slice(2, 10)}`, taken), name, leaves, loading_min: 0 }] });
    setName("");
  };
  const unsaved = extra.filter((one) => !view.departures.some(({ departure }) => departure.id === one.id));
  return (
    <>
      {unsaved.map((one) => (
        <p key={one.id} className="mt-2 text-sm">
          <span className="font-semibold">{one.name}</span>, {one.leaves.replace("T", " ")}: new, not saved yet
        </p>
      ))}
      <form
        className="mt-3 flex flex-wrap items-center gap-2 text-sm"
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim()) add();
        }}
      >
        <input
          aria-label="Name of an extra lorry"
          placeholder="An extra lorry"
          className={`${FIELD} w-44`}
          value={name}
          maxLength={80}
          onChange={(event) => setName(event.target.value)}
        />
        <label className="text-ink-2 text-xs">
          leaves{" "}
          <input
            type="datetime-local"
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
