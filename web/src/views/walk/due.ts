/** What of a round is due by the clock: the round says when; what was entered here counts at once. */
import type { Schemas } from "../../api/client";
import { type Entry, isFind, type Kept, type KeptFind, type RoundView, uuid } from "./outbox";

export type Stop = Schemas["RoundStop"];
export type Check = Schemas["RoundCheck"];
export type Due = Schemas["Due"];

/** What was found, as it is shown, whether it is stored yet or waits. */
export type Shown = { says: string; good: boolean | null; at: number; waits: boolean; why?: string; order?: number };

export type Asked = { check: Check; due: Due; shown: Shown | undefined };
export type State = "late" | "due" | "next" | "done";

/** Of which dough, or of what is prepared for it, in words. */
export const batchOf = (due: Due, { preparations }: RoundView) =>
  due.batch == null
    ? null
    : [due.run, due.preparation && preparations[due.preparation], `batch ${due.batch}`].filter(Boolean).join(" ");

/** Whether figures are within what they may be: their mean counts. The server judges them again. */
export function isGood({ low, high }: Due, values: readonly number[]) {
  const mean = meanOf(values);
  return (low == null || mean >= low) && (high == null || mean <= high);
}

export const meanOf = (values: readonly number[]) => values.reduce((sum, one) => sum + one, 0) / values.length;

export const isWithin = (value: number, range: readonly number[] | null | undefined) =>
  !range || (value >= (range[0] ?? 0) && value <= (range[1] ?? 0));

/** How many figures a check asks for. */
export const sampleOf = ({ inspection: { asks } }: Check) => (asks.kind === "measured" ? (asks.sample ?? 1) : 1);

/** What was found at an occasion, as it is sent. */
export const entryOf = (
  round: RoundView,
  check: Check,
  due: Due,
  found: Pick<Entry, "at" | "measured" | "word" | "cannot" | "note" | "author">,
): Entry => ({
  uuid: uuid(),
  window: round.number,
  version: round.inspections,
  occasion: due.key,
  inspection: check.inspection.id,
  run: due.run ?? null,
  product: due.product ?? null,
  preparation: due.preparation ?? null,
  batch: due.batch ?? null,
  ...found,
});

/** What is in the box, by occasion; the later one counts. */
export const byOccasion = (box: readonly Kept[]) => new Map(box.filter(isFind).map((one) => [one.entry.occasion, one]));

/** What was found at an occasion. */
function shownOf(due: Due, box: Map<string, KeptFind>, minuteOf: (at: string) => number): Shown | undefined {
  const kept = box.get(due.key);
  if (kept) {
    const { says, good, entry, sent, why, order } = kept;
    return { says, good, at: minuteOf(entry.at), waits: !sent, why, order };
  }
  return due.find ? { says: due.find.says, good: due.find.good, at: due.find.at_min, waits: false } : undefined;
}

/** Of a check the occasion to show: that which is due, or was answered in its time; else the next one. */
export function askedOf(
  check: Check,
  now: number,
  box: Map<string, KeptFind>,
  minuteOf: (at: string) => number,
): Asked | undefined {
  const current = check.due.filter((due) => due.due_min <= now && now < due.until_min).at(-1);
  const shown = current && shownOf(current, box, minuteOf);
  if (current && !shown) return { check, due: current, shown };
  const next = check.due.find((due) => due.due_min > now && !shownOf(due, box, minuteOf));
  if (current) return { check, due: current, shown };
  return next && { check, due: next, shown: undefined };
}

export function stateOf({ due, shown }: Asked, now: number): State {
  if (shown) return "done";
  if (due.due_min > now) return "next";
  return due.late_min <= now ? "late" : "due";
}

/** What a stop's place on the rail says. */
export function sumOf(asked: Asked[], now: number) {
  const of = (state: State) => asked.filter((one) => stateOf(one, now) === state);
  const late = of("late");
  const due = of("due");
  const next = of("next");
  const done = of("done");
  const state: State = late.length ? "late" : due.length ? "due" : done.length ? "done" : "next";
  return {
    state,
    waiting: late.length + due.length,
    lateBy: Math.max(0, ...late.map((one) => now - one.due.late_min)),
    next: Math.min(...next.map((one) => one.due.due_min)),
    nextCount: next.length,
    doneAt: Math.max(...done.map((one) => one.shown?.at ?? 0)),
  };
}
