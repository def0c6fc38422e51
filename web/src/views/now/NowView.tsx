/** A line as it is now: on pace or not, what happened, what comes, and what that does to the lorries. */
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import type { Schemas } from "../../api/client";
import { useLineNow, useNewestNote, useOffer, useStanding, useTakeOffer } from "../../api/queries";
import { duration, plural, whole } from "../../app/format";
import { useMinuteNow } from "../../app/useMinuteNow";
import { RibbonChart } from "../../charts/RibbonChart";
import { useSpan } from "../../charts/timeScale";
import { HandedOver } from "../../ui/HandedOver";
import { LinePick } from "../../ui/LinePick";
import { Button, buttonLook, Empty, Figure, Header, Loading, Panel, Refused } from "../../ui/parts";
import { useWidth } from "../../ui/useWidth";
import { Zoom } from "../plan/Zoom";
import { useLine, useWindowView } from "../planningWindow";
import { HourBars } from "./HourBars";
import { Instruments } from "./Instruments";
import { Lorries } from "./Lorries";
import { checkWords, paceWords } from "./pace";
import { Stopped, useStop } from "./Stopped";

export type LineNow = Schemas["LineNow"];

/** So much of the past and of what comes is drawn at first, min. */
const [BEHIND, AHEAD] = [240, 240];

export function NowView() {
  const line = useLine();
  const [, setSearch] = useSearchParams();
  const found = useLineNow(line?.id);
  if (!line) return <Empty title="No line">The plant has no line yet.</Empty>;
  if (found.isError)
    return (
      <div className="m-5">
        <Refused error={found.error} again={() => found.refetch()} />
      </div>
    );
  if (!found.data) return <Loading what="the line" />;
  return <Line key={line.id} name={line.name} now={found.data} onLine={(id) => setSearch({ line: id })} />;
}

/** A plan that pays more than it disturbs, where a lorry gets less than it was planned to. */
function PlanAnew({ now }: { now: LineNow }) {
  const offer = useOffer(
    now.line,
    now.lorries.some((one) => one.is_worse),
  ).data?.offer;
  const take = useTakeOffer();
  if (take.error) return <Refused error={take.error} />;
  if (!offer) return null;
  const fewer = offer.short_before - offer.short;
  return (
    <section
      aria-label="A better plan"
      className="mx-2 mb-2 flex flex-wrap items-center gap-3 border-steam border-l-4 bg-paper px-4 py-2"
    >
      <p className="font-semibold">
        Planned anew, {fewer > 0 ? `${plural(fewer, "pack")} fewer miss their lorry` : "it costs less"}:{" "}
        {whole(offer.gain)} points less, {plural(offer.moved.length, "run")} moved.
      </p>
      <Button size="small" disabled={take.isPending} onClick={() => take.mutate(now.line)}>
        Plan anew
      </Button>
    </section>
  );
}

/** What of the walk is due or late here, and the way to it. */
function ChecksDue({ line }: { line: string }) {
  const found = useStanding(true).data?.find((one) => one.line === line);
  if (!found) return null;
  return (
    <Link className={`${buttonLook()} ${found.late ? "text-ember" : ""}`} to={`/walk/${line}`}>
      {checkWords(found)}
    </Link>
  );
}

type LineProps = { name: string; now: LineNow; onLine: (line: string) => void };

function Line({ name, now, onLine }: LineProps) {
  const { clock } = useWindowView();
  const [stopped, setStopped] = useState(false);
  const stop = useStop(now);
  const stations = new Map(now.timeline.rows.map((row) => [row.station, row.name]));
  const nameOf = (station: string) => stations.get(station) ?? station;
  const minute = useMinuteNow();
  const hour = now.hours.find((one) => one.from_min <= minute && minute < one.until_min);
  return (
    <>
      <Header
        title={`${name}, now`}
        sub={
          <>
            <Answering now={now} /> ·{" "}
            <Link to="/board" className="underline">
              board
            </Link>{" "}
            ·{" "}
            <Link to="/stops" className="underline">
              stops
            </Link>{" "}
            ·{" "}
            <Link to="/checks" className="underline">
              checks
            </Link>
          </>
        }
        figures={
          <>
            <Ahead now={now} />
            {now.pace && (
              <Figure
                value={`${whole(now.pace.per_h)} /h`}
                label={`packs, last 15 min; plan ${whole(now.pace.planned_per_h)}`}
                wrong={now.pace.is_slow}
              />
            )}
            {hour?.made != null && hour.planned > 0 && (
              <Figure
                value={`${whole(hour.made)} of ${whole(hour.planned)}`}
                label="packs this hour"
                wrong={hour.is_short}
              />
            )}
          </>
        }
        actions={
          <>
            <LinePick line={now.line} onChange={onLine} />
            <ChecksDue line={now.line} />
            <Button weight="strong" onClick={() => setStopped(true)}>
              Something stopped
            </Button>
          </>
        }
      />
      {stop.error && <Refused error={stop.error} />}
      <PlanAnew now={now} />
      {now.standing.map((stoppage) => (
        <section
          key={stoppage.station}
          aria-label={nameOf(stoppage.station)}
          className="mx-2 mb-2 flex flex-wrap items-center gap-3 border-ember border-l-4 bg-paper px-4 py-2"
        >
          <p role="alert" className="font-semibold text-ember">
            {nameOf(stoppage.station)} stopped at {clock.time(stoppage.from_min)}
          </p>
          <span className="text-ink-2 text-sm">{duration(Math.max(0, minute - stoppage.from_min))} ago</span>
          <Button size="small" disabled={stop.isPending} onClick={() => stop.tell(stoppage.station)}>
            What to do
          </Button>
        </section>
      ))}
      <Less now={now} />
      <LastShift line={now.line} />
      <div className="grid flex-1 grid-cols-[minmax(0,1fr)] content-start gap-2 px-2 pb-2 lg:grid-cols-[minmax(0,1fr)_26rem]">
        <div className="grid min-w-0 grid-cols-[minmax(0,1fr)] content-start gap-2">
          <Panel label="What happened and what comes" className="p-2">
            <Chart now={now} minute={minute} />
          </Panel>
          <Panel label="Made and planned by the hour, packs" className="p-4">
            <HourBars now={now} nameOf={nameOf} />
          </Panel>
        </div>
        <div className="grid min-w-0 grid-cols-[minmax(0,1fr)] content-start gap-2">
          <Panel label="Lorries" className="p-4">
            <Lorries now={now} />
          </Panel>
          <Panel label="Next" className="p-4">
            <Next now={now} nameOf={nameOf} />
          </Panel>
          <Panel label="Instruments" className="p-4">
            <Instruments now={now} />
          </Panel>
        </div>
      </div>
      {stopped && <Stopped now={now} stations={stations} onClose={() => setStopped(false)} />}
    </>
  );
}

