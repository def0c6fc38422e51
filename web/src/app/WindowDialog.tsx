/** The window that is planned: from when to when, going on to the next, and reading those before. */

import { useState } from "react";
import { Link } from "react-router";
import { type PlanningWindow, pastWindow, type WindowNote, windowAddress } from "../api/client";
import { useNextWindow, useWindows } from "../api/queries";
import { Dialog } from "../ui/Dialog";
import { Button, Heading, Loading, Notice, Refused } from "../ui/parts";
import { plural, whole } from "./format";
import { momentFormat } from "./moments";

function useWritten(day: PlanningWindow) {
  const format = (options: Intl.DateTimeFormatOptions) => momentFormat(day.time_zone, options);
  const dated = format({ weekday: "short", day: "numeric", month: "short" });
  const timed = format({ weekday: "short", day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });
  return { date: (at: Date) => dated.format(at), moment: (at: Date) => timed.format(at) };
}

const startOf = (day: PlanningWindow) => new Date(new Date(day.window.starts_at).getTime() + day.goes_on_min * 60_000);

const endOf = (day: PlanningWindow) => new Date(new Date(day.window.starts_at).getTime() + day.window.minutes * 60_000);

/** What window one looks at, beside the plant's name; it opens the dialog. */
export function WindowButton({ day }: { day: PlanningWindow }) {
  const [open, setOpen] = useState(false);
  const written = useWritten(day);
  return (
    <>
      <button
        type="button"
        onClick={() => setOpen(true)}
        title="The window that is planned, and the next day"
        className="rounded-md border border-transparent px-2 py-0.5 text-right text-xs leading-4 hover:border-crust"
      >
        <span className="block font-semibold">
          {day.clock_simulated && <span className="font-normal text-crust">simulated clock · </span>}
          {day.plant}
        </span>
        <span className="block text-ink-2">
          {written.date(startOf(day))} – {written.date(endOf(day))}
        </span>
      </button>
      <Dialog open={open} onOpenChange={setOpen} title="The window that is planned">
        <Windows day={day} onGone={() => setOpen(false)} />
      </Dialog>
    </>
  );
}

function Windows({ day, onGone }: { day: PlanningWindow; onGone: () => void }) {
  const windows = useWindows();
  const next = useNextWindow();
  const written = useWritten(day);
  if (windows.isPending) return <Loading what="the windows" />;
  if (windows.isError) return <Refused error={windows.error} />;
  const [newest, ...before] = windows.data;
  return (
    <>
      {newest && (
        <p className="text-sm">
          Window {newest.number}: {written.moment(new Date(newest.goes_on_at))} to{" "}
          {written.moment(new Date(newest.ends_at))}.
        </p>
      )}
      {pastWindow === undefined && (
        <>
          <p className="mt-2 text-ink-2 text-sm">
            The next day makes the window a day longer, from this moment on. What is on the lines stays where it is,
            packs that have not gone become stock with their age, and orders kept for later lorries come in. The window
            before stays readable.
          </p>
          <div className="mt-3 flex items-center gap-3">
            <Button weight="strong" disabled={next.isPending} onClick={() => next.mutate(undefined)}>
              {next.isPending ? "Going on …" : "Next day"}
            </Button>
            <Link to="/calendar" className="text-sm underline" onClick={onGone}>
              Calendar of the lorries
            </Link>
          </div>
          {next.isError && <Refused error={next.error} />}
          {next.isSuccess && <GoneOn note={next.data} />}
        </>
      )}
      {before.length > 0 && (
        <>
          <Heading>Windows before</Heading>
          <ol>
            {before.slice(0, 60).map((note) => (
              <li key={note.number} className="flex items-baseline gap-3 border-rule border-b py-1.5 text-sm">
                <a className="font-semibold underline" href={`${windowAddress(note.number)}/plan`}>
                  Window {note.number}
                </a>
                <span className="flex-1 text-ink-2">
                  {written.moment(new Date(note.goes_on_at))} to {written.moment(new Date(note.ends_at))}
                </span>
              </li>
            ))}
          </ol>
        </>
      )}
    </>
  );
}

function GoneOn({ note }: { note: WindowNote }) {
  return (
    <div className="mt-3">
      <Notice tone="good" title={`Window ${note.number} is planned now`}>
        {note.runs === 0
          ? "No run was over yet; all goes on as it was."
          : `${plural(note.runs, "run")} over, ${whole(note.sent)} packs of them gone, ${whole(note.short)} packs short` +
            `${note.thrown ? `, ${whole(note.thrown)} wasted, past their shelf life` : ""}. Look at the plan, and search for a better one.`}
      </Notice>
    </div>
  );
}

/** Over every page of an earlier window. */
export function PastBanner({ day }: { day: PlanningWindow }) {
  const written = useWritten(day);
  return (
    <div className="no-print flex flex-wrap items-baseline gap-x-4 border-trail border-b bg-crumb px-5 py-2 text-sm">
      <span className="font-semibold">
        Window {day.number}, {written.date(startOf(day))} – {written.date(endOf(day))}, is over.
      </span>
      <span>It can be read, not changed.</span>
      <a href="/plan" className="font-semibold underline">
        Go to the window that is planned
      </a>
    </div>
  );
}
