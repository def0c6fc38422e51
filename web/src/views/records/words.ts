/** How lots are written. */
import type { Schemas } from "../../api/client";
import { digits, whole } from "../../app/format";
import type { Units } from "../../app/units";

export const KINDS: Record<Schemas["StoredLot"]["kind"], string> = {
  material: "came in",
  batch: "mixed",
  packs: "packed",
};

/** An amount with its unit: kilograms as the reader has them, packs and pieces as they are. */
export function amountOf(amount: number, unit: string, units: Units): string {
  if (unit !== "kg") return `${whole(amount)} ${unit}`;
  const shown = units.system === "us" ? units.shown(amount, "dough mass") : digits(amount, 1);
  return `${shown} ${units.name("dough mass", "kg")}`;
}

/** How one lot went into another. */
export const USES: Record<string, string> = {
  weighed: "weighed in",
  "mixed in": "mixed in, by the plan",
  rework: "came back into",
  divided: "divided for",
  "put on": "put on",
  "packed in": "packed in",
  beside: "may hold a trace: the two met",
};
