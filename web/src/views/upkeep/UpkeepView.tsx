/** Tools and cleaning: how far each tool is worn, what is to be cleaned, and the diary of what was, with its releases. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useReleaseUpkeep, useTellUpkeep, useUpkeep } from "../../api/queries";
import { digits, duration, whole } from "../../app/format";
import { Dialog } from "../../ui/Dialog";
import { Button, Figure, Header, Loading, Notice, Panel, Refused } from "../../ui/parts";
import { LineOfPage } from "../LineOfPage";
import { useLine, useWindowView } from "../planningWindow";

type View = Schemas["Upkept"];
type Tool = Schemas["ToolState"];
type Due = Schemas["DueCleaning"];
type Entry = Schemas["StoredUpkeep"];

/** What somebody tells: of a tool, of a cleaning that is due, or of one that nobody had planned. */
type Telling = { station: string; at: string; what: string; minutes: number; tool?: string };

export function UpkeepView() {
  const line = useLine()?.id ?? "";
  const found = useUpkeep(line);
  const [telling, tell] = useState<Telling>();
  const untold = found.data?.due.filter((due) => due.is_over).length ?? 0;
  const worn = found.data?.tools.filter((tool) => tool.stands === "worn").length ?? 0;
  return (
    <>
      <Header
        title="Tools and cleaning"
        sub="how far each tool is worn by now, and who cleaned what, and released it"
        figures={
          found.data && (
            <>
              <Figure
                value={worn}
                label={worn === 1 ? "tool is beyond its life" : "tools are beyond their life"}
                wrong={worn > 0}
              />
              <Figure
                value={untold}
                label={untold === 1 ? "cleaning nobody has told of" : "cleanings nobody has told of"}
              />
            </>
          )
        }
        actions={<LineOfPage line={line} />}
      />
      {found.isError && (
        <div className="m-5">
          <Refused error={found.error} again={() => found.refetch()} />
        </div>
      )}
      {found.isPending && <Loading what="the tools" />}
      {found.data && (
        <div className="grid grid-cols-[minmax(0,1fr)] content-start gap-2 px-2 pb-2 xl:grid-cols-[3fr_2fr]">
          <div className="grid content-start gap-2">
            <Tools view={found.data} tell={tell} />
            <DueNow view={found.data} tell={tell} />
          </div>
          <Diary view={found.data} tell={tell} />
        </div>
      )}
      {telling && found.data && <TellDialog view={found.data} telling={telling} onClose={() => tell(undefined)} />}
    </>
  );
}

type PartProps = { view: View; tell: (telling: Telling) => void };

function Tools({ view, tell }: PartProps) {
  const { clock } = useWindowView();
  return (
    <Panel label="Tools that wear" className="overflow-x-auto p-4">
      <h2 className="mb-1 font-bold">Tools that wear</h2>
      {view.tools.length === 0 ? (
        <p className="text-ink-2 text-sm">
          No station of this line has a tool that wears; the plant&apos;s page adds one.
        </p>
      ) : (
        <table className="w-full text-sm">
          <thead>
            <tr className="text-left text-muted text-xs">
              <th className="py-1 font-semibold">Tool</th>
              <th className="py-1 font-semibold">Worn, of its life</th>
              <th className="py-1 font-semibold">Its life ends</th>
              <th className="py-1 font-semibold">The plan renews it</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {view.tools.map((tool) => (
              <ToolRow
                key={`${tool.station} ${tool.tool}`}
                tool={tool}
                moment={(minute) => clock.moment(minute)}
                onTell={() =>
                  tell({
                    station: tool.station,
                    at: tool.at,
                    what: `${tool.name} renewed`,
                    minutes: tool.renew_min,
                    tool: tool.tool,
                  })
                }
              />
            ))}
          </tbody>
        </table>
      )}
      <p className="mt-2 text-ink-2 text-xs">
        Worn by what has passed, as the counters saw it, and by the plan from now on. Blades and rollers are changed by
        trained people, with the machine locked out by your plant&apos;s own procedure.
      </p>
    </Panel>
  );
}

type ToolProps = { tool: Tool; moment: (minute: number) => string; onTell: () => void };

function ToolRow({ tool, moment, onTell }: ToolProps) {
  const share = tool.used / tool.life;
  const figure = (value: number) => (tool.life >= 1_000 ? whole(value) : digits(value, 1));
  return (
    <tr className="border-rule border-t align-middle">
      <td className="py-1.5 pr-3">
        <b>{tool.name}</b>
        <span className="block text-ink-2 text-xs">{tool.at}</span>
      </td>
      <td className="pr-3">
        <span aria-hidden="true" className="block h-2 w-40 overflow-hidden rounded-sm bg-rule">
          <span
            className={`block h-2 ${tool.stands === "worn" ? "bg-ember" : "bg-steam"}`}
            style={{ width: `${Math.min(100, Math.max(0, 100 * share))}%` }}
          />
        </span>
        <span className="text-xs">
          {figure(Math.max(0, tool.used))} of {figure(tool.life)} {tool.counted}
        </span>
      </td>
      <td className={`whitespace-nowrap pr-3 ${tool.stands !== "good" ? "font-semibold text-ember" : ""}`}>
        {tool.ends_min == null ? "not in this plan" : tool.stands === "worn" ? "has ended" : moment(tool.ends_min)}
      </td>
      <td className="whitespace-nowrap pr-3">{tool.renewed_min == null ? "no" : moment(tool.renewed_min)}</td>
      <td className="text-right">
        <Button size="small" onClick={onTell}>
          Renewed
        </Button>
      </td>
    </tr>
  );
}

