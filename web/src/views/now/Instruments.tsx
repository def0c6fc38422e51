/** What the instruments of a line read, station by station in walking order; each figure as it comes. */
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useHeard } from "../../api/live";
import { whole } from "../../app/format";
import { useUnits } from "../../app/units";
import { History } from "./History";
import type { LineNow } from "./NowView";
import { UNIT_OF } from "./unitOf";

type Read = LineNow["read"][number];

export function Instruments({ now }: { now: LineNow }) {
  const [looked, look] = useState<Read>();
  const walked = new Map(now.read.map((one) => [one.station, one.name]));
  return (
    <>
      <h2 className="flex items-baseline justify-between font-bold">
        Instruments
        <Link to="/instruments" className="inline-flex min-h-6 items-center font-normal text-sm underline">
          Map them
        </Link>
      </h2>
      {now.read.length === 0 && <p className="text-ink-2 text-sm">No instrument of this line is mapped yet.</p>}
      <dl className="divide-y divide-rule">
        {[...walked].map(([station, name]) => (
          <div key={station} className="flex items-baseline gap-3 py-1 text-sm">
            <dt className="w-36 truncate">{name}</dt>
            <dd className="flex flex-1 flex-wrap justify-end gap-x-3 gap-y-1 text-right">
              {now.read
                .filter((one) => one.station === station)
                .map((one) => (
                  <button
                    key={one.path}
                    type="button"
                    className="min-h-7 min-w-7 hover:underline"
                    title={`${one.quantity}: what it was`}
                    onClick={() => look(one)}
                  >
                    <Value
                      read={one}
                      silent={now.silent.includes(one.path)}
                      stands={now.standing.some((stoppage) => stoppage.station === one.station)}
                    />
                  </button>
                ))}
            </dd>
          </div>
        ))}
      </dl>
      {looked && (
        <History
          signal={signalOf(looked)}
          title={`${looked.name}, ${looked.quantity}`}
          unit={looked.unit}
          onClose={() => look(undefined)}
        />
      )}
    </>
  );
}

/** The signal of a path: line, station, quantity and, of an oven, zone. */
function signalOf({ path }: Read): Schemas["Signal"] {
  const [line = "", station = "", quantity = "count", zone = "0"] = path.split("/");
  return { line, station, quantity: quantity as Schemas["Signal"]["quantity"], zone: Number(zone) };
}

function Value({ read, silent, stands }: { read: Read; silent: boolean; stands: boolean }) {
  const heard = useHeard(read.path);
  const units = useUnits();
  const value = heard ?? read.value;
  const what = read.quantity.split(",")[0];
  const quiet = silent && heard === undefined && <span className="text-ember"> silent</span>;
  if (value == null && quiet)
    return (
      <span>
        {read.quantity}
        {quiet}
      </span>
    );
  if (value == null) return <span className="text-ink-2">{read.quantity} –</span>;
  if (what === "state" && value === 0)
    return stands ? <span className="font-semibold text-ember">stands</span> : <span className="text-ink-2">idle</span>;
  if (what === "state") return <span className="text-ink-2">runs</span>;
  const unit = UNIT_OF[what ?? ""];
  return (
    <span title={read.quantity}>
      {unit ? units.shown(value, unit) : whole(value)} {unit ? units.name(unit) : read.unit}
      {quiet}
    </span>
  );
}
