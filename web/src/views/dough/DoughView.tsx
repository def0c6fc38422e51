/** The dough room: batches in the order of the clock, and one card that reads at arm's length. */
import { type ReactNode, useEffect, useRef, useState } from "react";
import { Link, useLocation, useNavigate, useParams } from "react-router";
import type { Card, Refusal } from "../../api/client";
import { useCards, usePlan } from "../../api/queries";
import { oneDecimal } from "../../app/format";
import { useUnits } from "../../app/units";
import { useMinuteNow } from "../../app/useMinuteNow";
import { LinePick } from "../../ui/LinePick";
import { Button, buttonLook, Empty, Figure, Header, Loading, Notice, Panel, Refused } from "../../ui/parts";
import { useKeys } from "../../ui/useKeys";
import { useStep } from "../../ui/useStep";
import { useUntouched } from "../../ui/useUntouched";
import { useLine, useWindowView } from "../planningWindow";
import { WetAhead } from "../WetAhead";
import { BatchCard } from "./BatchCard";
import { ConditionsDialog } from "./ConditionsDialog";
import { ProbeEntry } from "./ProbeEntry";
import { WaterPanel } from "./WaterPanel";

export function DoughView() {
  const params = useParams();
  const line = useLine()?.id;
  const navigate = useNavigate();
  const { key } = useLocation();
  const [held, hold] = useState<{ at: string; number: number }>();
  const chosen = params.number === undefined ? held?.at === key && held.number : Number(params.number);
  const plan = usePlan(chosen || undefined, line, true);
  const live = usePlan(undefined, plan.data?.plan.line ?? line, true);
  const cards = useCards(plan.data?.number);
  const number = plan.data?.number;
  useEffect(() => {
    if (params.number === undefined && number !== undefined && !plan.isFetching) hold({ at: key, number });
  }, [key, params.number, number, plan.isFetching]);
  const pick = <LinePick line={plan.data?.plan.line ?? line ?? ""} onChange={(id) => navigate(`/dough?line=${id}`)} />;
  if (plan.isError && (plan.error as Refusal).status === 404 && params.number === undefined)
    return (
      <Empty title="No batches yet">
        <p className="mb-3">The cards come with the plan; there is none yet for this line's orders.</p>
        {pick}
      </Empty>
    );
  const failed = plan.error ?? cards.error;
  if (failed)
    return (
      <div className="m-5">
        <Refused error={failed} />
      </div>
    );
  if (!cards.data) return <Loading what="the batch cards" />;
  if (cards.data.cards.length === 0)
    return (
      <Empty title="No batches">
        <p className="mb-3">The plan makes nothing.</p>
        {pick}
      </Empty>
    );
  const isLive = live.data === undefined || live.data.number === cards.data.plan;
  return (
    <Room
      number={cards.data.plan}
      line={cards.data.line}
      stale={cards.data.stale}
      version={cards.data.version}
      live={isLive}
      cards={cards.data.cards}
      pick={pick}
    />
  );
}

type RoomProps = {
  number: number;
  line: string;
  stale: boolean;
  version: number;
  live: boolean;
  cards: Card[];
  pick: ReactNode;
};

/** The card that is shown: the one that was chosen; else the next to mix, gone on to when nobody is at the page. */
function useShown(cards: Card[]) {
  const { run, batch } = useParams();
  const now = useMinuteNow();
  const untouched = useUntouched();
  const next = cards.find((card) => card.start_min >= now) ?? cards.at(-1);
  const [at, setAt] = useState(next);
  const known = cards.find((card) => card.run === at?.run && card.key === at.key) ?? next;
  useEffect(() => {
    if (untouched) setAt(next);
  }, [untouched, next]);
  if (run !== undefined) return { shown: cards.find((card) => card.run === run && card.key === batch), next };
  return { shown: untouched ? next : known, next };
}

