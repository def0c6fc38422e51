/** Words for runs: what is wanted of one, and how far it has moved. */
import type { Run } from "../../api/client";
import { duration } from "../../app/format";

export const wantedOf = (run: Run) => run.items.reduce((sum, lot) => sum + lot.packs, 0);

export function movedBy(was: number | null | undefined, now: number | null | undefined): string {
  if (was == null) return "is new";
  if (now == null) return "is gone";
  const by = now - was;
  return `${duration(Math.abs(by))} ${by < 0 ? "earlier" : "later"}`;
}