/** What the last shift handed over on this line. */
function LastShift({ line }: { line: string }) {
  const { clock } = useWindowView();
  const note = useNewestNote(line).data;
  return note ? (
    <div className="mx-2 mb-2 bg-paper px-4 py-2 text-sm">
      <HandedOver note={note} clock={clock} />
    </div>
  ) : null;
}

/** Runs that gave less than planned, by what was counted; the plan after them makes the rest where it can. */
function Less({ now }: { now: LineNow }) {
  const { names } = useWindowView();
  if (now.less.length === 0) return null;
  return (
    <section aria-label="Gave less than planned" className="mx-2 mb-2 bg-paper px-4 py-2 text-sm">
      {now.less.map((one) => (
        <p key={one.run}>
          <b>
            {one.run} {names.get(one.product)} gave {whole(one.packs)} of {whole(one.planned)} packs.
          </b>{" "}
          <span className="text-ink-2">The lorries and what comes next count with what it gave.</span>
        </p>
      ))}
    </section>
  );
}

/** Where the figures come from: the version, and how many instruments answer. */
function Answering({ now }: { now: LineNow }) {
  const simulated = now.sources.some((source) => source.is_simulated);
  const answer = now.read.length - now.silent.length;
  const wrong = now.sources.find((source) => source.says !== "");
  return (
    <>
      version {now.version} · {answer} of {plural(now.read.length, "instrument")} answer
      {simulated && <strong className="font-semibold text-crust"> · simulated plant</strong>}
      {wrong && (
        <span className="text-ember">
          {" "}
          · {wrong.name}: {wrong.says}
        </span>
      )}
    </>
  );
}

/** Packs ahead of the plan, or behind it, since they have been counted. */
function Ahead({ now }: { now: LineNow }) {
  const { clock } = useWindowView();
  if (!now.pace) return <Figure value="–" label="nothing has been counted yet" />;
  return (
    <Figure
      value={paceWords(now.pace)}
      label={`since ${clock.time(now.pace.since_min)}`}
      wrong={now.pace.stands === "behind"}
    />
  );
}

function Chart({ now, minute }: { now: LineNow; minute: number }) {
  const { day, clock, names, tones } = useWindowView();
  const navigate = useNavigate();
  const [element, width] = useWidth<HTMLDivElement>(820);
  const [whole_] = useState<readonly [number, number]>([minute - BEHIND, minute + AHEAD]);
  const { span, zoom, move, reset } = useSpan(whole_);
  const view = {
    number: now.version,
    created_at: "",
    book: 0,
    library: 0,
    stale: false,
    plan: now.plan,
    timeline: now.timeline,
    violations: [],
  };
  return (
    <div ref={element} className="min-w-0">
      <RibbonChart
        {...{ view, clock, names, tones, span, width }}
        waves={day.waves.filter((wave) => now.lorries.some((lorry) => lorry.wave === wave.id))}
        height={380}
        planned={now.planned}
        now={minute}
        selected={undefined}
        onSelect={(run) => run && navigate(`/plan?line=${now.line}&run=${run}`)}
        met={undefined}
        onMeet={() => {}}
        onZoom={zoom}
        onMove={move}
      />
      <div className="no-print flex items-center gap-2 px-3 text-ink-2 text-xs">
        <span className="flex-1">
          {now.pace
            ? `Since ${clock.time(now.pace.since_min)} as the counters have it, dashed as planned; right of now re-timed from what the line does.`
            : "As planned: nothing has been counted yet."}
        </span>
        <Zoom span={span} onZoom={zoom} onMove={move} onReset={reset} />
      </div>
    </div>
  );
}

type Coming = LineNow["next"][number];

function says(one: Coming, product: string, station: string): string {
  if (one.what === "dough") return `${one.mixer}: ${product}, batch ${one.batch}`;
  return `${one.run} ${product} ${one.what} at ${station}`;
}

function Next({ now, nameOf }: { now: LineNow; nameOf: (station: string) => string }) {
  const { clock, names } = useWindowView();
  return (
    <>
      <h2 className="font-bold">Next</h2>
      {now.next.length === 0 && <p className="text-ink-2 text-sm">Nothing in the next three hours.</p>}
      <ol className="divide-y divide-rule">
        {now.next.map((one) => (
          <li key={`${one.what}${one.run}`} className="flex gap-4 py-1.5 text-sm">
            <time className="w-12 font-bold text-steam">{clock.time(one.at_min)}</time>
            <span>{says(one, names.get(one.product) ?? one.product, nameOf(one.station))}</span>
          </li>
        ))}
      </ol>
    </>
  );
}
