/** The frame: the walk bar, whose stops carry today's state, and what is reachable from everywhere. */
import { type ReactNode, useEffect, useState } from "react";
import { NavLink, Outlet, useNavigate } from "react-router";
import { type PlanningWindow, pastWindow, type Schemas } from "../api/client";
import { usePlanningWindow, useStanding, useWalk } from "../api/queries";
import { Loading, Refused } from "../ui/parts";
import { Spoken } from "../ui/say";
import { Unhurried } from "../ui/Unhurried";
import { useKeys } from "../ui/useKeys";
import { SearchStrip } from "../views/plan/Search";
import { clockOf, percent, plural, whole } from "./format";
import { Help } from "./Help";
import { NewsStrip } from "./News";
import { Palette } from "./Palette";
import { toggledTheme } from "./theme";
import { useUnits } from "./units";
import { PastBanner, WindowButton } from "./WindowDialog";

type Stop = { to: string; name: string; state: string; wrong?: boolean };
type Stretch = { name: string; stops: Stop[] };

function planStateOf({ plans, lines }: PlanningWindow): { state: string; wrong: boolean } {
  const missing = lines.length - plans.length;
  const stale = plans.filter((plan) => plan.stale).length;
  const short = plans.reduce((sum, plan) => sum + plan.packs_short, 0);
  if (plans.length === 0) return { state: "none yet", wrong: false };
  if (stale) return { state: `${stale} out of date`, wrong: true };
  if (missing) return { state: `${plural(missing, "line")} without`, wrong: true };
  if (short) return { state: `${whole(short)} short`, wrong: true };
  return { state: "all on time", wrong: false };
}

type Walk = Schemas["WalkView"];
type Standing = Schemas["LineStanding"];

function roundsStateOf(rounds: Standing[] | undefined): { state: string; wrong: boolean } {
  const sum = (count: (one: Standing) => number) => (rounds ?? []).reduce((all, one) => all + count(one), 0);
  const late = sum((one) => one.late);
  const due = sum((one) => one.due);
  if (late) return { state: `${whole(late)} late`, wrong: true };
  return { state: !rounds ? UNKNOWN : due ? `${plural(due, "check")} due` : "nothing due", wrong: false };
}

function suppliesStateOf(walk: Walk | undefined): { state: string; wrong: boolean } {
  if (!walk) return { state: UNKNOWN, wrong: false };
  const out = walk.run_out;
  return { state: out ? `${whole(out)} run${out === 1 ? "s" : ""} out` : "enough of all", wrong: out > 0 };
}

/** What stands at a stop whose state is on its way: the stop itself is there from the first moment on. */
const UNKNOWN = "\u00a0";

const narrowestOf = (walk: Walk | undefined) =>
  walk?.bottleneck ? `${percent(walk.bottleneck.utilisation)} ${walk.bottleneck.stage.toLowerCase()}` : UNKNOWN;

/** The stretches of the walk: what prepares a day, and what one wants to know of the plant. */
function walkOf(day: PlanningWindow | undefined, walk: Walk | undefined, rounds: Standing[] | undefined): Stretch[] {
  const prepare: Stop[] = [
    {
      to: "/orders",
      name: "Orders",
      state: day ? plural(day.orders, "order") : UNKNOWN,
    },
    { to: "/plan", name: "Plan", ...(day ? planStateOf(day) : { state: UNKNOWN }) },
    { to: "/materials", name: "Materials", ...suppliesStateOf(walk) },
    { to: "/dough", name: "Dough room", state: day ? doughStateOf(day) : UNKNOWN },
  ];
  const run: Stop[] = [
    { to: "/now", name: "Now", state: day ? clockOf(day).time(clockOf(day).minuteNow()) : UNKNOWN },
    { to: "/walk", name: "Walk", ...roundsStateOf(rounds) },
    { to: "/quality", name: "Quality", state: "charts" },
    { to: "/records", name: "Records", state: "every lot" },
  ];
  const know: Stop[] = [
    { to: "/line", name: "Capacity", state: narrowestOf(walk) },
    { to: "/odds", name: "Odds", state: "how sure" },
    {
      to: "/plant",
      name: "Plant",
      state: day ? `${plural(day.lines.length, "line")}, v${day.library}` : UNKNOWN,
    },
    { to: "/calculators", name: "Calculators", state: "by itself" },
  ];
  return [
    { name: "Prepare", stops: prepare },
    { name: "Run", stops: run },
    { name: "Know", stops: know },
  ];
}

function doughStateOf(day: PlanningWindow): string {
  const firsts = day.plans.flatMap((plan) => (plan.first_dough_min == null ? [] : [plan.first_dough_min]));
  return firsts.length ? `from ${clockOf(day).time(Math.min(...firsts))}` : "no batches";
}

type BarProps = { day?: PlanningWindow; walk?: Walk; rounds?: Standing[]; children?: ReactNode };