function DueNow({ view, tell }: PartProps) {
  const { clock } = useWindowView();
  const told = (due: Due) => tell({ station: due.station, at: due.at, what: due.what, minutes: due.minutes });
  return (
    <Panel label="Cleanings that the plan leaves time for" className="overflow-x-auto p-4">
      <h2 className="mb-1 font-bold">Cleanings that the plan leaves time for</h2>
      {view.due.length === 0 && (
        <p className="text-ink-2 text-sm">None from twelve hours ago until tomorrow that nobody has told of.</p>
      )}
      <ul className="text-sm">
        {view.due.map((due) => (
          <li
            key={`${due.station} ${due.behind} ${due.before} ${due.what}`}
            className="flex items-center justify-between gap-3 border-rule border-t py-1.5"
          >
            <span>
              <b>{due.at}</b>: {due.what}
              <span className={`block text-xs ${due.is_over ? "text-ember" : "text-ink-2"}`}>
                between {due.behind} and {due.before}, {clock.moment(due.from_min)} to {clock.time(due.until_min)},
                takes {duration(due.minutes)}
                {due.is_over && "; nobody has told that it was done"}
              </span>
            </span>
            <Button size="small" disabled={due.from_min > view.now_min} onClick={() => told(due)}>
              Done
            </Button>
          </li>
        ))}
      </ul>
    </Panel>
  );
}

function Diary({ view, tell }: PartProps) {
  const first = Object.keys(view.stations)[0];
  return (
    <Panel label="Diary" className="self-start p-4">
      <div className="mb-1 flex items-center justify-between">
        <h2 className="font-bold">Diary, {view.days} days</h2>
        {first && (
          <Button size="small" onClick={() => tell({ station: first, at: "", what: "", minutes: 20 })}>
            Something else was cleaned
          </Button>
        )}
      </div>
      {view.diary.length === 0 && <p className="text-ink-2 text-sm">Nothing has been told yet.</p>}
      <ul className="text-sm">
        {view.diary.map((entry) => (
          <EntryRow key={entry.number} view={view} entry={entry} />
        ))}
      </ul>
    </Panel>
  );
}

function EntryRow({ view, entry }: { view: View; entry: Entry }) {
  const { clock } = useWindowView();
  const release = useReleaseUpkeep();
  const [name, setName] = useState("");
  const [began, ended] = [clock.minuteAt(entry.began_at), clock.minuteAt(entry.ended_at)];
  return (
    <li className="border-rule border-t py-2">
      <b>{view.stations[entry.station] ?? entry.station}</b>: {entry.what}
      <span className="block text-ink-2 text-xs">
        {clock.moment(began)} to {clock.time(ended)}, by {entry.author}
      </span>
      {entry.released ? (
        <span className="block text-steam text-xs">
          released by {entry.released.author}, {clock.moment(clock.minuteAt(entry.released.at))}
        </span>
      ) : (
        <form
          className="mt-1 flex items-center gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            release.mutate({ line: view.line, number: entry.number, author: name.trim() });
          }}
        >
          <label className="text-xs">
            Looked at and released by
            <input
              value={name}
              maxLength={60}
              onChange={(event) => setName(event.target.value)}
              className="ml-2 w-32 rounded-lg border border-trail/60 bg-ground px-2 py-1 text-sm"
            />
          </label>
          <Button size="small" type="submit" disabled={name.trim() === "" || release.isPending}>
            Release
          </Button>
        </form>
      )}
      {release.isError && <Refused error={release.error} />}
    </li>
  );
}

type DialogProps = { view: View; telling: Telling; onClose: () => void };

function TellDialog({ view, telling, onClose }: DialogProps) {
  const { clock } = useWindowView();
  const now = Math.floor(clock.minuteNow());
  const [station, setStation] = useState(telling.station);
  const [what, setWhat] = useState(telling.what);
  const [began, setBegan] = useState(clock.typed(now - Math.ceil(telling.minutes)));
  const [ended, setEnded] = useState(clock.typed(now));
  const told = useTellUpkeep();
  const look = "mt-1 block w-full rounded-lg border border-trail/60 bg-ground px-3 py-2 text-base";
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title={telling.tool ? "Renewed" : "Cleaned"}>
      <form
        className="grid gap-3 text-sm"
        onSubmit={(event) => {
          event.preventDefault();
          told.mutate(
            {
              line: view.line,
              station,
              what,
              kind: telling.tool ? "renewed" : "cleaned",
              tool: telling.tool ?? null,
              began_at: began,
              ended_at: ended,
            },
            { onSuccess: onClose },
          );
        }}
      >
        {telling.at ? (
          <p className="font-semibold">{telling.at}</p>
        ) : (
          <label>
            Where
            <select value={station} onChange={(event) => setStation(event.target.value)} className={look}>
              {Object.entries(view.stations).map(([id, name]) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </select>
          </label>
        )}
        <label>
          What was done
          <input value={what} maxLength={80} onChange={(event) => setWhat(event.target.value)} className={look} />
        </label>
        <div className="grid grid-cols-2 gap-3">
          <label>
            Begun
            <input
              type="datetime-local"
              value={began}
              onChange={(event) => setBegan(event.target.value)}
              className={look}
            />
          </label>
          <label>
            Done
            <input
              type="datetime-local"
              value={ended}
              onChange={(event) => setEnded(event.target.value)}
              className={look}
            />
          </label>
        </div>
        {telling.tool && (
          <Notice title="From then on the tool is new: the plan counts its life anew, and is to be fitted." />
        )}
        {told.isError && <Refused error={told.error} />}
        <div className="flex justify-end gap-2">
          <Button type="button" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" weight="strong" disabled={what.trim() === "" || told.isPending}>
            Enter it
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
