/** What the instruments of a line read, station by station in walking order; each figure as it comes. */
import { useHeard } from "../../api/live";
import { digits, whole } from "../../app/format";
import { useUnits } from "../../app/units";
import type { LineNow } from "./NowView";

type Read = LineNow["read"][number];

export function Instruments({ now }: { now: LineNow }) {
  const walked = new Map(now.read.map((one) => [one.station, one.name]));
  return (
    <>
      <h2 className="font-bold">Instruments</h2>
      {now.read.length === 0 && (
        <p className="text-ink-2 text-sm">No instrument of this line is mapped. Map them on the Plant page.</p>
      )}
      <dl className="divide-y divide-rule">
        {[...walked].map(([station, name]) => (
          <div key={station} className="flex items-baseline gap-3 py-1 text-sm">
            <dt className="w-36 truncate">{name}</dt>
            <dd className="flex flex-1 flex-wrap justify-end gap-x-3 text-right">
              {now.read
                .filter((one) => one.station === station)
                .map((one) => (
                  <Value key={one.path} read={one} silent={now.silent.includes(one.path)} />
                ))}
            </dd>
          </div>
        ))}
      </dl>
    </>
  );
}

function Value({ read, silent }: { read: Read; silent: boolean }) {
  const heard = useHeard(read.path);
  const units = useUnits();
  const value = heard?.value ?? read.value;
  const what = read.quantity.split(",")[0];
  if (silent) return <span className="text-ember">{read.quantity} silent</span>;
  if (value == null) return <span className="text-ink-2">{read.quantity} –</span>;
  if (what === "state")
    return value > 0 ? (
      <span className="text-ink-2">runs</span>
    ) : (
      <span className="font-semibold text-ember">stands</span>
    );
  if (what === "temperature")
    return (
      <span title={read.quantity}>
        {units.shown(value, "temperature")} {units.name("temperature")}
      </span>
    );
  return (
    <span title={read.quantity}>
      {what === "count" ? whole(value) : digits(value, 1)} {what === "count" ? "out" : read.unit}
    </span>
  );
}
