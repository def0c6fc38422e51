/** One line's ribbons over its packs, with a hand in them: choose, drag, pin, split, join, and see what it would do. */

import { useEffect, useRef, useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import type { Change, Meeting, PlanView, Run, Tried, VersionView } from "../../api/client";
import { CHANGED_MEANWHILE, tryChange, useChangeCosts, useChangeVersion } from "../../api/queries";
import { duration, oneDecimal, plural, whole } from "../../app/format";
import { useMinuteNow } from "../../app/useMinuteNow";
import { PackStairs } from "../../charts/PackStairs";
import { LABELS, RibbonChart } from "../../charts/RibbonChart";
import { useSpan } from "../../charts/timeScale";
import { Button, Panel, Refused } from "../../ui/parts";
import { Said } from "../../ui/Said";
import { say } from "../../ui/say";
import { useKeys } from "../../ui/useKeys";
import { useStep } from "../../ui/useStep";
import { useWidth } from "../../ui/useWidth";
import { useWindowView } from "../planningWindow";
import type { Panels } from "./panels";
import { signedPoints } from "./points";
import { RunPanel } from "./RunPanel";
import { movedBy, wantedOf } from "./runs";
import { useRunPanel } from "./useRunPanel";
import { useUndo } from "./VersionStrip";
import { VersionsPanel } from "./VersionsPanel";
import { WavePanel } from "./WavePanel";
import { Zoom } from "./Zoom";

const NUDGE_MIN = 5;

type Props = {
  version: VersionView;
  view: PlanView;
  panel: Panels;
  onPanel: (panel: Panels) => void;
  onSearch: () => void;
};

export function LineChart({ version, view, panel, onPanel, onSearch }: Props) {
  const [search, setSearch] = useSearchParams();
  const navigate = useNavigate();
  const { number } = useParams();
  const change = useChangeVersion();
  const runs = view.plan.runs;
  const run = runs.find((found) => found.id === search.get("run"));
  const select = (id: string | undefined) =>
    setSearch(
      (before) => {
        if (id) before.set("run", id);
        else before.delete("run");
        return before;
      },
      { replace: true },
    );
  /** Nothing is changed while the version to change is still on its way. */
  const arrived = number === undefined || Number(number) === version.note.number;
  const alter = (request: Change, follow?: Run, settled?: () => void, on = version.note.number) => {
    if (!arrived || change.isPending) return settled?.();
    change.mutate(
      { version: on, change: request },
      {
        onSuccess: (made) =>
          navigate(`/plan/${made.version}?line=${view.plan.line}${follow ? `&run=${follow.id}` : ""}`),
        onSettled: settled,
      },
    );
  };
  const { panel: aside, enter, onKeyDown } = useRunPanel(run?.id);
  const choose = (id: string | undefined) => {
    select(id);
    say(id ? `Run ${id} chosen. Enter goes to its panel.` : "No run chosen.");
  };
  const step = useStep(runs, run, (next) => choose(next.id));
  const of = (found: Run) => ({ line: found.line, run: found.id });
  const beside = (by: number) => {
    if (!run) return;
    const target = runs[runs.indexOf(run) + (by > 0 ? 2 : -1)];
    if (by < 0 && !target) return;
    alter({ kind: "place", ...of(run), before: target?.id ?? null }, run);
  };
  const undo = useUndo(version, view.plan.line);
  useKeys({
    j: () => step(1),
    k: () => step(-1),
    Escape: () => choose(undefined),
    n: onSearch,
    v: () => onPanel(panel === "versions" ? "lorries" : "versions"),
    u: undo.undo,
    r: undo.redo,
    b: () => run && navigate(`/dough/${view.number}/${run.id}/1`),
    "[": () => beside(-1),
    "]": () => beside(1),
    ",": () => run && alter({ kind: "move", ...of(run), start_min: Math.max(0, run.start_min - NUDGE_MIN) }, run),
    ".": () => run && alter({ kind: "move", ...of(run), start_min: run.start_min + NUDGE_MIN }, run),
    p: () => run && alter({ kind: "pin", ...of(run), pinned: run.pinned_min == null }, run),
    m: () => run && alter({ kind: "merge", ...of(run) }, run),
    s: () => run && alter({ kind: "split", ...of(run), packs: Math.ceil(wantedOf(run) / 2) }, run),
  });
  return (
    <div className="grid flex-1 gap-2 px-2 pb-2 lg:grid-cols-[1fr_17.5rem]">
      <Panel label="Plan" className="flex min-w-0 flex-col px-1 py-2">
        <Drawing
          version={version}
          view={view}
          selected={run?.id}
          onSelect={choose}
          onEnter={(id) => {
            select(id);
            enter(id);
          }}
          onMove={(held, start_min, settled) => alter({ kind: "move", ...of(held), start_min }, held, settled)}
        />
        {change.isError && <Refused error={change.error} />}
        {change.error?.status === CHANGED_MEANWHILE && change.variables && (
          <Button
            className="mx-3 my-2 self-start"
            onClick={() => change.variables && alter(change.variables.change, run, undefined, version.newest)}
          >
            Apply it to version {version.newest}
          </Button>
        )}
      </Panel>
      <Panel
        ref={aside}
        tabIndex={-1}
        onKeyDown={onKeyDown}
        label={run ? `Run ${run.id}` : panel === "versions" ? "Versions" : "Lorries"}
        className="scroll-mt-2 max-h-[calc(100dvh-11rem)] overflow-auto p-4"
      >
        {run ? (
          <RunPanel
            key={`${run.id}-${version.note.number}`}
            version={version.note.number}
            view={view}
            run={run}
            onChange={(request) => alter(request, run)}
            busy={change.isPending}
          />
        ) : panel === "versions" ? (
          <VersionsPanel version={version} line={view.plan.line} />
        ) : (
          <WavePanel version={version.note.number} view={view} onSelect={select} />
        )}
      </Panel>
    </div>
  );
}

type DrawingProps = {
  version: VersionView;
  view: PlanView;
  selected: string | undefined;
  onSelect: (run: string | undefined) => void;
  onEnter: (run: string) => void;
  onMove: (run: Run, startMin: number, settled: () => void) => void;
};

/** The ribbons over the packs, at any zoom, and a line of words below on what is pointed at or dragged. */
function Drawing({ version, view, selected, onSelect, onEnter, onMove }: DrawingProps) {
  const { day, clock, names, tones } = useWindowView();
  const now = useMinuteNow();
  const waves = day.waves.filter((wave) => view.plan.waves.some((outcome) => outcome.wave === wave.id));
  const [met, setMet] = useState<Meeting>();
  const [element, width] = useWidth<HTMLDivElement>(920);
  const height = useChartHeight(version.stale);
  const lastWave = Math.max(view.timeline.to_min, ...waves.map((wave) => wave.departs_min));
  const [whole_] = useState<readonly [number, number]>([view.timeline.from_min - 10, lastWave + 15]);
  const { span, zoom, move, reset } = useSpan(whole_);
  const tried = useTry(version.note.number);
  /** What is pointed at, or what keeps the chosen run from the one before it. */
  const between = met ?? view.timeline.meetings.find((meeting) => meeting.then === selected);
  const shared = { view, waves, span, width };
  return (
    <>
      <div ref={element} className="min-w-0">
        <RibbonChart
          {...shared}
          {...{ clock, names, tones, met, height, selected, onSelect, onEnter }}
          now={now}
          onMeet={setMet}
          onZoom={zoom}
          onMove={move}
          tried={tried.found}
          onDrag={(held, start_min) => tried.ask({ kind: "move", line: held.line, run: held.id, start_min })}
          onDrop={(held, start_min) => onMove(held, start_min, tried.clear)}
          onCancel={tried.clear}
        />
        <PackStairs {...shared} />
      </div>
      <div
        className="no-print flex min-h-8 items-center gap-2 px-3 pt-1 text-ink-2 text-xs"
        style={{ paddingLeft: LABELS }}
        aria-live="polite"
      >
        <span className="flex-1">
          {tried.asking ? (
            <TriedWords tried={tried.found} />
          ) : between ? (
            <MeetingWords meeting={between} version={version.note.number} line={view.plan.line} />
          ) : (
            <>
              <span className="font-semibold">Order:</span> {view.plan.rule}.
            </>
          )}
        </span>
        <Zoom span={span} onZoom={zoom} onMove={move} onReset={reset} />
      </div>
      {tried.refusal && <Refused error={tried.refusal} />}
    </>
  );
}

/** What a change would do, asked of the server while the hand still moves: one question at a time, the latest request next. */
function useTry(version: number) {
  const [found, setFound] = useState<Tried>();
  const [asking, setAsking] = useState(false);
  const [refusal, setRefusal] = useState<Error>();
  const next = useRef<Change>(undefined);
  const busy = useRef(false);
  const clear = () => {
    next.current = undefined;
    setAsking(false);
    setFound(undefined);
  };
  const ask = async (request: Change) => {
    next.current = request;
    setAsking(true);
    setRefusal(undefined);
    if (busy.current) return;
    busy.current = true;
    while (next.current) {
      const now = next.current;
      next.current = undefined;
      try {
        const answer = await tryChange(version, now);
        setFound(answer);
      } catch (error) {
        setRefusal(error as Error);
      }
    }
    busy.current = false;
  };
  return { found: asking ? found : undefined, asking, refusal, ask, clear };
}

function TriedWords({ tried }: { tried: Tried | undefined }) {
  if (!tried) return <>Calculating …</>;
  const clash = tried.violations[0];
  return (
    <>
      <span className="font-semibold">Dropped here:</span>{" "}
      {tried.moved.length === 0
        ? "nothing moves"
        : tried.moved
            .slice(0, 3)
            .map(
              (one) =>
                `${one.was_run ?? one.run} ${movedBy(one.was_min, one.start_min)}${one.binding?.where ? ` (${one.binding.where})` : ""}`,
            )
            .join(", ")}
      {tried.moved.length > 3 && ` and ${tried.moved.length - 3} more`}; {signedPoints(tried.cost - tried.cost_before)},{" "}
      {plural(tried.score.packs_short, "pack")} short in all
      {clash && (
        <span className="text-ember">
          {" "}
          <Said text={`${clash.run} ${clash.station} ${clash.text}`} />
        </span>
      )}
    </>
  );
}

const ABOVE_AND_BELOW = 352;
const STALE_NOTICE = 60;

/** The height the ribbons may take so that walk bar, figures and pack curves fit the window too. */
function useChartHeight(stale: boolean) {
  const [height, setHeight] = useState(window.innerHeight);
  useEffect(() => {
    const follow = () => setHeight(window.innerHeight);
    window.addEventListener("resize", follow);
    return () => window.removeEventListener("resize", follow);
  }, []);
  return height - ABOVE_AND_BELOW - (stale ? STALE_NOTICE : 0);
}

function MeetingWords({ meeting, version, line }: { meeting: Meeting; version: number; line: string }) {
  const costs = useChangeCosts(version, line).data;
  const cost = costs?.find((found) => found.first === meeting.first && found.then === meeting.then);
  return (
    <>
      <span className="font-semibold">
        {meeting.first} to {meeting.then}:
      </span>{" "}
      <Said
        text={meeting.reasons.map((reason) => `${reason.what} ${oneDecimal(reason.minutes)} min`).join(", then ")}
      />
      {meeting.spare_min >= 0.5 && `; ${duration(meeting.spare_min)} to spare`}
      {cost && cost.idle_min >= 0.5 && (
        <>
          ; the divider waits {duration(cost.idle_min)}: {whole(cost.packs)} packs not made, {whole(cost.points)} points
        </>
      )}
    </>
  );
}
