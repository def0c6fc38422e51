/** The round on paper: what is due in some hours, with boxes to write in; and the same page to type it in afterwards. */
import { type FormEvent, useState } from "react";
import { useSearchParams } from "react-router";
import { digits } from "../../app/format";
import { type Units, useUnits } from "../../app/units";
import { LinePick } from "../../ui/LinePick";
import { Pick } from "../../ui/Pick";
import { Button, Empty, Header, Loading, Notice, Refused } from "../../ui/parts";
import { useLine, useWindowView } from "../planningWindow";
import { batchOf, type Check, type Due, entryOf, isGood, isWithin, meanOf, sampleOf } from "./due";
import { limitsOf } from "./limits";
import { type Entry, keep, type RoundView } from "./outbox";
import { useBox, useRound } from "./useRound";

const SPANS = [4, 8, 12] as const;
const MINUTES = 60;
const DAY_MIN = 1_440;

type Row = { station: string; check: Check; due: Due };
type Typed = { figures: string; word: string; time: string };

/** The rows of a round between two minutes, in walking order, each stop by the clock. */
function rowsOf({ round }: RoundView, from: number, to: number): Row[] {
  return round.stops.flatMap((stop) =>
    stop.checks
      .flatMap((check) => check.due.map((due) => ({ station: stop.name, check, due })))
      .filter(({ due }) => due.due_min >= from && due.due_min < to && !due.find)
      .sort((one, other) => one.due.due_min - other.due.due_min),
  );
}

export function SheetView() {
  const line = useLine();
  const [, setSearch] = useSearchParams();
  const round = useRound(line?.id ?? "");
  useBox();
  if (!line) return <Empty title="No line">The plant has no line yet.</Empty>;
  if (round.isError && !round.data)
    return (
      <div className="m-5">
        <Refused error={round.error} again={() => round.refetch()} />
      </div>
    );
  if (!round.data) return <Loading what="the round" />;
  return <Sheet key={line.id} name={line.name} view={round.data.round} onLine={(id) => setSearch({ line: id })} />;
}

type SheetProps = { name: string; view: RoundView; onLine: (line: string) => void };

function Sheet({ name, view, onLine }: SheetProps) {
  const { clock } = useWindowView();
  const [search, setSearch] = useSearchParams();
  const hours = Number(search.get("hours") ?? SPANS[1]);
  const begins = Number(search.get("from") ?? Math.floor(clock.minuteNow() / MINUTES) * MINUTES);
  const [typed, setTyped] = useState<Record<string, Typed>>({});
  const [who, setWho] = useState("");
  const [asked, ask] = useState<Record<string, string>>({});
  const [done, setDone] = useState<{ kept: number; wrong: string[] }>();
  const rows = rowsOf(view, begins, begins + hours * MINUTES);
  const units = useUnits();
  const put = (key: string, change: Partial<Typed>) =>
    setTyped((before) => ({ ...before, [key]: { figures: "", word: "", time: "", ...before[key], ...change } }));
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    const wrong: string[] = [];
    const odd: Record<string, string> = {};
    let kept = 0;
    for (const row of rows) {
      const found = typed[row.due.key];
      if (!found?.figures && !found?.word) continue;
      const said = readRow(row, found, view, who.trim(), units, clock);
      const name = `${row.station}, ${row.check.inspection.name}, ${clock.time(row.due.due_min)}`;
      if (typeof said === "string") {
        wrong.push(`${name}: ${said}`);
        continue;
      }
      if (said.odd && asked[row.due.key] !== found.figures) {
        odd[row.due.key] = found.figures;
        wrong.push(`${name}: ${found.figures} is far from usual. If it is so, enter it once more.`);
        continue;
      }
      await keep(said.entry, said.says, said.good);
      kept += 1;
      setTyped(({ [row.due.key]: _, ...rest }) => rest);
    }
    ask((before) => ({ ...before, ...odd }));
    setDone({ kept, wrong });
  };
  const move = (by: number) =>
    setSearch({ line: view.round.line, hours: String(hours), from: String(begins + by * hours * MINUTES) });
  return (
    <form onSubmit={submit} className="mx-auto w-full max-w-[64rem] bg-paper px-6 pb-6 print:max-w-none print:p-0">
      <div className="-mx-5">
        <Header
          title={`Round sheet, ${name}`}
          sub={`${clock.date(begins)}, ${clock.time(begins)} to ${clock.time(begins + hours * MINUTES)}; plan version ${view.version}`}
          actions={
            <>
              <LinePick line={view.round.line} onChange={onLine} />
              <Pick
                label="Hours"
                value={String(hours)}
                options={SPANS.map((span) => ({ value: String(span), label: `${span} hours` }))}
                onChange={(value) => setSearch({ line: view.round.line, hours: value, from: String(begins) })}
              />
              <Button onClick={() => move(-1)}>Earlier</Button>
              <Button onClick={() => move(1)}>Later</Button>
              <Button onClick={() => window.print()}>Print</Button>
            </>
          }
        />
      </div>
      {done && (done.kept > 0 || done.wrong.length > 0) && (
        <Notice
          tone={done.wrong.length ? "wrong" : "good"}
          title={`${done.kept} taken${done.wrong.length ? `, ${done.wrong.length} not` : ""}.`}
        >
          {done.wrong.map((one) => (
            <p key={one}>{one}</p>
          ))}
        </Notice>
      )}
      <div className="my-3 flex flex-wrap items-center gap-3">
        <label className="flex items-center gap-2">
          Walked by
          <input
            value={who}
            maxLength={60}
            onChange={(event) => setWho(event.target.value)}
            className="rounded border border-trail/60 bg-ground px-2 py-1 print:w-64 print:border-0 print:border-b"
          />
        </label>
        <Button
          type="submit"
          weight="strong"
          className="no-print"
          disabled={!who.trim() || Object.keys(typed).length === 0}
        >
          Enter what is typed
        </Button>
        <span className="no-print text-ink-2 text-sm">
          Print it for the floor; or type in what was written on paper, each with the time that stands there.
        </span>
      </div>
      {rows.length === 0 && <Empty title="Nothing is due">No check falls into these hours, or all are done.</Empty>}
      <table className="w-full text-sm">
        <thead className="text-left text-ink-2 text-xs">
          <tr>
            {["Stop", "Check", "Due", "What it may be", "Found", "Time"].map((head) => (
              <th key={head} className="py-1 pr-2 font-semibold">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row, place) => (
            <SheetRow
              key={row.due.key}
              row={row}
              batch={batchOf(row.due, view)}
              first={rows[place - 1]?.station !== row.station}
              typed={typed[row.due.key]}
              onType={(change) => put(row.due.key, change)}
            />
          ))}
        </tbody>
      </table>
    </form>
  );
}

