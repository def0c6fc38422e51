/** What a check's figure may be, in words and in the reader's units. */
import { digits } from "../../app/format";
import type { Units } from "../../app/units";
import type { Check, Due } from "./due";

export function limitsOf({ check, due }: { check: Check; due: Due }, units: Units): string | null {
  const asks = check.inspection.asks;
  if (asks.kind === "chosen") return null;
  const unit = units.name(check.quantity, check.unit);
  const figure = (value: number) => (asks.kind === "counted" ? digits(value, 0) : units.shown(value, check.quantity));
  const sample = asks.kind === "measured" && (asks.sample ?? 1) > 1 ? `, the mean of ${asks.sample}` : "";
  if (due.low != null && due.low === due.high) return `${figure(due.low)} ${unit}${sample}`;
  if (due.low != null && due.high != null) return `${figure(due.low)} to ${figure(due.high)} ${unit}${sample}`;
  if (due.high != null) return `at most ${figure(due.high)} ${unit}${sample}`;
  if (due.low != null) return `at least ${figure(due.low)} ${unit}${sample}`;
  return `no limits, ${unit}${sample}`;
}
