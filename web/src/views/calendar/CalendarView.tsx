/** The calendar: which lorries leave when in the coming weeks, the weekly timetable, and what is closed every week. */
import { useState } from "react";
import type { Calendar } from "../../api/client";
import { useCalendar, useSetCalendar } from "../../api/queries";
import { Button, Figure, Header, Loading, Notice, Panel, Refused } from "../../ui/parts";
import { useUnsaved } from "../../ui/useUnsaved";
import { Closings } from "./Closings";
import { ComingLorries } from "./ComingLorries";
import { CrewShifts } from "./CrewShifts";
import { Reach } from "./Reach";
import { StandingOrders } from "./Standing";
import { Timetable } from "./Timetable";

export function CalendarView() {
  const stored = useCalendar();
  if (stored.isPending) return <Loading what="the calendar" />;
  if (stored.isError)
    return (
      <div className="m-5">
        <Refused error={stored.error} again={() => stored.refetch()} />
      </div>
    );
  return <Edited key={stored.data.number} view={stored.data} />;
}

type View = NonNullable<ReturnType<typeof useCalendar>["data"]>;

function Edited({ view }: { view: View }) {
  const [calendar, setCalendar] = useState<Calendar>(view.calendar);
  const save = useSetCalendar();
  const changed = JSON.stringify(calendar) !== JSON.stringify(view.calendar);
  useUnsaved(changed);
  const planned = view.departures.filter((one) => one.is_planned).length;
  const edit = (parts: Partial<Calendar>) => setCalendar({ ...calendar, ...parts });
  return (
    <>
      <Header
        title="Calendar"
        sub={
          view.number ? `version ${view.number}` : "as the window has its lorries; nobody has entered a timetable yet"
        }
        figures={
          <>
            <Figure value={String(calendar.lorries?.length ?? 0)} label="lorries in the timetable" />
            <Figure value={String(planned)} label="departures planned" />
          </>
        }
        actions={
          <>
            <Button disabled={!changed} onClick={() => setCalendar(view.calendar)}>
              Undo my changes
            </Button>
            <Button
              weight="strong"
              disabled={!changed || save.isPending}
              onClick={() => save.mutate({ calendar, seen: view.number })}
            >
              Save the calendar
            </Button>
          </>
        }
      />
      <div className="mx-2 mb-2 empty:hidden">
        {save.isError && <Refused error={save.error} />}
        {changed && !save.isError && (
          <Notice title="Changed, not saved yet">
            Once saved it counts for all lorries from now on; plans made before say that they are out of date.
          </Notice>
        )}
      </div>
      <div className="grid flex-1 content-start gap-2 px-2 pb-2 lg:grid-cols-[minmax(0,1fr)_minmax(0,1.15fr)]">
        <Panel label="Coming lorries" className="overflow-auto p-4">
          <ComingLorries view={view} calendar={calendar} edit={edit} />
        </Panel>
        <div className="grid content-start gap-2">
          <Panel label="Timetable" className="overflow-auto p-4">
            <Timetable calendar={calendar} edit={edit} />
          </Panel>
          <Panel label="Standing orders" className="overflow-auto p-4">
            <StandingOrders calendar={calendar} edit={edit} />
          </Panel>
          <Panel label="Weekly closings" className="overflow-auto p-4">
            <Closings calendar={calendar} edit={edit} />
            <CrewShifts calendar={calendar} edit={edit} />
          </Panel>
          <Panel label="The window" className="p-4">
            <Reach calendar={calendar} edit={edit} />
          </Panel>
        </div>
      </div>
    </>
  );
}
