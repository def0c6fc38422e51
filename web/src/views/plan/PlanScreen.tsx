/** The plan of a line's day: ribbons, packs against waves, and whatever is chosen in them. */
import { useEffect, useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import type { Meeting, PlanView, Refusal } from "../../api/client";
import { usePlan, usePlanDay } from "../../api/queries";
import { duration, oneDecimal, whole } from "../../app/format";
import { PackStairs } from "../../charts/PackStairs";
import { LABELS, RibbonChart } from "../../charts/RibbonChart";
import { useSpan } from "../../charts/timeScale";
import { LinePick } from "../../ui/LinePick";
import { Button, buttonLook, Empty, Figure, Header, Loading, Notice, Panel, Refused } from "../../ui/parts";
import { useKeys } from "../../ui/useKeys";
import { useStep } from "../../ui/useStep";
import { useWidth } from "../../ui/useWidth";
import { useDayView, useLine } from "../day";
import { RunPanel } from "./RunPanel";
import { WavePanel } from "./WavePanel";

export function PlanScreen() {
  const { number } = useParams();
  const chosen = useLine()?.id ?? "";
  const plan = usePlan(number === undefined ? undefined : Number(number), chosen);
  const replan = usePlanDay();
  const navigate = useNavigate();
  const line = plan.data?.plan.line ?? chosen;
  const planDay = () => replan.mutate({ line }, { onSuccess: () => navigate(`/plan?line=${line}`) });

  if (plan.isPending) return <Loading what="the plan" />;
  if (plan.isError) {
    if ((plan.error as Refusal).status !== 404 || number !== undefined)
      return (
        <div className="m-5">
          <Refused error={plan.error} again={() => plan.refetch()} />
        </div>
      );
    return (
      <Empty title="No plan yet">
        <p className="mb-4">The orders are in. Rundgang can work out the day from them.</p>
        <span className="inline-flex gap-2">
          <LinePick line={line} onChange={(id) => navigate(`/plan?line=${id}`)} />
          <Button weight="strong" onClick={planDay} disabled={replan.isPending}>
            {replan.isPending ? "Planning …" : "Plan the day"}
          </Button>
        </span>
        {replan.isError && <Refused error={replan.error} />}
      </Empty>
    );
  }
  return (
    <>
      {replan.isError && (
        <div className="mx-5 mt-3">
          <Refused error={replan.error} />
        </div>
      )}
      <Plan view={plan.data} onPlan={planDay} planning={replan.isPending} />
    </>
  );
}

function Plan({ view, onPlan, planning }: { view: PlanView; onPlan: () => void; planning: boolean }) {
  const { day, clock } = useDayView();
  const navigate = useNavigate();
  const score = view.plan.score;
  const line = day.lines.find((found) => found.id === view.plan.line)?.name ?? view.plan.line;
  const [begins, ends] = [clock.date(view.timeline.from_min), clock.date(view.timeline.to_min)];
  const until = `${begins === ends ? "" : `${ends} `}${clock.time(view.timeline.to_min)}`;
  const batches = view.plan.runs.reduce((sum, run) => sum + run.batches.length, 0);
  return (
    <>
      <Header
        title={line}
        sub={`Plan ${view.number}, ${begins} ${clock.time(view.timeline.from_min)} to ${until}`}
        figures={
          <>
            <Figure value={whole(score.packs_short)} label="packs short" wrong={score.packs_short > 0} />
            <Figure value={oneDecimal(score.late_pack_hours)} label="pack hours late" wrong={score.packs_short > 0} />
            {score.packs_stale > 0 && (
              <Figure value={whole(score.packs_stale)} label="packs thrown away, too old" wrong />
            )}
            <Figure value={duration(score.changeover_min)} label="divider idle at changes" />
            <Figure value={`+${whole(score.surplus_packs)}`} label="packs to stock" />
            <Figure value={`${view.plan.runs.length} / ${batches}`} label="runs / batches" />
          </>
        }
        actions={
          <>
            <LinePick line={view.plan.line} onChange={(id) => navigate(`/plan?line=${id}`)} />
            <Link to={`/print/${view.number}`} className={buttonLook()}>
              Print
            </Link>
            <Button weight="strong" onClick={onPlan} disabled={planning}>
              {planning ? "Planning …" : "Plan again"}
            </Button>
          </>
        }
      />
      {view.stale && (
        <div className="mx-2 mb-2">
          <Notice tone="wrong" title="The orders or the plant's data have changed since this plan was made.">
            It is for order book {view.book} and library {view.library}; the newest are book {day.book.number} and
            library {day.library}.{" "}
            <button type="button" className="font-semibold underline" onClick={onPlan} disabled={planning}>
              Plan these orders
            </button>
          </Notice>
        </div>
      )}
      {view.violations.length > 0 && (
        <div className="mx-2 mb-2">
          <Notice tone="wrong" title="The check finds this plan cannot be run as it stands.">
            <ul className="list-disc pl-5">
              {view.violations.map((violation) => (
                <li key={`${violation.run}${violation.station}${violation.text}`}>
                  {violation.run} {violation.station} {violation.text}
                </li>
              ))}
            </ul>
          </Notice>
        </div>
      )}
      {view.plan.runs.length === 0 ? (
        <Empty title="Nothing to make">
          There are no orders for this line.{" "}
          <Link to="/orders" className="underline">
            Bring some in.
          </Link>
        </Empty>
      ) : (
        <Chart key={view.number} view={view} onPlan={onPlan} />
      )}
    </>
  );
}

function Chart({ view, onPlan }: { view: PlanView; onPlan: () => void }) {
  const { day, clock, names, tones } = useDayView();
  const [search, setSearch] = useSearchParams();
  const waves = day.waves.filter((wave) => view.plan.waves.some((outcome) => outcome.wave === wave.id));
  const navigate = useNavigate();
  const [met, setMet] = useState<Meeting>();
  const [element, width] = useWidth<HTMLDivElement>(920);
  const height = useChartHeight();
  const lastWave = Math.max(view.timeline.to_min, ...waves.map((wave) => wave.departs_min));
  const [whole_] = useState<readonly [number, number]>([view.timeline.from_min - 10, lastWave + 15]);
  const { span, zoom, move, reset } = useSpan(whole_);
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
  const step = useStep(runs, run, (next) => select(next.id));
  const length = span[1] - span[0];
  useKeys({
    j: () => step(1),
    k: () => step(-1),
    Escape: () => select(undefined),
    "+": () => zoom(0.7),
    "-": () => zoom(1.4),
    "0": reset,
    ArrowLeft: () => move(-length / 8),
    ArrowRight: () => move(length / 8),
    n: onPlan,
    b: () => run && navigate(`/dough/${view.number}/${run.id}/1`),
  });
  const shared = { view, waves, span, width };
  return (
    <div className="grid flex-1 gap-2 px-2 pb-2 lg:grid-cols-[1fr_17.5rem]">
      <Panel label="Plan" className="flex min-w-0 flex-col px-1 py-2">
        <div ref={element} className="min-w-0">
          <RibbonChart
            {...shared}
            {...{ clock, names, tones, met }}
            height={height}
            now={clock.minuteNow()}
            selected={run?.id}
            onSelect={select}
            onMeet={setMet}
            onZoom={zoom}
            onMove={move}
          />
          <PackStairs {...shared} />
        </div>
        <div className="no-print flex items-center gap-2 px-3 pt-1 text-ink-2 text-xs" style={{ paddingLeft: LABELS }}>
          <span className="flex-1">
            {met ? (
              <MeetingWords meeting={met} />
            ) : (
              <>
                <span className="font-semibold">Order:</span> {view.plan.rule}.
              </>
            )}
          </span>
          <Zoom onZoom={zoom} onReset={reset} />
        </div>
      </Panel>
      <Panel label={run ? `Run ${run.id}` : "Waves"} className="overflow-auto p-4">
        {run ? <RunPanel key={run.id} view={view} run={run} /> : <WavePanel view={view} onSelect={select} />}
      </Panel>
    </div>
  );
}

const ABOVE_AND_BELOW = 315;

/** The height the ribbons may take so that walk bar, figures and pack curves fit the window too. */
function useChartHeight() {
  const [height, setHeight] = useState(window.innerHeight);
  useEffect(() => {
    const follow = () => setHeight(window.innerHeight);
    window.addEventListener("resize", follow);
    return () => window.removeEventListener("resize", follow);
  }, []);
  return height - ABOVE_AND_BELOW;
}

function MeetingWords({ meeting }: { meeting: Meeting }) {
  return (
    <>
      <span className="font-semibold">
        {meeting.first} to {meeting.then}:
      </span>{" "}
      {meeting.reasons.map((reason) => `${reason.what} ${oneDecimal(reason.minutes)} min`).join(", then ")}
      {meeting.spare_min >= 0.5 && `; ${duration(meeting.spare_min)} to spare`}
    </>
  );
}

function Zoom({ onZoom, onReset }: { onZoom: (factor: number) => void; onReset: () => void }) {
  const look = "h-7 min-w-7 rounded border border-rule px-2 text-ink hover:border-crust";
  return (
    <span className="flex gap-1">
      <button type="button" className={look} aria-label="Closer" onClick={() => onZoom(0.7)}>
        +
      </button>
      <button type="button" className={look} aria-label="Wider" onClick={() => onZoom(1.4)}>
        −
      </button>
      <button type="button" className={look} onClick={onReset}>
        All of it
      </button>
    </span>
  );
}
