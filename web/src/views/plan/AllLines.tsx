/** Every line at once, one under the other on one clock: what the plant does when. */
import { memo, useState } from "react";
import { useNavigate } from "react-router";
import { mixedFor, type PlanView, type VersionView } from "../../api/client";
import { plural, whole } from "../../app/format";
import { useMinuteNow } from "../../app/useMinuteNow";
import { LABELS, RibbonChart } from "../../charts/RibbonChart";
import { AXIS, heightOf, layOut, NO_AXIS } from "../../charts/ribbons";
import { type Span, useSpan } from "../../charts/timeScale";
import { Panel } from "../../ui/parts";
import { useInSight } from "../../ui/useInSight";
import { useWidth } from "../../ui/useWidth";
import { useWindowView } from "../planningWindow";
import type { Panels } from "./panels";
import { VersionsPanel } from "./VersionsPanel";
import { LateLorries } from "./WavePanel";
import { Zoom } from "./Zoom";

const LINE_PX = 96;
const AXIS_PX = 24;

export function AllLines({ version, panel }: { version: VersionView; panel: Panels }) {
  const navigate = useNavigate();
  return (
    <div className="grid flex-1 gap-2 px-2 pb-2 lg:grid-cols-[1fr_17.5rem]">
      <Panel label="All lines" className="min-w-0 px-1 py-2">
        <Lines version={version} />
      </Panel>
      <Panel
        label={panel === "versions" ? "Versions" : "Lorries"}
        className="max-h-[calc(100dvh-11rem)] overflow-auto p-4"
      >
        {panel === "versions" ? (
          <VersionsPanel version={version} line="all" />
        ) : (
          <LateLorries
            version={version.note.number}
            views={version.plans}
            onSelect={(line, run) => navigate(`/plan/${version.note.number}?line=${line}&run=${run}`)}
          />
        )}
      </Panel>
    </div>
  );
}

/** The lines' ribbons on one clock, at any zoom. */
function Lines({ version }: { version: VersionView }) {
  const { day } = useWindowView();
  const [element, width] = useWidth<HTMLDivElement>(920);
  const begins = Math.min(...version.plans.map((view) => view.timeline.from_min));
  const ends = Math.max(...version.plans.map((view) => view.timeline.to_min), ...day.waves.map((w) => w.departs_min));
  const [whole_] = useState<readonly [number, number]>([begins - 10, ends + 15]);
  const { span, zoom, move, reset } = useSpan(whole_);
  return (
    <>
      <div ref={element} className="min-w-0">
        {version.plans.map((view, place) => (
          <OneLine
            key={view.plan.line}
            {...{ view, place, span, width }}
            version={version.note.number}
            onZoom={zoom}
            onMove={move}
          />
        ))}
      </div>
      <div className="no-print flex justify-end px-3 pt-1 text-xs" style={{ paddingLeft: LABELS }}>
        <Zoom span={span} onZoom={zoom} onMove={move} onReset={reset} />
      </div>
    </>
  );
}

type LineProps = {
  version: number;
  view: PlanView;
  place: number;
  span: Span;
  width: number;
  onZoom: (factor: number, around?: number) => void;
  onMove: (minutes: number) => void;
};

/** One line among all: its name, and its ribbons once they come into sight. */
function OneLine({ version, view, place, span, width, onZoom, onMove }: LineProps) {
  const { day, clock, names, tones } = useWindowView();
  const now = useMinuteNow();
  const navigate = useNavigate();
  const [element, seen] = useInSight<HTMLDivElement>(LINE_PX);
  const { line } = view.plan;
  const height = LINE_PX + (place === 0 ? AXIS_PX : 0);
  const drawn = heightOf(layOut(view.timeline.rows, height, true, place === 0 ? AXIS : NO_AXIS));
  return (
    <div ref={element} className="relative" style={{ minHeight: drawn }}>
      <LineName view={view} version={version} first={place === 0} />
      {seen && (
        <RibbonChart
          {...{ view, clock, names, tones, span, width, height, onZoom, onMove }}
          waves={day.waves.filter((wave) => view.plan.waves.some((outcome) => outcome.wave === wave.id))}
          compact
          axisless={place > 0}
          now={now}
          selected={undefined}
          onSelect={(run) => run && navigate(`/plan/${version}?line=${line}&run=${run}`)}
          met={undefined}
          onMeet={() => {}}
        />
      )}
    </div>
  );
}

type NameProps = { view: PlanView; version: number; first: boolean };

const LineName = memo(({ view, version, first }: NameProps) => {
  const { day } = useWindowView();
  const navigate = useNavigate();
  const { line, runs, waves } = view.plan;
  const short = waves.reduce((sum, wave) => sum + wave.short, 0);
  return (
    <button
      type="button"
      className={`absolute left-3 w-36 text-left hover:underline ${first ? "top-8" : "top-2"}`}
      onClick={() => navigate(`/plan/${version}?line=${line}`)}
    >
      <span className="block font-bold text-sm">{day.lines.find((found) => found.id === line)?.name ?? line}</span>
      <span className="block text-ink-2 text-xs">
        {plural(runs.length, "run")},{" "}
        {plural(
          runs.reduce((sum, run) => sum + mixedFor(run).length, 0),
          "batch",
          "batches",
        )}
      </span>
      {short > 0 && <span className="block font-semibold text-ember text-xs">{whole(short)} packs short</span>}
    </button>
  );
});
