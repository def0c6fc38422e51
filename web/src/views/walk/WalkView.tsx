/** The walk: a line's stops in plant order, and at each what is due. One hand, one figure or one tap; network or not. */
import { type ReactNode, useEffect, useState } from "react";
import { Link, Navigate, useNavigate, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { useBeginStop, usePlanningWindow } from "../../api/queries";
import { type Clock, duration, plural } from "../../app/format";
import { HandedOver } from "../../ui/HandedOver";
import { Loading, Refused } from "../../ui/parts";
import { rememberedLine, rememberLine } from "../planningWindow";
import { type Answer, CheckCard } from "./CheckCard";
import { type Asked, askedOf, batchOf, byOccasion, entryOf, type Stop, stateOf } from "./due";
import { type Kept, type KnownRound, keep, letGo, type Walker } from "./outbox";
import { PullPieces } from "./PullPieces";
import { Rail } from "./Rail";
import { useBox, useRound, useRoundClock } from "./useRound";
import { useWalker, WhoWalks } from "./Walker";

export function WalkView() {
  const { line = rememberedLine() } = useParams();
  useWithoutNetwork();
  if (!line) return <FirstLine />;
  return <Line key={line} line={line} />;
}

/** This page opens without a network from its first visit on, where the browser lets it. */
function useWithoutNetwork() {
  useEffect(() => {
    document.title = "Walk – Rundgang";
    void navigator.serviceWorker?.register("/sw.js").catch(() => undefined);
  }, []);
}

/** Nobody has looked at a line yet: the plant's first. */
function FirstLine() {
  const day = usePlanningWindow(true);
  const first = day.data?.lines[0];
  if (day.isError) return <Whole>{<Refused error={day.error} again={() => day.refetch()} />}</Whole>;
  return first ? <Navigate to={`/walk/${first.id}`} replace /> : <Loading what="the walk" />;
}

const Whole = ({ children }: { children: ReactNode }) => <main className="m-5">{children}</main>;

function Line({ line }: { line: string }) {
  const round = useRound(line);
  const box = useBox();
  const clock = useRoundClock(round.data);
  const { walker, walks, leaves } = useWalker();
  if (round.isError && !round.data)
    return (
      <Whole>
        <Refused error={round.error} again={() => round.refetch()} />
        <Link to="/plan" className="mt-4 inline-block underline">
          To the plan
        </Link>
      </Whole>
    );
  if (!round.data || !clock || walker === undefined) return <Loading what="the walk" />;
  return (
    <div className="flex min-h-dvh flex-col">
      <Head known={round.data} fresh={round.data.fresh} box={box} clock={clock} walker={walker} onLeave={leaves} />
      {walker ? (
        <Walking known={round.data} box={box} clock={clock} walker={walker} />
      ) : (
        <main className="flex flex-1 flex-col gap-5 p-5">
          <HandedOver note={round.data.round.handover} clock={clock} />
          <WhoWalks onName={walks} />
        </main>
      )}
    </div>
  );
}

type HeadProps = {
  known: KnownRound;
  fresh: boolean;
  box: readonly Kept[];
  clock: Clock;
  walker: Walker | null;
  onLeave: () => void;
};

function Head({ known, fresh, box, clock, walker, onLeave }: HeadProps) {
  const navigate = useNavigate();
  const { round } = known;
  const name = round.lines.find((one) => one.id === known.line)?.name ?? known.line;
  return (
    <header className="flex flex-wrap items-center gap-x-6 gap-y-1 border-rule border-b bg-paper px-5 py-2">
      <Link to="/now" className="grid min-h-[48px] items-center font-bold text-xl">
        Rundgang
      </Link>
      <div>
        <h1 className="sr-only">The walk along the {name}</h1>
        <select
          aria-label="Line"
          value={known.line}
          onChange={(event) => {
            rememberLine(event.target.value);
            navigate(`/walk/${event.target.value}`);
          }}
          className="min-h-[48px] rounded-lg border border-trail/60 bg-paper px-3 font-bold"
        >
          {round.lines.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </select>
      </div>
      {walker && (
        <button type="button" onClick={onLeave} className="min-h-[48px] text-left text-ink-2 text-sm underline">
          {walker.name} walks; change
        </button>
      )}
      <div className="ml-auto text-right">
        <p className="font-bold text-xl">
          {clock.time(clock.minuteNow())}
          {round.clock_simulated && <span className="ml-2 font-normal text-ink-2 text-sm">simulated clock</span>}
        </p>
        <Sent box={box} fresh={fresh} readAt={known.readAt} />
      </div>
    </header>
  );
}

/** What is not stored yet, and since when there is no network. */
function Sent({ box, fresh, readAt }: { box: readonly Kept[]; fresh: boolean; readAt: number }) {
  const waiting = box.filter((one) => !one.sent && one.why === undefined).length;
  const refused = box.filter((one) => one.why !== undefined).length;
  return (
    <p role="status" className={`text-sm ${waiting || !fresh ? "font-semibold text-steam" : "text-ink-2"}`}>
      {!fresh && `No network for ${duration((Date.now() - readAt) / 60_000)}. `}
      {waiting > 0
        ? `${plural(waiting, "entry waits", "entries wait")} for the network`
        : fresh
          ? "all entries are stored"
          : ""}
      {refused > 0 && <span className="ml-2 text-ember">{refused} not taken</span>}
    </p>
  );
}

type WalkingProps = { known: KnownRound; box: readonly Kept[]; clock: Clock; walker: Walker };

function Walking({ known, box, clock, walker }: WalkingProps) {
  const { station } = useParams();
  const navigate = useNavigate();
  const { round } = known;
  const now = clock.minuteNow();
  const kept = byOccasion(box);
  const minuteOf = (at: string) => (Date.parse(at) - Date.parse(round.window.starts_at)) / 60_000;
  const stops = round.round.stops
    .filter((stop) => stop.checks.length > 0)
    .map((stop) => ({
      stop,
      asked: stop.checks.flatMap((check) => askedOf(check, now, kept, minuteOf) ?? []),
    }));
  if (stops.length === 0) return <NoChecks />;
  const place = Math.max(
    0,
    stops.findIndex((one) => one.stop.station === station),
  );
  const at = stops[place];
  if (!at) return null;
  const go = (to: string) => navigate(`/walk/${known.line}/${to}`, { replace: true });
  const enter = ({ check, due }: Asked, { says, good, note, ...found }: Answer) => {
    const at = clock.stamp(clock.minuteNow());
    const entry = entryOf(round, check, due, { ...found, at, note: note.trim(), author: walker.name });
    return keep(entry, says, good);
  };
  return (
    <div className="flex flex-1 flex-col gap-3 p-3 md:flex-row">
      <Rail stops={stops} at={at.stop.station} now={now} clock={clock} onGo={go} />
      <main className="min-w-0 flex-1 rounded-xl border border-rule bg-paper p-5">
        <AtStop
          key={at.stop.station}
          known={known}
          stop={at.stop}
          asked={at.asked}
          now={now}
          clock={clock}
          onEnter={enter}
        />
        <PullPieces
          key={`pull ${at.stop.station}`}
          known={known}
          box={box}
          at={at.stop}
          clock={clock}
          walker={walker}
        />
        <Held held={round.round.held.filter((one) => one.station === at.stop.station)} known={known} clock={clock} />
        <Cautions stop={at.stop} />
        <nav aria-label="Along the line" className="mt-6 grid grid-cols-3 gap-3">
          <Along to={stops[place - 1]?.stop} onGo={go} sign="‹" />
          <Stopped line={known.line} station={at.stop.station} />
          <Along to={stops[place + 1]?.stop} onGo={go} sign="›" strong />
        </nav>
      </main>
    </div>
  );
}

function NoChecks() {
  return (
    <main className="m-auto max-w-md p-8 text-center">
      <h2 className="font-bold text-xl">No checks on this line yet</h2>
      <p className="mt-2 text-ink-2">
        What is looked at and measured is defined on the{" "}
        <Link to="/checks" className="underline">
          page of checks
        </Link>
        , which suggests what is usual at each station.
      </p>
    </main>
  );
}

type AtStopProps = {
  known: KnownRound;
  stop: Stop;
  asked: Asked[];
  now: number;
  clock: Clock;
  onEnter: (asked: Asked, answer: Answer) => void;
};

function AtStop({ known, stop, asked, now, clock, onEnter }: AtStopProps) {
  const { round } = known;
  const [waits, later] = [
    asked.filter((one) => stateOf(one, now) !== "next"),
    asked.filter((one) => stateOf(one, now) === "next"),
  ];
  const first = waits.find((one) => !one.shown && one.check.inspection.asks.kind !== "chosen")?.due.key;
  return (
    <>
      <header className="mb-4 flex flex-wrap items-baseline justify-between gap-x-4">
        <h2 className="font-bold text-2xl">{stop.name}</h2>
        <p className="text-ink-2">
          {stop.run
            ? `${stop.run} ${round.products[stop.product ?? ""] ?? ""}, until about ${clock.time(stop.until_min ?? 0)}`
            : "nothing passes now"}
        </p>
      </header>
      <Cards asked={waits} first={first} now={now} clock={clock} round={round} onEnter={onEnter} />
      {later.length > 0 && (
        <details className="mt-2 border-rule border-t pt-3" open={waits.length === 0}>
          <summary className="min-h-[48px] cursor-pointer content-center font-bold">
            Next: {later[0]?.check.inspection.name} at {clock.time(later[0]?.due.due_min ?? 0)}
            {later.length > 1 && `, and ${later.length - 1} more`}
          </summary>
          <Cards asked={later} now={now} clock={clock} round={round} onEnter={onEnter} />
        </details>
      )}
    </>
  );
}

type CardsProps = Pick<AtStopProps, "asked" | "now" | "clock" | "onEnter"> & {
  first?: string;
  round: KnownRound["round"];
};

function Cards({ asked, first, now, clock, round, onEnter }: CardsProps) {
  const [chosen, setOpen] = useState<string>();
  const open = chosen ?? first;
  return asked.map((one) => (
    <CheckCard
      key={one.due.key}
      asked={one}
      now={now}
      clock={clock}
      open={open === one.due.key}
      batch={batchOf(one.due, round)}
      reads={readAt(round.read, one)}
      onOpen={() => setOpen(one.due.key)}
      onAnswer={(answer) => onEnter(one, answer)}
      onLetGo={letGo}
    />
  ));
}

const READ: Record<string, string> = {
  "oven temperature": "temperature",
  "oil temperature": "temperature",
  climate: "temperature",
  "dough temperature": "temperature",
  humidity: "humidity",
};

/** What the instrument there reads of the same. */
function readAt(read: Schemas["ReadNow"][], { check }: Asked) {
  const { asks, station } = check.inspection;
  if (asks.kind !== "measured") return undefined;
  const path = `${check.inspection.line}/${station}/${READ[asks.subject]}${asks.zone ? `/${asks.zone}` : ""}`;
  return read.find((one) => one.path === path);
}

function Held({ held, known, clock }: { held: Schemas["Held"][]; known: KnownRound; clock: Clock }) {
  return held.map((one) => (
    <section key={`${one.inspection} ${one.until_min}`} className="mt-4 border-ember border-l-4 py-1 pl-3">
      <h3 className="font-bold text-ember">
        Held: {one.name}, {one.says}
      </h3>
      <p>
        What passed from {clock.moment(one.from_min)} to {clock.moment(one.until_min)}:{" "}
        {one.stretches.length === 0 && "nothing."}
        {one.stretches
          .map(
            (part) =>
              `${part.run} ${known.round.products[part.product] ?? ""}, about ${plural(Math.round(part.packs), "pack")}`,
          )
          .join("; ")}
      </p>
    </section>
  ));
}

function Cautions({ stop }: { stop: Stop }) {
  return stop.cautions.map((caution) => (
    <section key={caution.about} className="mt-4 border-ember border-l-4 py-1 pl-3">
      <h3 className="font-bold">{caution.about}</h3>
      <p className="text-ink-2">{caution.text}</p>
    </section>
  ));
}

/** The station at this stop stands: told at once, and its page says what to do. */
function Stopped({ line, station }: { line: string; station: string }) {
  const { mutate, isPending, isError } = useBeginStop();
  const navigate = useNavigate();
  return (
    <button
      type="button"
      disabled={isPending}
      onClick={() =>
        mutate({ line, station, began_at: null }, { onSuccess: ({ number }) => navigate(`/stop/${number}`) })
      }
      className="h-20 rounded-xl border-2 border-ember px-2 font-bold text-ember text-lg leading-5"
    >
      {isError ? "Not told: tell the line lead" : "It stopped"}
    </button>
  );
}

type AlongProps = { to: Stop | undefined; sign: "‹" | "›"; strong?: boolean; onGo: (to: string) => void };

function Along({ to, sign, strong = false, onGo }: AlongProps) {
  if (!to) return <span />;
  return (
    <button
      type="button"
      onClick={() => onGo(to.station)}
      className={`h-20 rounded-xl border-2 px-2 font-bold text-lg ${strong ? "border-ink bg-ink text-paper" : "border-trail/60 bg-paper"}`}
    >
      {sign === "‹" ? `‹ ${to.name}` : `${to.name} ›`}
    </button>
  );
}
