/** A station stands: what to do now, what is where and until when it is good, and what to do with the plan. */
import { useState } from "react";
import { useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { type StopRequest, useCauses, useNoteStop, useTrouble, useTroubleEffect } from "../../api/queries";
import { duration, whole } from "../../app/format";
import { useUnits } from "../../app/units";
import { useMinuteNow } from "../../app/useMinuteNow";
import { Dialog } from "../../ui/Dialog";
import { Button, Header, Heading, Loading, Panel, Refused } from "../../ui/parts";
import { useWindowView } from "../planningWindow";
import { Options, useOptions } from "./Options";
import { Where } from "./Where";
import { todoWords } from "./words";

type Stop = Schemas["StopView"];

export function StopView() {
  const { number } = useParams();
  const found = useTrouble(Number(number));
  if (found.isError)
    return (
      <div className="m-5">
        <Refused error={found.error} again={() => found.refetch()} />
      </div>
    );
  if (!found.data) return <Loading what="the stop" />;
  return <Trouble key={found.data.number} stop={found.data} />;
}

function useNames() {
  const { names, clock } = useWindowView();
  return { product: (id: string) => names.get(id) ?? id, clock };
}

function Trouble({ stop }: { stop: Stop }) {
  const { clock } = useWindowView();
  const now = useMinuteNow();
  const note = useNoteStop();
  const [guess, setGuess] = useState(1);
  const [asking, ask] = useState(false);
  const [looked] = useState(() => clock.minuteNow());
  const began = clock.minuteAt(stop.began_at);
  const stands = stop.lasted_min == null;
  const passed = Math.max(0, looked - began);
  const { low_min = 0, likely_min = 0, high_min = 0 } = stop.guesses[guess] ?? {};
  const asked: StopRequest | undefined = stands
    ? {
        number: stop.number,
        line: stop.line,
        station: stop.station,
        begins: stop.begins,
        low_min: passed + low_min,
        likely_min: passed + likely_min,
        high_min: passed + high_min,
        heat_fails: stop.cause === "heat",
      }
    : undefined;
  const effect = useTroubleEffect(asked);
  const come = useOptions(effect.data && asked);
  const done = new Set(stop.stop.events.flatMap((event) => (event.kind === "done" ? [String(event.said.done)] : [])));
  return (
    <>
      <Header
        title={
          stands
            ? `${stop.name} stands since ${clock.time(began)}`
            : `${stop.name} stood ${duration(stop.lasted_min ?? 0)}`
        }
        sub={`${stop.line_name}; ${stop.cause ? `${stop.cause}: ${stop.exactly}` : "cause not said"}; told by ${stop.author}`}
        actions={
          stands && (
            <>
              <Button onClick={() => ask(true)}>{stop.cause ? "Change the cause" : "Say the cause"}</Button>
              {stop.guesses.map(({ likely_min: minutes }, place) => (
                <Button
                  key={minutes}
                  aria-pressed={guess === place}
                  className={guess === place ? "border-2 border-crust" : ""}
                  onClick={() => setGuess(place)}
                >
                  {minutes} min more
                </Button>
              ))}
              <Button
                weight="strong"
                disabled={note.isPending}
                onClick={() => note.mutate({ number: stop.number, kind: "runs" })}
              >
                It runs again
              </Button>
            </>
          )
        }
      />
      {note.isError && <Refused error={note.error} />}
      {effect.isError && (
        <div className="mx-2">
          <Refused error={effect.error} />
        </div>
      )}
      {stands && !effect.data && !effect.isError && <Loading what="what it does" />}
      {asked && effect.data && (
        <div className="grid flex-1 grid-cols-[minmax(0,1fr)] content-start gap-2 px-2 pb-2 lg:grid-cols-[26rem_minmax(0,1fr)]">
          <Panel label="Do now" className="self-start p-4">
            <DoNow
              trouble={effect.data}
              done={done}
              onDone={(key) => note.mutate({ number: stop.number, kind: "done", done: key })}
            />
          </Panel>
          <div className="grid grid-cols-[minmax(0,1fr)] content-start gap-2">
            <Panel label="What is where, and until when it is good" className="p-4">
              <Restart effect={effect.data.effect} />
              <Placed trouble={effect.data} now={now} />
            </Panel>
            <Panel label="What to do with the plan" className="p-4">
              <h2 className="font-bold">What to do with the plan</h2>
              <Options stop={asked} come={come} />
            </Panel>
          </div>
        </div>
      )}
      {!stands && <Ended stop={stop} />}
      {asking && (
        <Causes
          stop={stop}
          onCause={(cause, exactly) =>
            note.mutate({ number: stop.number, kind: "cause", cause, exactly }, { onSuccess: () => ask(false) })
          }
          onClose={() => ask(false)}
        />
      )}
    </>
  );
}

function useStations(trouble: Schemas["TroubleView"]) {
  const named = new Map(trouble.stations.map((one) => [one.station, one.name]));
  return (id: string) => named.get(id) ?? id;
}

function Placed({ trouble, now }: { trouble: Schemas["TroubleView"]; now: number }) {
  const { product, clock } = useNames();
  const station = useStations(trouble);
  return <Where trouble={trouble} now={now} clock={clock} stationOf={station} productOf={product} />;
}

type DoNowProps = { trouble: Schemas["TroubleView"]; done: Set<string>; onDone: (key: string) => void };

function DoNow({ trouble, done, onDone }: DoNowProps) {
  const names = { ...useNames(), station: useStations(trouble) };
  return (
    <>
      <h2 className="font-bold">Do now</h2>
      {trouble.todo.length === 0 && <p className="mt-1 text-ink-2">Nothing that has begun is touched; hold nothing.</p>}
      <ol className="mt-1">
        {trouble.todo.map((todo, place) => {
          const { what, why } = todoWords(todo, names);
          const isDone = done.has(todo.key);
          return (
            <li key={todo.key} className="flex items-start gap-3 border-rule border-t py-2.5 first:border-t-0">
              <span
                className={`grid h-7 w-7 shrink-0 place-items-center rounded-full border-2 font-bold text-sm ${todo.what === "hold" || todo.what === "pull" ? "border-ember text-ember" : "border-crust text-crust"}`}
              >
                {place + 1}
              </span>
              <span className="min-w-0 flex-1">
                <b className={isDone ? "text-ink-2 line-through" : ""}>{what}</b>
                <span className="block text-ink-2 text-sm">{why}</span>
              </span>
              {isDone ? (
                <span className="font-semibold text-sm text-steam">done ✓</span>
              ) : (
                <Button className="min-h-11" aria-label={`Done: ${what}`} onClick={() => onDone(todo.key)}>
                  done
                </Button>
              )}
            </li>
          );
        })}
      </ol>
      {trouble.cautions.map((caution) => (
        <section key={caution.about} className="mt-3 border-ember border-l-4 py-1 pl-3 text-sm">
          <h3 className="font-bold">{caution.about}</h3>
          <p className="text-ink-2">{caution.text}</p>
        </section>
      ))}
      <HowCalculated trouble={trouble} />
    </>
  );
}

/** Where each limit comes from, with its figures. */
function HowCalculated({ trouble: { effect, todo } }: { trouble: Schemas["TroubleView"] }) {
  const { clock, product } = useNames();
  const limited = effect.stretches.filter((one) => one.spoils_after_min != null);
  if (limited.length === 0 && todo.length === 0) return null;
  return (
    <details className="mt-3 text-sm">
      <summary className="cursor-pointer font-semibold">How it was calculated</summary>
      <ul className="mt-1 grid gap-1 text-ink-2">
        {limited.map((one) => (
          <li key={`${one.run} ${one.what} ${one.station} ${one.batch ?? ""}`}>
            {one.what === "pieces" ? "Pieces" : one.what === "dough" ? `Dough ${one.batch}` : `Filling ${one.batch}`} of{" "}
            {one.run} {product(one.product)}: stand from {clock.time(effect.stop.from_min)}, bear{" "}
            {duration(one.spoils_after_min ?? 0)} beyond what is planned → {clock.time(effect.stop.from_min)} +{" "}
            {whole(one.spoils_after_min ?? 0)} min ={" "}
            <b>{clock.time(effect.stop.from_min + (one.spoils_after_min ?? 0))}</b>
          </li>
        ))}
      </ul>
    </details>
  );
}

function Restart({ effect }: { effect: Schemas["StopEffect"] }) {
  const { clock } = useNames();
  const units = useUnits();
  const said =
    effect.stretches.length === 0
      ? "Nothing that has begun is touched."
      : effect.restart_by_min == null
        ? "What is on the line waits; no limit is set for any of it."
        : effect.restart_by_min > clock.minuteNow()
          ? `Running again by ${clock.moment(effect.restart_by_min)}, nothing is lost.`
          : `Some of it is lost since ${clock.moment(effect.restart_by_min)}.`;
  return (
    <>
      <h2 className="font-bold text-lg">{said}</h2>
      <p className="mb-2 text-ink-2 text-sm">
        {effect.losses
          .map((loss) =>
            loss.pieces < 1 && loss.kg < 0.05
              ? `${duration(loss.stop_min)}: nothing lost`
              : `${duration(loss.stop_min)}: ${whole(loss.pieces)} pieces, ${units.shown(loss.kg, "wasted mass")} ${units.name("wasted mass", "kg")}`,
          )
          .join(" · ")}
      </p>
    </>
  );
}

type CausesProps = { stop: Stop; onCause: (cause: string, exactly: string) => void; onClose: () => void };

function Causes({ stop, onCause, onClose }: CausesProps) {
  const causes = useCauses().data ?? [];
  const [kind, setKind] = useState<string>();
  const chosen = causes.find((one) => one.kind === kind);
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && onClose()}
      title={chosen ? `${chosen.kind}: what exactly?` : `Why does the ${stop.name} stand?`}
    >
      <div className="grid grid-cols-2 gap-2">
        {(chosen?.exactly ?? causes.map((one) => one.kind)).map((word) => (
          <Button
            key={word}
            className="min-h-14 justify-center text-base"
            onClick={() => (chosen ? onCause(chosen.kind, word) : setKind(word))}
          >
            {word}
          </Button>
        ))}
      </div>
    </Dialog>
  );
}

