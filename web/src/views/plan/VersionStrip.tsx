/** Which version one looks at, who made it and why; back and forth; published for the floor; saved as a file. */

import { DropdownMenu } from "radix-ui";
import { useEffect, useRef, useState } from "react";
import { Link, useLocation, useNavigate, useParams } from "react-router";
import { fileAddress, pastWindow, type VersionView } from "../../api/client";
import { usePublish, useRestoreVersion, useVersions } from "../../api/queries";
import { plural } from "../../app/format";
import { HANDS, momentFormat } from "../../app/moments";
import { useUnits } from "../../app/units";
import { Button, buttonLook, Notice, Refused } from "../../ui/parts";
import { Question } from "../../ui/Sure";
import { say } from "../../ui/say";
import { useWindowView } from "../planningWindow";
import type { Panels } from "./panels";

type Props = { version: VersionView; line: string; panel: Panels; onPanel: (panel: Panels) => void };

const FILES = [
  ["csv", "Runs as CSV"],
  ["xlsx", "Workbook: runs, batches, lorries"],
  ["ics", "Calendar (iCalendar)"],
  ["json", "The plan's own document (JSON)"],
] as const;

export function VersionStrip({ version, line, panel, onPanel }: Props) {
  const madeAt = useMadeAt();
  const { note, published } = version;
  const undo = useUndo(version, line);
  const stay = (useLocation().state as { stay?: Stay } | null)?.stay;
  useUndoKeys(undo);
  const publish = usePublish();
  const isPublished = published?.version === note.number;
  const [asking, ask] = useState(false);
  const doubts = [
    ...(version.packs_short > 0 ? [`${plural(version.packs_short, "pack")} miss their lorry.`] : []),
    ...(version.stale ? ["The orders, stock, downtime or the plant's data have changed since it was made."] : []),
  ];
  const units = useUnits();
  const query = new URLSearchParams({ ...(line !== "all" && { line }), ...(units.system === "us" && { units: "us" }) });
  return (
    <>
      <div className="no-print mx-2 mb-1.5 flex flex-wrap items-center gap-x-2 gap-y-1 px-3 text-sm">
        <button
          type="button"
          aria-pressed={panel === "versions"}
          onClick={() => onPanel(panel === "versions" ? "lorries" : "versions")}
          className="rounded border-trail border-b-2 border-dotted px-1 font-semibold hover:bg-crumb"
        >
          Version {note.number}
          {note.number < version.newest && ` of ${version.newest}`}
        </button>
        <span className="min-w-0 flex-1 truncate text-ink-2">
          {note.note}, {note.author}, {madeAt(note.created_at)}
          {isPublished ? (
            <span className="ml-2 font-semibold text-steam">live on the floor</span>
          ) : (
            published && <span className="ml-2">version {published.version} is live on the floor</span>
          )}
        </span>
        {pastWindow === undefined && (
          <>
            <Button size="small" onClick={undo.undo} disabled={!undo.canUndo} title="u">
              Undo
            </Button>
            <Button size="small" onClick={undo.redo} disabled={!undo.canRedo} title="r">
              Redo
            </Button>
          </>
        )}
        <DropdownMenu.Root modal={false}>
          <DropdownMenu.Trigger className={buttonLook("plain", "small")}>Save as …</DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content align="end" className="rounded-lg border border-rule bg-paper p-1 shadow-xl">
              {FILES.map(([form, words]) => (
                <DropdownMenu.Item key={form} asChild>
                  <a
                    className="block rounded px-3 py-1.5 text-sm outline-none data-[highlighted]:bg-crumb"
                    href={fileAddress(`/api/versions/${note.number}/plan.${form}?${query}`)}
                    download
                  >
                    {words}
                  </a>
                </DropdownMenu.Item>
              ))}
              {version.plans.length === 1 && (
                <DropdownMenu.Item asChild>
                  <Link
                    className="block rounded px-3 py-1.5 text-sm outline-none data-[highlighted]:bg-crumb"
                    to={`/print/${version.plans[0]?.number}`}
                  >
                    A sheet to print
                  </Link>
                </DropdownMenu.Item>
              )}
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
        {pastWindow === undefined && (
          <Button
            size="small"
            onClick={() => (doubts.length ? ask(true) : publish.mutate(note.number))}
            disabled={isPublished || publish.isPending}
          >
            Publish
          </Button>
        )}
        <Question
          open={asking}
          onOpenChange={ask}
          act="Publish"
          question={`Publish version ${note.number} all the same?`}
          onYes={() => publish.mutate(note.number)}
        >
          <ul className="list-disc pl-5 text-sm">
            {doubts.map((doubt) => (
              <li key={doubt}>{doubt}</li>
            ))}
          </ul>
          <p className="mt-2 text-ink-2 text-sm">
            The dough room and the lines work by it at once.
            {published && ` To undo it, publish version ${published.version} again.`}
          </p>
        </Question>
      </div>
      {undo.error && <Refused error={undo.error} />}
      {stay?.orders && (
        <Notice title="The plan is undone; the orders are not, for others have changed them since.">
          <Link to="/orders" className="underline">
            See the orders
          </Link>{" "}
          and restore the book you want.
        </Notice>
      )}
      {stay?.opening && (
        <Notice title="The plan is undone; the downtime is not, for stock or downtime have been changed since.">
          Remove what did not happen under Downtime, then fit the plan to it.
        </Notice>
      )}
      {publish.isError && <Refused error={publish.error} />}
    </>
  );
}

