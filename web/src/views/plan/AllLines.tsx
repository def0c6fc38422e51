/** Every line at once, one under the other on one clock: what the plant does when. */
import { useState } from "react";
import { useNavigate } from "react-router";
import type { VersionView } from "../../api/client";
import { plural, whole } from "../../app/format";
import { LABELS, RibbonChart } from "../../charts/RibbonChart";
import { useSpan } from "../../charts/timeScale";
import { Panel } from "../../ui/parts";
import { useKeys } from "../../ui/useKeys";
import { useWidth } from "../../ui/useWidth";
import { useDayView } from "../day";
import { Zoom } from "./LineChart";
import type { Panels } from "./PlanScreen";
import { VersionsPanel } from "./VersionsPanel";
import { LateLorries } from "./WavePanel";

/** More batches than this are not drawn one by one. */
const MOST_BATCHES = 1_000;

const LINE_PX = 96;
const AXIS_PX = 24;

export function AllLines({ version, panel }: { version: VersionView; panel: Panels }) {
  const { day, clock, names, tones } = useDayView();
  const navigate = useNavigate();
  const [element, width] = useWidth<HTMLDivElement>(920);
  const begins = Math.min(...version.plans.map((view) => view.timeline.from_min));
  const ends = Math.max(...version.plans.map((view) => view.timeline.to_min), ...day.waves.map((w) => w.departs_min));
  const [whole_] = useState<readonly [number, number]>([begins - 10, ends + 15]);
  const { span, zoom, move, reset } = useSpan(whole_);
  const batches = version.plans.reduce(
    (all, v) => all + v.plan.runs.reduce((sum, run) => sum + run.batches.length, 0),
    0,
  );
  const length = span[1] - span[0];
  useKeys({
    "+": () => zoom(0.7),
    "-": () => zoom(1.4),
    "0": reset,
    ArrowLeft: () => move(-length / 8),
    ArrowRight: () => move(length / 8),
  });
  return (
    <div className="grid flex-1 gap-2 px-2 pb-2 lg:grid-cols-[1fr_17.5rem]">
      <Panel label="All lines" className="min-w-0 px-1 py-2">
        <div ref={element} className="min-w-0">
          {version.plans.map((view, place) => {
            const name = day.lines.find((line) => line.id === view.plan.line)?.name ?? view.plan.line;
            return (
              <div key={view.plan.line} className="relative">
                <button
                  type="button"
                  className={`absolute left-3 w-36 text-left hover:underline ${place === 0 ? "top-8" : "top-2"}`}
                  onClick={() => navigate(`/plan/${version.note.number}?line=${view.plan.line}`)}
                >
                  <span className="block font-bold text-sm">{name}</span>
                  <span className="block text-ink-2 text-xs">
                    {plural(view.plan.runs.length, "run")},{" "}
                    {plural(
                      view.plan.runs.reduce((sum, run) => sum + run.batches.length, 0),
                      "batch",
                      "batches",
                    )}
                  </span>
                  {view.plan.score.packs_short > 0 && (
                    <span className="block font-semibold text-ember text-xs">
                      {whole(view.plan.score.packs_short)} packs short
                    </span>
                  )}
                </button>
                <RibbonChart
                  {...{ view, clock, names, tones, span, width }}
                  waves={day.waves.filter((wave) => view.plan.waves.some((outcome) => outcome.wave === wave.id))}
                  height={LINE_PX + (place === 0 ? AXIS_PX : 0)}
                  compact
                  crowded={batches > MOST_BATCHES}
                  axisless={place > 0}
                  now={clock.minuteNow()}
                  selected={undefined}
                  onSelect={(run) => run && navigate(`/plan/${version.note.number}?line=${view.plan.line}&run=${run}`)}
                  met={undefined}
                  onMeet={() => {}}
                  onZoom={zoom}
                  onMove={move}
                />
              </div>
            );
          })}
        </div>
        <div className="no-print flex justify-end px-3 pt-1 text-xs" style={{ paddingLeft: LABELS }}>
          <Zoom onZoom={zoom} onReset={reset} />
        </div>
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
