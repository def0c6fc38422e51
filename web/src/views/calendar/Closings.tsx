/** What is closed every week: wash-downs, blade changes, breaks. */
import { useState } from "react";
import type { Calendar } from "../../api/client";
import { useLibrary } from "../../api/queries";
import { keyFor } from "../../app/keys";
import { Button } from "../../ui/parts";
import { type EditCalendar, EVERY_DAY, put } from "./days";
import { Weekdays } from "./Weekdays";

const FIELD = "rounded border border-trail/60 bg-ground px-2 py-1";
const KINDS: [string, string][] = [
  ["cleaning", "cleaning"],
  ["shift", "break, or no shift"],
  ["blades", "blade change"],
  ["rollers", "roller change"],
  ["repair", "repair"],
];

type Closing = NonNullable<Calendar["closings"]>[number];

export function Closings({ calendar, edit }: { calendar: Calendar; edit: EditCalendar }) {
  const closings = calendar.closings ?? [];
  const lines = useLibrary().data?.library.plant.lines ?? [];
  const set = (place: number, parts: Partial<Closing>) =>
    edit({ closings: closings.map((closing, at) => (at === place ? { ...closing, ...parts } : closing)) });
  const placeOf = (closing: Closing) => {
    const line = lines.find((one) => one.id === closing.line);
    return `${line?.name ?? ""}, ${line?.stations.find((one) => one.id === closing.station)?.name ?? ""}`;
  };
  return (
    <>
      <h2 className="font-bold text-base">Closed every week</h2>
      <ul>
        {closings.map((closing, place) => (
          <li
            key={closing.id}
            className="flex flex-wrap items-center gap-x-3 gap-y-1.5 border-rule border-b py-2 text-sm"
          >
            <span className="basis-full lg:basis-auto lg:flex-1">
              <span className="font-semibold">{closing.reason}</span>{" "}
              <span className="text-ink-2 text-xs">{placeOf(closing)}</span>
            </span>
            <input
              type="time"
              aria-label={`${closing.reason} begins`}
              className={FIELD}
              value={closing.begins.slice(0, 5)}
              onChange={(event) => event.target.value && set(place, { begins: event.target.value })}
            />
            <label className="text-ink-2 text-xs">
              for{" "}
              <input
                type="number"
                min={1}
                max={10080}
                className={`${FIELD} w-18 text-right text-ink text-sm`}
                value={closing.minutes}
                onChange={(event) => set(place, { minutes: Math.max(1, Number(event.target.value)) })}
              />{" "}
              min
            </label>
            <Weekdays
              name={`${closing.reason} on`}
              days={closing.weekdays ?? EVERY_DAY}
              onChange={(weekdays) => set(place, { weekdays })}
            />
            <Button
              className="min-h-8"
              aria-label={`Delete ${closing.reason}`}
              onClick={() => edit({ closings: put(closings, place, undefined) })}
            >
              Delete
            </Button>
          </li>
        ))}
      </ul>
      {lines.length > 0 && <AddClosing lines={lines} closings={closings} edit={edit} />}
    </>
  );
}

type Lines = NonNullable<ReturnType<typeof useLibrary>["data"]>["library"]["plant"]["lines"];

function AddClosing({ lines, closings, edit }: { lines: Lines; closings: Closing[]; edit: EditCalendar }) {
  const [reason, setReason] = useState("");
  const [kind, setKind] = useState("cleaning");
  const [at, setAt] = useState(`${lines[0]?.id} ${lines[0]?.stations[0]?.id}`);
  const add = () => {
    const [line = "", station = ""] = at.split(" ");
    const taken = closings.map((closing) => closing.id);
    const made = { id: keyFor(reason, taken), line, station, kind: kind as Closing["kind"], reason: reason.trim() };
    const weekly = { weekdays: [0], begins: "14:00", minutes: 60, renews: null, valid_from: null, valid_until: null };
    edit({ closings: [...closings, { ...made, ...weekly }] });
    setReason("");
  };
  return (
    <form
      className="mt-3 flex flex-wrap items-center gap-2 text-sm"
      onSubmit={(event) => {
        event.preventDefault();
        if (reason.trim()) add();
      }}
    >
      <input
        aria-label="Why it is closed"
        placeholder="Another closing: why"
        className={`${FIELD} w-48`}
        value={reason}
        maxLength={80}
        onChange={(event) => setReason(event.target.value)}
      />
      <select aria-label="Station" className={FIELD} value={at} onChange={(event) => setAt(event.target.value)}>
        {lines.map((line) => (
          <optgroup key={line.id} label={line.name}>
            {line.stations.map((station) => (
              <option key={station.id} value={`${line.id} ${station.id}`}>
                {station.name}
              </option>
            ))}
          </optgroup>
        ))}
      </select>
      <select aria-label="Kind" className={FIELD} value={kind} onChange={(event) => setKind(event.target.value)}>
        {KINDS.map(([key, said]) => (
          <option key={key} value={key}>
            {said}
          </option>
        ))}
      </select>
      <Button type="submit" disabled={!reason.trim()}>
        Add
      </Button>
    </form>
  );
}
