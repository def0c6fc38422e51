/** How a line stands against its plan, in words. */
import { plural } from "../../app/format";
import type { LineNow } from "./NowView";

type Pace = NonNullable<LineNow["pace"]>;

export function paceWords({ stands, made, planned }: Pace): string {
  if (stands === "on pace") return "on pace";
  if (stands === "idle") return "idle, as planned";
  return `${plural(Math.abs(made - planned), "pack")} ${stands}`;
}
