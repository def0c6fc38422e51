/** A line: its stations as the walk, one of them with its figures, and what a change does. */
import { useEffect, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { plural } from "../../app/format";
import { Pick } from "../../ui/Pick";
import { Button, Empty, Panel } from "../../ui/parts";
import type { Kind, Thing } from "./draft";
import { Effect } from "./Effect";
import { Form } from "./form/Form";
import type { Data } from "./form/schema";
import { InsertStation } from "./InsertStation";
import { Naming } from "./Naming";
import { type Parts, useChosen } from "./PlantView";
import { referencesIn } from "./references";
import { copyOf, routeOf, type Step, stationsOf, withStations, withStep } from "./route";
import { StationPanel } from "./StationPanel";
import { Walk } from "./Walk";

export function LineScreen({ parts }: { kind: Kind; parts: Parts }) {
  const { draft, trial, showFor } = parts;
  const navigate = useNavigate();
  const [search, setSearch] = useSearchParams();
  const { things: lines, chosen: line } = useChosen("lines", draft);
  const made = (draft.library.products as unknown as Thing[]).filter((product) => product.line === line?.id);
  const product = made.find((one) => one.id === search.get("as")) ?? made[0];
  const [insertAt, setInsertAt] = useState<number>();
  const [naming, setNaming] = useState<"line" | "station">();
  useEffect(() => showFor(product?.id), [showFor, product?.id]);
  if (!line)
    return (
      <Empty title="No such line">
        <p className="mb-3">There are {plural(lines.length, "line")}.</p>
        {parts.picks}
      </Empty>
    );
  const stations = stationsOf(line);
  const station = stations.find((one) => one.id === search.get("station")) ?? stations[0];
  const set = (key: string, value: string) => {
    search.set(key, value);
    setSearch(search, { replace: true });
  };
  const put = (next: Thing[]) => draft.edit(withStations(draft.library, line, next));
  const place = stations.findIndex((one) => one.id === station?.id);
  const move = (from: number, to: number) => {
    const moved = stations.toSpliced(from, 1);
    const one = stations[from];
    if (one && to >= 0 && to < stations.length) put(moved.toSpliced(to, 0, one));
  };
  const insert = (at: number, one: Thing) => {
    put(stations.toSpliced(at, 0, one));
    set("station", one.id);
  };
  return (
    <div className="grid flex-1 content-start gap-2 px-2 pb-2 lg:grid-cols-2">
      <Panel label="The line" className="p-4 lg:col-span-2">
        <div className="mb-3 flex flex-wrap items-center gap-3 text-sm">
          {parts.picks}
          <Pick
            label="Line"
            value={line.id}
            onChange={(id) => navigate(`/plant/lines/${id}`)}
            options={lines.map(({ id, name }) => ({ value: id, label: name }))}
          />
          {product && (
            <>
              <span className="text-ink-2">as</span>
              <Pick
                label="Product on the walk"
                value={product.id}
                onChange={(id) => set("as", id)}
                options={made.map(({ id, name }) => ({ value: id, label: name }))}
              />
            </>
          )}
          <span className="flex-1" />
          <Button onClick={() => setNaming("line")}>Copy this line</Button>
        </div>
        <Walk
          stations={stations}
          steps={routeOf(product)}
          balance={trial?.now?.balance ?? trial?.was?.balance ?? undefined}
          chosen={station?.id}
          onChoose={(id) => set("station", id)}
          onMove={move}
          onInsert={setInsertAt}
        />
        <p className="text-ink-2 text-xs">
          Bars: how much of each station the product takes. Drag a station to move it; + puts one in.
        </p>
        <details className="mt-1 text-sm">
          <summary className="cursor-pointer text-ink-2">The line&apos;s name and carriers</summary>
          <div className="mt-2">
            <LineForm line={line} parts={parts} />
          </div>
        </details>
      </Panel>
      {station && (
        <StationPanel
          key={`${line.id} ${station.id} ${product?.id}`}
          parts={parts}
          station={station}
          product={product}
          references={referencesIn(draft.library, line.id)}
          onStation={(next) => put(stations.map((one) => (one.id === station.id ? (next as Thing) : one)))}
          onStep={(step) => product && draft.edit([withStep(line, product, station.id, step as Step | undefined)])}
          actions={
            <>
              <Button disabled={place <= 0} onClick={() => move(place, place - 1)}>
                Earlier
              </Button>
              <Button disabled={place >= stations.length - 1} onClick={() => move(place, place + 1)}>
                Later
              </Button>
              <Button onClick={() => setNaming("station")}>Copy</Button>
              <Button onClick={() => put(stations.toSpliced(place, 1))}>Delete</Button>
            </>
          }
        />
      )}
      <Effect parts={parts} product={product} />
      {insertAt !== undefined && (
        <InsertStation
          parts={parts}
          stations={stations}
          onStation={(one) => insert(insertAt, one)}
          onClose={() => setInsertAt(undefined)}
        />
      )}
      {naming === "station" && station && (
        <Naming
          title={`Copy ${station.name}`}
          begun={`${station.name} 2`}
          button="Put the copy behind it"
          onName={(name) => insert(place + 1, copyOf(station, name, stations))}
          onClose={() => setNaming(undefined)}
        />
      )}
      {naming === "line" && (
        <Naming
          title={`Copy ${line.name}`}
          begun={`${line.name} 2`}
          button="Copy the line"
          onName={(name) => {
            const copy = copyOf(line, name, lines);
            draft.edit([{ kind: "lines", id: copy.id, data: copy }]);
            navigate(`/plant/lines/${copy.id}`);
          }}
          onClose={() => setNaming(undefined)}
        />
      )}
    </div>
  );
}

function LineForm({ line, parts }: { line: Thing; parts: Parts }) {
  const { draft, schemas } = parts;
  const lines = draft.library.plant.lines;
  return (
    <>
      <Form
        schema={schemas.lines}
        root={schemas.lines}
        value={line}
        references={referencesIn(draft.library, line.id)}
        without={["stations"]}
        onChange={(next: Data) => draft.edit([{ kind: "lines", id: line.id, data: next }])}
      />
      <Button
        className="mt-3"
        disabled={lines.length < 2}
        onClick={() => draft.edit([{ kind: "lines", id: line.id, data: null }])}
      >
        Delete this line
      </Button>
    </>
  );
}
