/** The way of a lot: what it is made of to the left, what it went into to the right, the lorries at the end. */
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { plural, whole } from "../../app/format";
import { useUnits } from "../../app/units";
import { Panel } from "../../ui/parts";
import { amountOf, USES } from "./words";

type View = Schemas["LotView"];
type Traced = View["trace"]["made_of"][number];

/** So many lots of a step are named; of more, how many. */
const MOST = 8;

export function WayOfLot({ view }: { view: View }) {
  const steps = (of: readonly Traced[]) => [...new Set(of.map((one) => one.steps))].sort((a, b) => a - b);
  const up = steps(view.trace.made_of).reverse();
  const down = steps(view.trace.went_into);
  const lorries = [...new Set(view.loads.map((load) => load.lorry))];
  return (
    <Panel label="Its way" className="overflow-x-auto p-4">
      <h2 className="mb-2 font-bold">Its way</h2>
      <div className="relative flex min-w-max gap-6">
        <div aria-hidden="true" className="absolute top-[7px] right-6 left-2 border-trail border-t-2 border-dotted" />
        {up.map((step) => (
          <Step
            key={-step}
            name={step === 1 ? "made of" : `${step} steps before`}
            lots={view.trace.made_of.filter((one) => one.steps === step)}
            view={view}
          />
        ))}
        <div className="relative w-52 shrink-0">
          <span className="block h-4 w-4 rounded-full border-2 border-crust bg-crust" />
          <p className="text-ink-2 text-xs">this lot</p>
          <p className="font-bold text-sm">{view.line.what}</p>
          <p className="text-xs">{view.line.lot.code}</p>
        </div>
        {down.map((step) => (
          <Step
            key={step}
            name={step === 1 ? "went into" : `${step} steps on`}
            lots={view.trace.went_into.filter((one) => one.steps === step)}
            view={view}
          />
        ))}
        {lorries.length > 0 && (
          <div className="relative w-52 shrink-0">
            <span className="block h-4 w-4 rounded-full border-2 border-steam bg-paper" />
            <p className="text-ink-2 text-xs">{plural(lorries.length, "lorry", "lorries")}</p>
            <ul className="text-sm">
              {lorries.map((lorry) => (
                <li key={lorry} className="py-0.5">
                  <Link className="font-semibold underline" to={`/dispatch?lorry=${lorry}`}>
                    {view.lorries[lorry] ?? lorry}
                  </Link>{" "}
                  {whole(view.loads.reduce((sum, load) => sum + (load.lorry === lorry ? load.packs : 0), 0))} packs
                </li>
              ))}
            </ul>
          </div>
        )}
      </div>
      {up.length === 0 && down.length === 0 && lorries.length === 0 && (
        <p className="mt-2 text-ink-2 text-sm">Nothing has gone into it, and it has gone into nothing yet.</p>
      )}
    </Panel>
  );
}

function Step({ name, lots, view }: { name: string; lots: readonly Traced[]; view: View }) {
  const shown = lots.slice(0, MOST);
  return (
    <div className="relative w-52 shrink-0">
      <span className="block h-4 w-4 rounded-full border-2 border-trail bg-paper" />
      <p className="text-ink-2 text-xs">
        {name}, {plural(lots.length, "lot")}
      </p>
      <ul className="text-sm">
        {shown.map((one) => (
          <li key={one.lot.number} className="py-0.5">
            <Link className="font-semibold underline" to={`/lots/${one.lot.number}`}>
              {view.names[one.lot.item] ?? one.lot.item}
            </Link>
            <span className="block text-ink-2 text-xs">{one.lot.code}</span>
            <Near one={one} view={view} />
          </li>
        ))}
      </ul>
      {lots.length > MOST && (
        <details className="text-sm">
          <summary className="cursor-pointer underline">{plural(lots.length - MOST, "more lot")}</summary>
          <ul>
            {lots.slice(MOST).map((one) => (
              <li key={one.lot.number}>
                <Link className="underline" to={`/lots/${one.lot.number}`}>
                  {one.lot.code}
                </Link>
              </li>
            ))}
          </ul>
        </details>
      )}
    </div>
  );
}

/** How much of the two went into each other, where they are one step apart. */
function Near({ one, view }: { one: Traced; view: View }) {
  const units = useUnits();
  const here = view.line.lot.number;
  const uses = view.trace.uses.filter(
    (use) => (use.lot === one.lot.number && use.into === here) || (use.into === one.lot.number && use.lot === here),
  );
  return uses.map((use) => (
    <span key={use.kind} className="block text-xs">
      {use.kind === "beside"
        ? USES.beside
        : `${amountOf(use.amount, use.kind === "packed in" ? "pieces" : "kg", units)} ${USES[use.kind]}`}
    </span>
  ));
}
