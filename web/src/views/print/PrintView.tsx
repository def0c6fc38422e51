/** The day on paper: runs, lorries, the ribbon chart, and every batch card on a sheet of its own; or a part of it. */
import { useEffect } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import type { PlanView, Schemas } from "../../api/client";
import { useCardsOf, usePlansOf } from "../../api/queries";
import { plural } from "../../app/format";
import { ALL_LINES, LinePick } from "../../ui/LinePick";
import { Pick } from "../../ui/Pick";
import { Button, Empty, Header, Loading, Refused } from "../../ui/parts";
import { Unhurried } from "../../ui/Unhurried";
import { useLine, useWindowView } from "../planningWindow";
import { cardsOf, type Part } from "./part";
import { Span } from "./Span";
import { CardSheet, LineSheets } from "./sheets";

/** What the address says is printed: one line's plan or all lines', one run, a stretch of time. */
export function PrintView() {
  const { number } = useParams();
  const [search] = useSearchParams();
  const { day } = useWindowView();
  usePrintKey();
  const line = useLine()?.id;
  const all = search.get("line") === ALL_LINES;
  const newest = day.plans.filter((plan) => all || plan.line === line).map((plan) => plan.number);
  const named = search.get("plans")?.split(",") ?? (number === undefined || all ? undefined : [number]);
  const numbers = named?.map(Number) ?? newest;
  const plans = usePlansOf(numbers);
  const cards = useCardsOf(numbers);
  const failed = plans.error ?? cards.error;
  if (failed)
    return (
      <div className="m-5">
        <Refused error={failed} />
      </div>
    );
  if (numbers.length === 0) return <Empty title="No plan yet">There is nothing to print before there is a plan.</Empty>;
  if (!plans.data || !cards.data) return <Loading what="the day" />;
  return (
    <Unhurried meanwhile={<Loading what="the day" />}>
      <Day views={plans.data} cards={cards.data} all={all} />
    </Unhurried>
  );
}

type DayProps = { views: PlanView[]; cards: Schemas["CardsView"][]; all: boolean };

function Day({ views, cards, all }: DayProps) {
  const [search, setSearch] = useSearchParams();
  const navigate = useNavigate();
  const { day, clock } = useWindowView();
  const [first] = views;
  const limit = (name: "from" | "to", otherwise: number) => Number(search.get(name) ?? otherwise);
  const part: Part = {
    run: search.get("run"),
    from: limit("from", Number.NEGATIVE_INFINITY),
    to: limit("to", Number.POSITIVE_INFINITY),
  };
  const only = (changes: Record<string, string | undefined>) =>
    setSearch(
      (before) => {
        for (const [name, value] of Object.entries(changes))
          if (value === undefined) before.delete(name);
          else before.set(name, value);
        return before;
      },
      { replace: true },
    );
  const shown = cards
    .flatMap((of) => cardsOf(of.cards, part).map((card) => ({ card, of })))
    .sort((first, then) => first.card.start_min - then.card.start_min);
  const runs = views.flatMap((view) => view.plan.runs);
  const versions = [...new Set(cards.map((of) => of.version))].join(", ");
  const lineName = all ? "all lines" : day.lines.find((found) => found.id === first?.plan.line)?.name;
  return (
    <div className="mx-auto w-full max-w-[62rem] bg-paper px-6 pb-6 print:max-w-none print:p-0">
      <div className="-mx-5">
        <Header
          title={`${day.plant}, ${lineName}: version ${versions}`}
          sub={saidOf(part, clock)}
          actions={
            <Button weight="strong" onClick={print}>
              Print
            </Button>
          }
        />
      </div>
      <div className="no-print flex flex-wrap items-end gap-2 pb-4 text-sm">
        <LinePick
          line={all ? ALL_LINES : (first?.plan.line ?? "")}
          onChange={(id) => navigate(`/print?line=${id}`)}
          all
        />
        {!all && (
          <Pick
            label="Run"
            value={part.run ?? ""}
            onChange={(run) => only({ run: run || undefined })}
            options={[{ value: "", label: "All runs" }, ...runs.map((run) => ({ value: run.id, label: run.id }))]}
          />
        )}
        <Span part={part} onChange={only} />
      </div>
      {views.map((view) => (
        <LineSheets key={view.number} view={view} part={part} named={all} />
      ))}
      <p className="no-print mt-6 border-rule border-t pt-3 text-ink-2 text-sm">
        On paper, {plural(shown.length, "batch card")} follow, one to a sheet
        {all && ", those of all mixers in the order of the clock"}.
      </p>
      {shown.length === 0 && <Empty title="No batches">None is mixed in this part of the plan.</Empty>}
      {shown.map(({ card, of }) => (
        <CardSheet key={`${of.plan}-${card.run}-${card.key}`} card={card} of={of} />
      ))}
    </div>
  );
}

/** Print, once all codes have come. */
async function print() {
  await Promise.allSettled([...document.images].map((image) => image.decode()));
  window.print();
}

/** Ctrl P waits for the codes too. */
function usePrintKey() {
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.shiftKey || event.altKey || event.key !== "p") return;
      event.preventDefault();
      print();
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
}

type Clock = ReturnType<typeof useWindowView>["clock"];

/** The part in words. */
function saidOf({ run, from, to }: Part, clock: Clock): string {
  const at = (minute: number) => `${clock.date(minute)} ${clock.time(minute)}`;
  const spans = [
    Number.isFinite(from) ? `from ${at(from)}` : undefined,
    Number.isFinite(to) ? `until ${at(to)}` : undefined,
  ].filter((said) => said !== undefined);
  return [run === null ? undefined : `run ${run}`, spans.join(" ") || (run === null ? "the whole window" : undefined)]
    .filter((said) => said !== undefined)
    .join(", ");
}
