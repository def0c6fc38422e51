/** A check in words: when it comes, and what is asked. */
import type { Schemas } from "../../api/client";
import type { Units } from "../../app/units";

export type Inspection = Schemas["Inspection"];
export type When = Inspection["when"];
export type Asks = Inspection["asks"];

export const WHEN: Record<When["kind"], string> = {
  every: "again and again while pieces pass",
  start: "at the start of each run",
  batch: "every batch",
  changeover: "at a changeover",
  daily: "once a day, before the first run",
};

export function whenWords(when: When): string {
  if (when.kind === "every") return `every ${when.minutes} min`;
  if (when.kind === "batch" && when.after_min) return `every batch, after ${when.after_min} min`;
  if (when.kind === "changeover" && when.allergens_only) return "when an allergen leaves";
  return WHEN[when.kind];
}

/** What is asked, with its limits. */
export function asksWords(asks: Asks, subjects: Schemas["SubjectView"][], units: Units): string {
  if (asks.kind === "chosen") return `${asks.good}; or ${asks.bad.join(", ")}`;
  if (asks.kind === "counted") return asks.wanted ? `${asks.wanted} pieces` : "as many pieces as the pack has";
  const subject = subjects.find((one) => one.subject === asks.subject);
  const unit = subject ? units.name(subject.quantity, subject.unit) : "";
  const sample = (asks.sample ?? 1) > 1 ? `, mean of ${asks.sample}` : "";
  const limits = [asks.low, asks.high].map((limit) => limit ?? undefined);
  if (limits[0] === undefined && limits[1] === undefined) return `${asks.subject}, ${unit}, no limits${sample}`;
  const percent = asks.around === "own percent";
  const off = subject?.quantity === "temperature" && asks.around !== "fixed" ? "temperature difference" : undefined;
  const shown = (value: number | undefined) =>
    value === undefined ? "" : percent ? String(value) : units.shown(value, off ?? subject?.quantity ?? "");
  const name = percent ? "%" : off ? units.name(off, unit) : unit;
  const range =
    limits[0] === undefined
      ? `at most ${shown(limits[1])} ${name}`
      : limits[1] === undefined
        ? `at least ${shown(limits[0])} ${name}`
        : `${shown(limits[0])} to ${shown(limits[1])} ${name}`;
  return asks.around === "fixed"
    ? `${asks.subject}, ${range}${sample}`
    : `${asks.subject}, ${range} from the product's own${sample}`;
}
