/** The dough room: batches in the order of the clock, and one card that reads at arm's length. */
import { type ReactNode, useEffect, useMemo, useState } from "react";
import { Link, useLocation, useNavigate, useParams, useSearchParams } from "react-router";
import type { Refusal } from "../../api/client";
import { useCardsOf, useLivePlans } from "../../api/queries";
import { oneDecimal, plural } from "../../app/format";
import { useUnits } from "../../app/units";
import { useMinuteNow } from "../../app/useMinuteNow";
import { ALL_LINES, LinePick } from "../../ui/LinePick";
import { Button, buttonLook, Empty, Figure, Header, Loading, Notice, Panel, Refused } from "../../ui/parts";
import { Unhurried } from "../../ui/Unhurried";
import { useKeys } from "../../ui/useKeys";
import { useStep } from "../../ui/useStep";
import { useUntouched } from "../../ui/useUntouched";
import { useLine, useWindowView } from "../planningWindow";
import { WetAhead } from "../WetAhead";
import { BatchCard } from "./BatchCard";
import { ChangedWater } from "./ChangedWater";
import { ConditionsDialog } from "./ConditionsDialog";
import { ProbeEntry } from "./ProbeEntry";
import { Queue } from "./Queue";
import { addressOf, cardsByClock, type LineCards, type QueuedCard, queuedAt } from "./queued";
import { WaterPanel } from "./WaterPanel";

export function DoughView() {
  const { number } = useParams();
  const { day } = useWindowView();
  const line = useLine()?.id ?? "";
  const [search] = useSearchParams();
  const all = search.get("line") === ALL_LINES;
  const navigate = useNavigate();
  const { key } = useLocation();
  const [held, hold] = useState<{ at: string; numbers: number[] }>();
  const at = all ? `${day.number} ${ALL_LINES}` : key;
  const named = all || number === undefined ? undefined : [Number(number)];
  const kept = named ?? (held?.at === at ? held.numbers : undefined);
  const asked = useCardsOf(kept ?? []);
  const live = useLivePlans(all ? day.plans.map((plan) => plan.line) : [asked.data?.[0]?.line ?? line]);
  const numbers = live.data?.map((plan) => plan.number);
  const cards = useCardsOf(kept ?? numbers ?? []);
  const listed = numbers?.join(" ");
  useEffect(() => {
    if (!kept && listed !== undefined && !live.isFetching) hold({ at, numbers: listed.split(" ").map(Number) });
  }, [at, kept, listed, live.isFetching]);
  const shownLine = all ? ALL_LINES : (cards.data?.[0]?.line ?? line);
  const pick = <LinePick line={shownLine} onChange={(id) => navigate(`/dough?line=${id}`)} all />;
  if (!named && (day.plans.length === 0 || (live.error as Refusal | undefined)?.status === 404))
    return (
      <Empty title="No batches yet">
        <p className="mb-3">The cards come with the plan; there is none yet for this line's orders.</p>
        {pick}
      </Empty>
    );
  const failed = cards.error ?? (named ? undefined : live.error);
  if (failed)
    return (
      <div className="m-5">
        <Refused error={failed} />
      </div>
    );
  if (!cards.data) return <Loading what="the batch cards" />;
  if (cards.data.every((of) => of.cards.length === 0))
    return (
      <Empty title="No batches">
        <p className="mb-3">The plan makes nothing.</p>
        {pick}
      </Empty>
    );
  const isLive = !numbers || cards.data.every((of) => numbers.includes(of.plan));
  return (
    <Unhurried meanwhile={<Loading what="the batch cards" />}>
      <Room line={shownLine} live={isLive} plans={cards.data} pick={pick} onShowLive={() => hold(undefined)} />
    </Unhurried>
  );
}

/** The card that is shown: the one that was chosen; else the next to mix, gone on to when nobody is at the page. */
function useShown(cards: QueuedCard[]) {
  const { number, run, batch } = useParams();
  const now = useMinuteNow();
  const untouched = useUntouched();
  const next = cards.find(({ card }) => card.start_min >= now) ?? cards.at(-1);
  const [at, setAt] = useState(next);
  const known = at && (queuedAt(cards, at.of.plan, at.card.run, at.card.key) ?? next);
  useEffect(() => {
    if (untouched) setAt(next);
  }, [untouched, next]);
  if (run !== undefined) return { shown: queuedAt(cards, Number(number), run, batch), next };
  return { shown: untouched ? next : (known ?? next), next };
}