type RowProps = {
  row: Row;
  batch: string | null;
  first: boolean;
  typed: Typed | undefined;
  onType: (change: Partial<Typed>) => void;
};

const BOX =
  "rounded border border-trail/60 bg-ground px-2 py-1 print:h-6 print:border-ink print:bg-white print:text-transparent";

function SheetRow({ row: { station, check, due }, batch, first, typed, onType }: RowProps) {
  const { clock } = useWindowView();
  const units = useUnits();
  const { asks, name } = check.inspection;
  const what = `${station}, ${name}, ${clock.time(due.due_min)}`;
  const sample = sampleOf(check);
  return (
    <tr className={`break-inside-avoid ${first ? "border-ink border-t-2" : "border-rule border-t"}`}>
      <td className="py-1 pr-2 align-top font-bold">{first ? station : ""}</td>
      <td className="pr-2 align-top">
        {name}
        {batch && `, ${batch}`}
      </td>
      <td className="whitespace-nowrap pr-2 align-top">{clock.moment(due.due_min)}</td>
      <td className="pr-2 align-top text-ink-2">
        {asks.kind === "chosen" ? asks.good : limitsOf({ check, due }, units)}
      </td>
      <td className="pr-2 align-top">
        {asks.kind === "chosen" ? (
          <select
            aria-label={what}
            value={typed?.word ?? ""}
            onChange={(event) => onType({ word: event.target.value })}
            className={`${BOX} w-44`}
          >
            <option value="" />
            {[asks.good, ...asks.bad].map((word) => (
              <option key={word}>{word}</option>
            ))}
          </select>
        ) : (
          <input
            aria-label={what}
            placeholder={sample > 1 ? `${sample} figures, with blanks between` : ""}
            value={typed?.figures ?? ""}
            onChange={(event) => onType({ figures: event.target.value })}
            className={`${BOX} w-44 placeholder:print:text-transparent`}
          />
        )}
      </td>
      <td className="align-top">
        <input
          type="time"
          aria-label={`Time of ${what}`}
          value={typed?.time ?? ""}
          onChange={(event) => onType({ time: event.target.value })}
          className={`${BOX} w-28`}
        />
      </td>
    </tr>
  );
}

type Said = { entry: Entry; says: string; good: boolean | null; odd: boolean };
type ClockOf = ReturnType<typeof useWindowView>["clock"];

/** What was typed of a row as an entry, and whether it is an odd figure; or what is wrong with it. */
function readRow(
  { check, due }: Row,
  typed: Typed,
  view: RoundView,
  author: string,
  units: Units,
  clock: ClockOf,
): Said | string {
  const at = minuteOf(typed.time, due, clock);
  if (at > clock.minuteNow()) return `${typed.time || clock.time(at)} is still to come; allowed: a time up to now.`;
  const found = { at: clock.stamp(at), cannot: false, note: "from a sheet", author };
  if (check.inspection.asks.kind === "chosen") {
    const entry = entryOf(view, check, due, { ...found, measured: [], word: typed.word });
    return { entry, says: typed.word, good: typed.word === check.inspection.asks.good, odd: false };
  }
  const values = typed.figures
    .split(/[\s;]+/)
    .filter(Boolean)
    .map((text) => Number(units.typed(text, check.quantity)));
  const wanted = sampleOf(check);
  if (values.length !== wanted || values.some((value) => !Number.isFinite(value)))
    return `“${typed.figures}” is not taken; allowed: ${wanted === 1 ? "one figure" : `${wanted} figures`}.`;
  if (!values.every((value) => isWithin(value, due.possible))) {
    const [least = 0, most = 0] = (due.possible ?? []).map((value) => units.shown(value, check.quantity));
    return `“${typed.figures}” cannot be; allowed: ${least} to ${most} ${units.name(check.quantity, check.unit)}.`;
  }
  return {
    entry: entryOf(view, check, due, { ...found, measured: values, word: null }),
    says: `${digits(meanOf(values), 0, 1)} ${check.unit}`,
    good: isGood(due, values),
    odd: !values.every((value) => isWithin(value, due.usual)),
  };
}

/** The minute of a time that was written without a date: of the days around it that which is nearest to when it was due. */
function minuteOf(time: string, due: Due, clock: ClockOf) {
  if (!time) return Math.min(due.due_min, clock.minuteNow());
  const days = [-DAY_MIN, 0, DAY_MIN].map((by) =>
    clock.minuteOf(`${clock.typed(due.due_min + by).slice(0, 11)}${time}`),
  );
  return days.reduce((best, one) => (Math.abs(one - due.due_min) < Math.abs(best - due.due_min) ? one : best));
}
