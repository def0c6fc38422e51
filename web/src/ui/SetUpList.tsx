import type { Schemas } from "../api/client";
import { Said } from "./Said";

type Props = { station?: string; checks: Schemas["SetUpCheck"][] };

/** What is looked at before a run begins at a station, and what it must be. */
export function SetUpList({ station, checks }: Props) {
  return (
    <ul className="text-sm">
      {checks.map((check) => (
        <li key={check.what} className="flex justify-between gap-3 border-rule border-b py-1">
          <span>
            {station && <span className="text-ink-2">{station}: </span>}
            {check.what}
          </span>
          <b>
            <Said text={check.wanted} />
          </b>
        </li>
      ))}
    </ul>
  );
}