/** The walk bar, there from the first moment on and as high; what stands at its stops comes when it is known. */
function WalkBar({ day, walk, rounds, children }: BarProps) {
  return (
    <header className="no-print border-rule border-b bg-paper">
      <div className="flex flex-wrap items-start gap-x-3 pt-2 pr-3 pb-1.5 pl-4">
        <div className="pt-2 font-bold text-lg">Rundgang</div>
        <nav
          aria-label="The walk"
          className="order-last flex basis-full gap-x-5 overflow-x-auto pt-1 [scrollbar-width:none] lg:order-none lg:flex-1 lg:basis-0 lg:pt-0"
        >
          {walkOf(day, walk, rounds).map((stretch) => (
            <div key={stretch.name}>
              <p className="text-xs text-ink-2 leading-3">{stretch.name}</p>
              <div className="relative pt-0.5">
                <div
                  aria-hidden="true"
                  className="absolute top-[10px] right-6 left-2 border-trail border-t-2 border-dotted"
                />
                <ol aria-label={`${stretch.name}, stops`} className="relative flex">
                  {stretch.stops.map((stop) => (
                    <WalkStop key={stop.to} {...stop} />
                  ))}
                </ol>
              </div>
            </div>
          ))}
        </nav>
        {children}
      </div>
    </header>
  );
}

/** The frame; `ready` once it is known that there is a plant. */
export function Shell({ ready }: { ready: boolean }) {
  const day = usePlanningWindow(ready);
  const walk = useWalk(ready);
  const rounds = useStanding(ready && pastWindow === undefined);
  const [help, setHelp] = useState(false);
  const [palette, setPalette] = useState(false);
  const navigate = useNavigate();
  useKeys({
    "?": () => setHelp(true),
    "/": () => setPalette(true),
    "1": () => navigate("/orders"),
    "2": () => navigate("/plan"),
    "3": () => navigate("/materials"),
    "4": () => navigate("/dough"),
    "5": () => navigate("/now"),
    "6": () => navigate("/line"),
    "7": () => navigate("/plant"),
    "8": () => navigate("/calculators"),
    "9": () => navigate("/walk"),
  });
  useEffect(() => {
    const open = (event: KeyboardEvent) => {
      if (event.key === "k" && (event.ctrlKey || event.metaKey)) {
        event.preventDefault();
        setPalette(true);
      }
    };
    window.addEventListener("keydown", open);
    return () => window.removeEventListener("keydown", open);
  }, []);

  return (
    <div className="flex min-h-dvh flex-col">
      <a href="#main" className="sr-only focus:not-sr-only focus:absolute focus:bg-paper focus:p-2">
        Skip to the content
      </a>
      <WalkBar day={day.data} walk={walk.data} rounds={rounds.data}>
        <Tools day={day.data} onPalette={() => setPalette(true)} onHelp={() => setHelp(true)} />
      </WalkBar>
      {day.data && pastWindow !== undefined && <PastBanner day={day.data} />}
      {day.data && <SearchStrip />}
      <main id="main" className="flex flex-1 flex-col">
        {day.isPending && <Loading what="the day" />}
        {day.isError && (
          <div className="m-5">
            <Refused error={day.error} again={() => day.refetch()} />
          </div>
        )}
        {day.data && (
          <Unhurried meanwhile={<Loading what="the day" />}>
            <Outlet context={day.data} />
          </Unhurried>
        )}
      </main>
      <NewsStrip />
      <Spoken />
      <Help open={help} onOpenChange={setHelp} />
      {day.data && <Palette day={day.data} open={palette} onOpenChange={setPalette} />}
    </div>
  );
}

function WalkStop({ to, name, state, wrong }: Stop) {
  return (
    <li className="w-[4.15rem] shrink-0 pr-0.5 pointer-coarse:w-26">
      <NavLink to={to} className="group block rounded">
        <span className="block h-[18px] w-[18px] rounded-full border-2 border-trail bg-paper group-hover:border-crust group-aria-[current=page]:border-crust group-aria-[current=page]:bg-crust" />
        <span className="block whitespace-nowrap text-[13px] leading-5 pointer-coarse:text-sm group-aria-[current=page]:font-bold">
          {name}
        </span>
        <span className={`block truncate text-xs ${wrong ? "font-semibold text-ember" : "text-ink-2"}`} title={state}>
          {state}
        </span>
      </NavLink>
    </li>
  );
}

function Tools({
  day,
  onPalette,
  onHelp,
}: {
  day: PlanningWindow | undefined;
  onPalette: () => void;
  onHelp: () => void;
}) {
  const look = "rounded-md border border-rule px-2 py-1 text-ink-2 text-xs hover:border-crust hover:text-ink";
  const units = useUnits();
  return (
    <div className="ml-auto flex items-center gap-1 pt-2">
      {day && <WindowButton day={day} />}
      <button type="button" className={look} onClick={units.toggle} title="Units for reading and typing">
        {units.system === "metric" ? "°C kg" : "°F lb"}
      </button>
      <button type="button" className={look} onClick={onPalette} aria-label="Go to" title="Go to">
        <kbd className="font-sans font-semibold">/</kbd>
      </button>
      <button type="button" className={look} onClick={onHelp} aria-label="Keys" title="Keys">
        ?
      </button>
      <button type="button" className={look} onClick={toggledTheme} aria-label="Light / dark" title="Light / dark">
        <span aria-hidden="true">◐</span>
      </button>
    </div>
  );
}
