/** The bench: calculations that stand alone, answered as one types. */
import { NavLink, useParams } from "react-router";
import type { BenchEntry } from "../../api/client";
import { useBench, useUnitTable } from "../../api/queries";
import { Empty, Header, Loading, Panel, Refused } from "../../ui/parts";
import { Calculation } from "./Calculation";

export function BenchView() {
  const bench = useBench();
  const units = useUnitTable();
  const { entry } = useParams();
  if (bench.isError || units.isError)
    return (
      <div className="m-5">
        <Refused error={bench.error ?? units.error ?? new Error("The bench is not there.")} />
      </div>
    );
  if (!bench.data || !units.data) return <Loading what="the bench" />;
  const chosen = bench.data.find((found) => found.id === (entry ?? bench.data[0]?.id));
  return (
    <>
      <Header title="Bench" sub="one thing reckoned by itself, nothing is saved" />
      <div className="grid flex-1 content-start gap-2 px-2 pb-2 lg:grid-cols-[13rem_1fr]">
        <Entries entries={bench.data} chosen={chosen} />
        {chosen ? (
          <Calculation key={chosen.id} entry={chosen} />
        ) : (
          <Empty title="No such calculation">Choose one from the list.</Empty>
        )}
      </div>
    </>
  );
}

function Entries({ entries, chosen }: { entries: BenchEntry[]; chosen: BenchEntry | undefined }) {
  return (
    <Panel className="self-start p-2">
      <nav aria-label="Calculations">
        <ul>
          {entries.map((found) => (
            <li key={found.id}>
              <NavLink
                to={`/bench/${found.id}`}
                aria-current={found === chosen ? "page" : undefined}
                className="block rounded-lg px-3 py-1.5 hover:bg-crumb aria-[current=page]:bg-crumb"
              >
                <span className="block font-semibold text-sm">{found.name}</span>
                <span className="block text-ink-2 text-xs">{found.about}</span>
              </NavLink>
            </li>
          ))}
        </ul>
      </nav>
    </Panel>
  );
}