/** When a version was made, on the plant's clock. */
export function useMadeAt() {
  const { day } = useWindowView();
  const written = momentFormat(day.time_zone, { weekday: "short", ...HANDS });
  return (moment: string) => written.format(new Date(moment));
}

/** Ctrl Z and Ctrl Y, wherever nobody types. */
function useUndoKeys({ undo, redo }: { undo: () => void; redo: () => void }) {
  const act = useRef({ undo, redo });
  act.current = { undo, redo };
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.target instanceof HTMLInputElement) return;
      const back = event.key === "z" && !event.shiftKey;
      if (!back && event.key !== "y" && event.key !== "Z") return;
      event.preventDefault();
      if (back) act.current.undo();
      else act.current.redo();
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
}

/** What an undone plan could not take with it. */
type Stay = { orders: boolean; opening: boolean };

/** What became of the orders, and of the downtime, that the action had changed. */
const ORDERS_THEN = { same: "", "put back": " The orders are too.", "changed since": " The orders stay." };
const OPENING_THEN = { same: "", "put back": " The downtime is too.", "changed since": " The downtime stays." };

const UNDONE = "rundgang-undone";

const undone = (): number[] => JSON.parse(sessionStorage.getItem(UNDONE) ?? "[]") as number[];

/** Undo brings the version before back as the newest; redo what was undone last, until something else is changed. */
export function useUndo(version: VersionView, line: string) {
  const versions = useVersions().data ?? [];
  const restore = useRestoreVersion();
  const navigate = useNavigate();
  const { number } = useParams();
  const arrived = (number === undefined || Number(number) === version.note.number) && !restore.isPending;
  const { parent, restores } = version.note;
  const here = restores ?? version.note.number;
  /** Of a version that is brought back, what was before the one that it is; the list may be on its way still. */
  const before = restores == null ? parent : versions.find((note) => note.number === restores)?.parent;
  const again = restores == null ? undefined : undone().at(-1);
  const bring = (number: number, action: number, left: number[], done: string) =>
    restore.mutate(
      { number, action },
      {
        onSuccess: ({ note, orders, opening }) => {
          const then = ORDERS_THEN[orders] + OPENING_THEN[opening];
          say(`${done}: version ${note.number} is as version ${number} was.${then}`);
          sessionStorage.setItem(UNDONE, JSON.stringify(left));
          navigate(`/plan/${note.number}?line=${line}`, {
            state: { stay: { orders: orders === "changed since", opening: opening === "changed since" } },
          });
        },
      },
    );
  const undo = () =>
    arrived && before != null && bring(before, here, [...(restores == null ? [] : undone()), here], "Undone");
  const redo = () => arrived && again !== undefined && bring(again, again, undone().slice(0, -1), "Redone");
  return { undo, redo, canUndo: before != null, canRedo: again !== undefined, error: restore.error };
}
