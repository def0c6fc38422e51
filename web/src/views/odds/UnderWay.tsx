/** A search that waits or runs: how far it has come, and how it is stopped. */
import type { Schemas } from "../../api/client";
import { stopSearch } from "../../api/queries";
import { Button } from "../../ui/parts";

export function UnderWay({ search, sofar }: { search: Schemas["SearchState"]; sofar: string }) {
  return (
    <>
      <span role="status" className="text-ink-2">
        {search.state === "waiting" ? "waiting for a worker" : `${sofar} so far`}
      </span>
      <Button onClick={() => stopSearch(search.job)}>Stop</Button>
    </>
  );
}
