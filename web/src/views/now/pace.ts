/** How a line stands against its plan, in words. */
import type { Schemas } from "../../api/client";
import { plural } from "../../app/format";
import type { LineNow } from "./NowView";

type Pace = NonNullable<LineNow["pace"]>;

export function paceWords({ stands, made, planned }: Pace): string {
  if (stands === "on pace") return "on pace";
  if (stands === "idle") return "idle, as planned";
  return `${plural(Math.abs(made - planned), "pack")} ${stands}`;
}

/** How a line's checks stand. */
export function checkWords({ late, due, held }: Schemas["LineStanding"]): string {
  const holds = held ? `, ${held} held` : "";
  if (late) return `${plural(late, "check")} late${holds}`;
  return due ? `${plural(due, "check")} due${holds}` : `checks done${holds}`;
}
