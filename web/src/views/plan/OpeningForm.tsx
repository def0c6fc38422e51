/** How a line is when the window begins: ovens that are on, how far tools are worn, what was made last. */
import { useState } from "react";
import type { StoredOpening } from "../../api/client";
import { useLibrary, useOpening, useSetOpening } from "../../api/queries";
import { useUnits } from "../../app/units";
import { LinePick } from "../../ui/LinePick";
import { Pick } from "../../ui/Pick";
import { Button, Loading, Refused } from "../../ui/parts";
import { useWindowView } from "../planningWindow";

const NOTHING = "-";
const FIELD = "w-24 rounded border border-trail/60 bg-paper px-2 py-1.5 text-right";

export function OpeningForm({ line }: { line: string | undefined }) {
  const stored = useOpening();
  const change = useSetOpening();
  const { day } = useWindowView();
  const [chosen, setChosen] = useState(line ?? day.lines[0]?.id ?? "");
  if (stored.isPending) return <Loading what="the beginning" />;
  if (stored.isError) return <Refused error={stored.error} />;
  return (
    <>
      <p className="mb-2 text-ink-2 text-sm">
        What holds when the window opens. The first runs are planned from it: ovens heat up, stations are set and
        cleaned, tools are renewed in time.
      </p>
      <LinePick line={chosen} onChange={setChosen} />
      <LineForm
        key={`${chosen} ${stored.data.number}`}
        line={chosen}
        stored={stored.data}
        busy={change.isPending}
        onSave={change.mutate}
      />
      {change.isSuccess && (
        <p role="status" className="mt-2 text-sm">
          Saved. Plans made before say that they are out of date.
        </p>
      )}
      {change.isError && <Refused error={change.error} />}
    </>
  );
}

type LineProps = { line: string; stored: StoredOpening; busy: boolean; onSave: (opening: StoredOpening) => void };

function LineForm({ line, stored, busy, onSave }: LineProps) {
  const library = useLibrary().data?.library;
  const units = useUnits();
  const stations = library?.plant.lines.find((found) => found.id === line)?.stations ?? [];
  const ovens = stations.filter((station) => station.kind === "conveyor" && station.heating_c_per_min);
  const tools = stations.flatMap((station) => station.tools.map((tool) => ({ station, tool })));
  const products = library?.products.filter((product) => product.line === line && product.formula.length > 0) ?? [];
  const last = stored.last.find((found) => found.line === line);
  const ago = last ? Math.round(stored.now_min - last.left_min) : 0;
  const [heat, setHeat] = useState<Record<string, string>>({});
  const [used, setUsed] = useState<Record<string, string>>({});
  const [made, setMade] = useState(last?.product ?? NOTHING);
  const [left, setLeft] = useState(String(ago));
  if (!library) return <Loading what="the line" />;
  const lastTouched = made !== (last?.product ?? NOTHING) || Number(left) !== ago;
  const wrong = ovens.find((oven) => {
    const typed = heat[oven.id]?.trim();
    return typed && units.typed(typed, "temperature") === undefined;
  });

  const hot = (station: string) => stored.heated.find((found) => found.line === line && found.station === station);
  const shownHeat = (station: string) => {
    const oven = hot(station);
    return heat[station] ?? (oven ? units.shown(oven.temperature_c, "temperature") : "");
  };
  const wornBy = (station: string, tool: string) =>
    stored.worn.find((found) => found.line === line && found.station === station && found.tool === tool)?.used ?? 0;
  const shownUse = (station: string, tool: string) => used[`${station} ${tool}`] ?? String(wornBy(station, tool));

  const save = () => {
    const heated = ovens.flatMap((oven) => {
      const before = hot(oven.id);
      const typed = heat[oven.id];
      if (typed === undefined) return before ? [before] : [];
      const celsius = units.typed(typed, "temperature");
      return celsius === undefined ? [] : [{ line, station: oven.id, temperature_c: Number(celsius), zone_c: [] }];
    });
    const worn = tools.map(({ station, tool }) => ({
      line,
      station: station.id,
      tool: tool.id,
      used: Number(shownUse(station.id, tool.id)),
    }));
    const others = <Entry extends { line: string }>(entries: Entry[]) => entries.filter((entry) => entry.line !== line);
    onSave({
      ...stored,
      heated: [...others(stored.heated), ...heated],
      worn: [...others(stored.worn), ...worn],
      last: lastTouched
        ? [
            ...others(stored.last),
            ...(made === NOTHING ? [] : [{ line, product: made, left_min: stored.now_min - Math.abs(Number(left)) }]),
          ]
        : stored.last,
    });
  };

  return (
    <form
      className="mt-3 grid gap-3 text-sm"
      onSubmit={(event) => {
        event.preventDefault();
        save();
      }}
    >
      {ovens.map((oven) => (
        <label key={oven.id} className="flex flex-wrap items-baseline gap-2">
          <span className="w-44">{oven.name} is at</span>
          <input
            inputMode="decimal"
            className={FIELD}
            value={shownHeat(oven.id)}
            onChange={(event) => setHeat({ ...heat, [oven.id]: event.target.value })}
          />
          {units.name("temperature", "°C")}
          <span className="text-ink-2 text-xs">empty: it is off and cold</span>
        </label>
      ))}
      {tools.map(({ station, tool }) => (
        <label key={`${station.id} ${tool.id}`} className="flex flex-wrap items-baseline gap-2">
          <span className="w-44">
            {tool.name}, {station.name}
          </span>
          <input
            type="number"
            min={0}
            step="any"
            className={FIELD}
            value={shownUse(station.id, tool.id)}
            onChange={(event) => setUsed({ ...used, [`${station.id} ${tool.id}`]: event.target.value })}
          />
          of {tool.life.toLocaleString("en-GB")} {tool.counted}
        </label>
      ))}
      <div className="flex flex-wrap items-baseline gap-2">
        <span className="w-44">Made last</span>
        <Pick
          label="Made last"
          value={made}
          onChange={setMade}
          options={[
            { value: NOTHING, label: "nothing, all is clean" },
            ...products.map((product) => ({ value: product.id, label: product.name })),
          ]}
        />
        {made !== NOTHING && (
          <label className="flex items-baseline gap-2">
            left the line
            <input
              type="number"
              min={0}
              max={100000}
              className={FIELD}
              value={left}
              onChange={(event) => setLeft(event.target.value)}
            />
            min before
          </label>
        )}
      </div>
      <div className="flex items-center gap-3">
        <Button type="submit" weight="strong" disabled={busy || wrong !== undefined}>
          Save the beginning
        </Button>
      </div>
      {wrong && (
        <p role="alert" className="text-ember text-xs">
          {wrong.name}: a temperature is a number; leave it empty where it is off.
        </p>
      )}
    </form>
  );
}