type RoomProps = { line: string; live: boolean; plans: LineCards[]; pick: ReactNode; onShowLive: () => void };

function Room({ line, live, plans, pick, onShowLive }: RoomProps) {
  const { run, batch } = useParams();
  const { clock } = useWindowView();
  const navigate = useNavigate();
  const all = line === ALL_LINES;
  const cards = useMemo(() => cardsByClock(plans), [plans]);
  const { shown, next } = useShown(cards);
  const step = useStep(cards, shown, (one) => navigate(addressOf(one, all), { replace: true }));
  useKeys({ j: () => step(1), k: () => step(-1) });
  const [changing, setChanging] = useState(false);
  const units = useUnits();
  const versions = [...new Set(plans.map((of) => of.version))].join(", ");
  const stale = (shown ? [shown.of] : plans).some((of) => of.stale);
  return (
    <>
      <Header
        title="Dough room"
        sub={`Version ${versions}, ${plural(cards.length, "batch", "batches")}`}
        figures={<ReadNow />}
        actions={
          <>
            {pick}
            <Button onClick={() => setChanging(true)}>Change conditions</Button>
            <Link to={`/print?line=${line}&plans=${plans.map((of) => of.plan)}`} className={buttonLook()}>
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
            title={`These are the cards of version ${versions}; another version is live on the floor.`}
          >
            <Link to={`/dough?line=${line}`} onClick={onShowLive} className="font-semibold underline">
              Show the live cards
            </Link>
          </Notice>
        </div>
      )}
      {next && shown && next !== shown && next.card.start_min > shown.card.start_min && (
        <p role="status" className="mx-5 mb-2 text-sm">
          Next to mix: <strong>{clock.moment(next.card.start_min)}</strong> {next.card.run} {next.card.product_name},
          batch {next.card.number} of {next.card.of}.{" "}
          <Link replace to={addressOf(next, all)} className="font-semibold underline">
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
        <Queue cards={cards} shown={shown} all={all} />
        {shown ? (
          <>
            <Panel label="Batch card" className="p-5">
              <ChangedWater key={`${shown.card.run}-${shown.card.key}`} card={shown.card} />
              <BatchCard card={shown.card} />
              {live && (
                <Link
                  to={`/weigh/${shown.of.line}/${shown.card.run}/${shown.card.key}`}
                  className={`no-print mt-3 min-h-12 ${buttonLook("strong")}`}
                >
                  Weigh it up
                </Link>
              )}
              {shown.card.preparation == null && (
                <ProbeEntry
                  key={`${shown.of.plan}-${shown.card.run}-${shown.card.key}-${units.system}`}
                  plan={shown.of.plan}
                  card={shown.card}
                />
              )}
            </Panel>
            <WaterPanel card={shown.card} />
          </>
        ) : (
          <Empty title="No such batch">
            Version {versions} has no batch {batch} of {run}. Choose one from the queue.
          </Empty>
        )}
      </div>
      {changing && <ConditionsDialog onClose={() => setChanging(false)} />}
    </>
  );
}

/** What is read in the room now. */
function ReadNow() {
  const { day } = useWindowView();
  const units = useUnits();
  const { room_c, flour_c, tap_c, chilled_c, humidity_pct, flour_moisture_pct } = day.conditions_now;
  const degrees = (celsius: number) => `${units.shown(celsius, "temperature")} ${units.name("temperature")}`;
  return (
    <>
      <Figure value={degrees(room_c)} label="room" />
      <Figure value={degrees(flour_c)} label="flour" />
      <Figure value={degrees(tap_c)} label="tap" />
      {chilled_c != null && <Figure value={degrees(chilled_c)} label="chiller" />}
      {humidity_pct != null && <Figure value={`${oneDecimal(humidity_pct)} %`} label="humidity" />}
      {flour_moisture_pct != null && <Figure value={`${oneDecimal(flour_moisture_pct)} %`} label="flour moisture" />}
    </>
  );
}