function Ended({ stop }: { stop: Stop }) {
  return (
    <Panel label="What became of it" className="mx-2 mb-2 p-4">
      <Heading>What became of it</Heading>
      <Events stop={stop} />
    </Panel>
  );
}

/** All that became of a stop, by the clock. */
export function Events({ stop }: { stop: Stop }) {
  const { clock } = useWindowView();
  return (
    <ul className="text-sm">
      {stop.stop.events.map((event) => (
        <li
          key={`${event.at} ${event.kind} ${JSON.stringify(event.said)}`}
          className="flex gap-3 border-rule border-t py-1"
        >
          <span className="w-24 shrink-0 text-ink-2">{clock.moment(clock.minuteAt(event.at))}</span>
          <span>{eventWords(event, clock)}</span>
        </li>
      ))}
    </ul>
  );
}

type Event = Stop["stop"]["events"][number];

function eventWords({ kind, said, author }: Event, clock: ReturnType<typeof useWindowView>["clock"]): string {
  const number = (name: string) => Number(said[name] ?? 0);
  switch (kind) {
    case "cause":
      return `${said.cause}: ${said.exactly}, by ${author}`;
    case "advised":
      return said.restart_by_min == null
        ? "advised: nothing is lost by waiting"
        : `advised: running again by ${clock.moment(number("restart_by_min"))}, nothing is lost`;
    case "done":
      return `done: ${said.done}, by ${author}`;
    case "taken":
      return `plan version ${said.version}: counted on ${duration(number("minutes"))}, ${whole(number("scrap_pieces"))} pieces wasted, ${whole(number("cost") - number("cost_before"))} points, by ${author}`;
    case "runs":
      return `runs again, by ${author}`;
  }
}