function Room({ number, line, version, stale, live, cards, pick }: RoomProps) {
  const { run, batch } = useParams();
  const { day, clock } = useWindowView();
  const navigate = useNavigate();
  const { shown, next } = useShown(cards);
  const step = useStep(cards, shown, (card) => navigate(`/dough/${number}/${card.run}/${card.key}`, { replace: true }));
  useKeys({ j: () => step(1), k: () => step(-1) });
  const { room_c, flour_c, tap_c, chilled_c, humidity_pct, flour_moisture_pct } = day.conditions_now;
  const [changing, setChanging] = useState(false);
  const units = useUnits();
  const degrees = (celsius: number) => `${units.shown(celsius, "temperature")} ${units.name("temperature")}`;
  return (
    <>
      <Header
        title="Dough room"
        sub={`Version ${version}, ${cards.length} batches`}
        figures={
          <>
            <Figure value={degrees(room_c)} label="room" />
            <Figure value={degrees(flour_c)} label="flour" />
            <Figure value={degrees(tap_c)} label="tap" />
            {chilled_c != null && <Figure value={degrees(chilled_c)} label="chiller" />}
            {humidity_pct != null && <Figure value={`${oneDecimal(humidity_pct)} %`} label="humidity" />}
            {flour_moisture_pct != null && (
              <Figure value={`${oneDecimal(flour_moisture_pct)} %`} label="flour moisture" />
            )}
          </>
        }
        actions={
          <>
            {pick}
            <Button onClick={() => setChanging(true)}>Change conditions</Button>
            <Link to={`/print/${number}`} className={buttonLook()}>
              Print cards
            </Link>
          </>
        }
      />
      <WetAhead />
      {!live && (
        <div className="mx-2 mb-2">
          <Notice
            tone="wrong"
            title={`These are the cards of version ${version}; another version is live on the floor.`}
          >
            <Link to={`/dough?line=${line}`} className="font-semibold underline">
              Show the live cards
            </Link>
          </Notice>
        </div>
      )}
      {next && shown && next !== shown && next.start_min > shown.start_min && (
        <p role="status" className="mx-5 mb-2 text-sm">
          Next to mix: <strong>{clock.moment(next.start_min)}</strong> {next.run} {next.product_name}, batch{" "}
          {next.number} of {next.of}.{" "}
          <Link replace to={`/dough/${number}/${next.run}/${next.key}`} className="font-semibold underline">
            Show its card
          </Link>
        </p>
      )}
      {stale && (
        <div className="mx-2 mb-2">
          <Notice tone="wrong" title="The orders or the plant's data have changed since these cards were made.">
            <Link to="/plan" className="underline">
              Plan again
            </Link>{" "}
            before mixing from them.
          </Notice>
        </div>
      )}
      <div className="grid flex-1 grid-cols-[minmax(0,1fr)] gap-2 px-2 pb-2 lg:grid-cols-[12.5rem_1fr_19.5rem]">
        <Queue number={number} cards={cards} shown={shown} />
        {shown ? (
          <>
            <Panel label="Batch card" className="p-5">
              <BatchCard card={shown} />
              {shown.preparation == null && (
                <ProbeEntry key={`${shown.run}-${shown.key}-${units.system}`} plan={number} card={shown} />
              )}
            </Panel>
            <WaterPanel card={shown} />
          </>
        ) : (
          <Empty title="No such batch">
            Version {version} has no batch {batch} of {run}. Choose one from the queue.
          </Empty>
        )}
      </div>
      {changing && <ConditionsDialog onClose={() => setChanging(false)} />}
    </>
  );
}

function Queue({ number, cards, shown }: { number: number; cards: Card[]; shown: Card | undefined }) {
  const { clock } = useWindowView();
  const here = useRef<HTMLAnchorElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the shown card decides where the queue stands
  useEffect(() => {
    here.current?.scrollIntoView({ block: "nearest" });
  }, [shown?.run, shown?.key]);
  return (
    <nav aria-label="Batches in the order of the clock" className="relative">
      <ol className="flex content-start gap-1.5 overflow-auto pr-1 pb-1 lg:absolute lg:inset-0 lg:grid">
        {cards.map((card) => (
          <li key={`${card.run}-${card.key}`} className="min-w-52 lg:min-w-0">
            <Link
              ref={card === shown ? here : undefined}
              replace
              to={`/dough/${number}/${card.run}/${card.key}`}
              aria-current={card === shown ? "true" : undefined}
              className="block rounded-lg border border-rule bg-paper px-3 py-2 text-sm hover:border-trail aria-[current=true]:border-2 aria-[current=true]:border-crust"
            >
              <span className="flex justify-between">
                <span className="font-bold">{clock.moment(card.start_min)}</span>
                <span className="text-ink-2 text-xs">{card.probe ? "probed" : card.mixer}</span>
              </span>
              <span className="block text-ink-2 text-xs">
                {card.run} {card.product_name} {card.number} of {card.of}
              </span>
            </Link>
          </li>
        ))}
      </ol>
    </nav>
  );
}
