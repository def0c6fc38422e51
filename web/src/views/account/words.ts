/** An account in words. */
import type { Schemas } from "../../api/client";
import { digits, duration } from "../../app/format";
import type { Units } from "../../app/units";

export type View = Schemas["LineAccount"];
export type Tally = View["tally"];
export type Loss = View["account"]["pareto"][number];

export const share = (value: number | null) => (value == null ? "none" : `${digits(100 * value, 1)} %`);

/** A loss by its cause, as people say it. */
export function lossWords(loss: Loss, stations: Record<string, string>): string {
  if (loss.kind === "slower") return "slower or later than planned";
  if (loss.kind === "made up") return "made up";
  const told = loss.cause ? ` (${loss.cause})` : "";
  return `${stations[loss.station ?? ""] ?? loss.station} stood ${duration(loss.minutes)}${told}`;
}

/** What was given away; below nothing, what was missing. */
export function givenWords(kg: number | null, units: Units): string {
  if (kg == null) return "none";
  const amount = `${units.shown(Math.abs(kg), "dough mass")} ${units.name("dough mass", "kg")}`;
  return kg < 0 ? `${amount} too little` : amount;
}

/** What that costs, where everything in it has a price. */
export const costWords = (money: number | null, currency: string | null) =>
  money == null || !currency ? "" : `, ${digits(Math.abs(money), 2)} ${currency}`;
