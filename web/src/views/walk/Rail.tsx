/** The stops of the walk in plant order: what is late, due, next and done at each, before it is read. */
import type { Clock } from "../../app/format";
import { duration, plural } from "../../app/format";
import { type Asked, type State, type Stop, sumOf } from "./due";

type Props = {
  stops: { stop: Stop; asked: Asked[] }[];
  at: string;
  now: number;
  clock: Clock;
  onGo: (to: string) => void;
};

export function Rail({ stops, at, now, clock, onGo }: Props) {
  return (
    <nav aria-label="Stops of the walk" className="w-full md:w-52 md:shrink-0">
      <ol className="flex gap-1 overflow-x-auto md:block">
        {stops.map(({ stop, asked }, place) => {
          const sum = sumOf(asked, now);
          const here = stop.station === at;
          return (
            <li key={stop.station} className="relative shrink-0">
              {place < stops.length - 1 && (
                <span
                  aria-hidden="true"
                  className="absolute top-10 bottom-[-0.75rem] left-[1.7rem] hidden border-trail border-l-2 border-dotted md:block"
                />
              )}
              <button
                type="button"
                aria-current={here ? "step" : undefined}
                onClick={() => onGo(stop.station)}
                className={`relative flex min-h-16 w-full items-center gap-3 rounded-xl border-2 px-3 py-2 text-left ${
                  here ? "border-crust bg-paper" : "border-transparent"
                }`}
              >
                <Ring state={sum.state} here={here} />
                <span className="min-w-0">
                  <span className="block font-bold leading-5">{stop.name}</span>
                  <span
                    className={`block whitespace-nowrap text-sm ${sum.state === "late" ? "font-semibold text-ember" : "text-ink-2"}`}
                  >
                    {said(sum, clock)}
                  </span>
                </span>
              </button>
            </li>
          );
        })}
      </ol>
    </nav>
  );
}

function said(sum: ReturnType<typeof sumOf>, clock: Clock) {
  if (sum.state === "late") return `${duration(Math.max(1, sum.lateBy))} late, ${sum.waiting} due`;
  if (sum.state === "due") return `due now, ${plural(sum.waiting, "check")}`;
  if (sum.state === "done") return `done ${clock.time(sum.doneAt)}`;
  return sum.nextCount ? `${clock.time(sum.next)}, ${sum.nextCount} next` : "nothing to check";
}

const RING: Record<State, string> = {
  late: "border-ember text-ember bg-paper",
  due: "border-crust bg-crust text-paper",
  done: "border-steam bg-steam text-paper",
  next: "border-muted bg-paper text-muted",
};
const SIGN: Record<State, string> = { late: "!", due: "", done: "✓", next: "" };

function Ring({ state, here }: { state: State; here: boolean }) {
  return (
    <span
      aria-hidden="true"
      className={`grid h-8 w-8 shrink-0 place-items-center rounded-full border-[3px] font-bold ${RING[state]} ${here ? "ring-2 ring-crust/30" : ""}`}
    >
      {SIGN[state]}
    </span>
  );
}
