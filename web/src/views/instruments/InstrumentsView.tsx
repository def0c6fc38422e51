/** Instruments: which server tells what of the plant, found and suggested by name, and tried with one tap. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useFindNodes, useInstruments, useSetInstruments } from "../../api/queries";
import { plural } from "../../app/format";
import { LinePick } from "../../ui/LinePick";
import { Button, Figure, Header, Loading, Notice, Panel, Refused } from "../../ui/parts";
import { useUnsaved } from "../../ui/useUnsaved";
import { useLine } from "../planningWindow";
import { SignalRow } from "./SignalRow";

type View = Schemas["InstrumentsView"];
export type Draft = View["instruments"];
export type Source = Draft["sources"][number];
type Mapped = Source["nodes"][number];

export const sameSignal = (one: Mapped["signal"], other: Mapped["signal"]) =>
  one.line === other.line &&
  one.station === other.station &&
  one.quantity === other.quantity &&
  (one.zone ?? 0) === (other.zone ?? 0);

const NEW: Source = { name: "New source", endpoint: "opc.tcp://127.0.0.1:4840", nodes: [] };

export function InstrumentsView() {
  const found = useInstruments();
  if (found.isError)
    return (
      <div className="m-5">
        <Refused error={found.error} again={() => found.refetch()} />
      </div>
    );
  if (!found.data) return <Loading what="the instruments" />;
  return <Sources view={found.data} />;
}

function Sources({ view }: { view: View }) {
  const [edited, edit] = useState<{ draft: Draft; seen: number }>();
  const [at, choose] = useState(0);
  const save = useSetInstruments();
  const draft = edited?.draft ?? view.instruments;
  const source = draft.sources[at];
  const change = (next: Draft) => edit({ draft: next, seen: edited?.seen ?? view.number });
  const put = (next: Source) =>
    change({ ...draft, sources: draft.sources.map((one, place) => (place === at ? next : one)) });
  const mapped = draft.sources.reduce((sum, one) => sum + one.nodes.length, 0);
  useUnsaved(edited !== undefined);
  return (
    <>
      <Header
        title="Instruments"
        sub="which server tells what of the plant, over OPC UA; they also come as files and by the API"
        figures={
          <>
            <Figure value={`${mapped} of ${view.signals.length}`} label="figures of the plant are told" />
            <label className="text-sm">
              <span className="block text-ink-2 text-xs">every reading is kept, days</span>
              <input
                type="number"
                min={1}
                max={400}
                className="w-20 rounded border border-trail/60 bg-paper px-2 py-1 text-right"
                value={draft.keep_days}
                onChange={(event) => change({ ...draft, keep_days: Number(event.target.value) })}
              />
            </label>
          </>
        }
        actions={
          <>
            {edited && <Button onClick={() => edit(undefined)}>Cancel</Button>}
            <Button
              weight="strong"
              disabled={!edited || save.isPending}
              onClick={() =>
                edited &&
                save.mutate({ instruments: edited.draft, seen: edited.seen }, { onSuccess: () => edit(undefined) })
              }
            >
              Save
            </Button>
          </>
        }
      />
      {save.isError && <Refused error={save.error} />}
      <div className="grid flex-1 grid-cols-[minmax(0,1fr)] content-start gap-2 px-2 pb-2 lg:grid-cols-[20rem_minmax(0,1fr)]">
        <Panel label="Sources" className="self-start p-4">
          <h2 className="font-bold">Sources</h2>
          <ul className="mt-1 divide-y divide-rule">
            {draft.sources.map((one, place) => (
              <li key={`${one.name} ${one.endpoint}`}>
                <button
                  type="button"
                  aria-pressed={place === at}
                  onClick={() => choose(place)}
                  className={`w-full py-2 text-left text-sm hover:underline ${place === at ? "font-bold" : ""}`}
                >
                  {one.name}
                  <State state={view.sources.find((state) => state.name === one.name)} />
                </button>
              </li>
            ))}
          </ul>
          {draft.sources.length === 0 && <p className="text-ink-2 text-sm">There is none yet.</p>}
          <Button
            size="small"
            className="mt-3"
            onClick={() => {
              change({ ...draft, sources: [...draft.sources, NEW] });
              choose(draft.sources.length);
            }}
          >
            Add a source
          </Button>
        </Panel>
        {source && (
          <OneSource
            key={at}
            view={view}
            draft={draft}
            source={source}
            onChange={put}
            onDelete={() => {
              change({ ...draft, sources: draft.sources.filter((_, place) => place !== at) });
              choose(0);
            }}
          />
        )}
      </div>
    </>
  );
}

/** How a source does, in a line. */
function State({ state }: { state: View["sources"][number] | undefined }) {
  if (!state) return <span className="block font-normal text-ink-2 text-xs">not saved yet</span>;
  const missing = state.missing.length;
  const well = state.says === "" && missing === 0;
  return (
    <span className={`block font-normal text-xs ${well ? "text-ink-2" : "text-ember"}`}>
      {state.is_simulated && "simulated · "}
      {state.says || (missing ? `${plural(missing, "node")} silent` : "answers")}
    </span>
  );
}

type OneProps = {
  view: View;
  draft: Draft;
  source: Source;
  onChange: (next: Source) => void;
  onDelete: () => void;
};

function OneSource({ view, draft, source, onChange, onDelete }: OneProps) {
  const line = useLine();
  const [shown, show] = useState(line?.id ?? "");
  const find = useFindNodes();
  const free = find.data?.suggested.filter(
    (one) => !draft.sources.some((each) => each.nodes.some((own) => sameSignal(own.signal, one.signal))),
  );
  const field = "mt-0.5 w-full rounded border border-trail/60 bg-paper px-2 py-1.5";
  const simulated = source.endpoint === "simulated";
  return (
    <Panel label={source.name} className="p-4">
      <div className="flex flex-wrap items-end gap-3 text-sm">
        <label className="w-56">
          <span className="block text-ink-2 text-xs">name</span>
          <input
            className={field}
            value={source.name}
            onChange={(event) => onChange({ ...source, name: event.target.value })}
          />
        </label>
        <label className="min-w-72 flex-1">
          <span className="block text-ink-2 text-xs">
            {simulated ? "the simulated plant that ships with Rundgang" : "address, opc.tcp://host:port"}
          </span>
          <input
            className={field}
            value={source.endpoint}
            onChange={(event) => onChange({ ...source, endpoint: event.target.value })}
          />
        </label>
        <Button disabled={find.isPending} onClick={() => find.mutate(source.endpoint)}>
          {find.isPending ? "Looking …" : "Find its nodes"}
        </Button>
        <Button onClick={() => confirm(`Delete ${source.name} and its ${source.nodes.length} nodes?`) && onDelete()}>
          Delete
        </Button>
      </div>
      <p className="mt-1 text-ink-2 text-xs">Allowed machines: {view.hosts.join(", ")}.</p>
      {find.isError && <Refused error={find.error} />}
      {find.data && (
        <Notice title={`${plural(find.data.nodes.length, "node")} found, ${find.data.suggested.length} alike by name`}>
          {free && free.length > 0 ? (
            <Button size="small" onClick={() => onChange({ ...source, nodes: [...source.nodes, ...free] })}>
              Take the {plural(free.length, "suggestion")}
            </Button>
          ) : (
            "All that are alike are mapped already."
          )}
        </Notice>
      )}
      <div className="mt-3 flex items-center justify-between">
        <h2 className="font-bold">What it tells</h2>
        <LinePick line={shown} onChange={show} />
      </div>
      <p className="text-ink-2 text-xs">
        What a node says, times and plus, is the figure in the unit beside it; readings are stored in metric units.
      </p>
      <datalist id="nodes">
        {find.data?.nodes.map((one) => (
          <option key={one.node} value={one.node}>
            {one.names}
          </option>
        ))}
      </datalist>
      <table className="mt-1 w-full text-sm">
        <thead className="text-left text-ink-2 text-xs">
          <tr>
            <th className="py-1 font-normal">Station</th>
            <th className="font-normal">Figure</th>
            <th className="font-normal">Node</th>
            <th className="font-normal">times</th>
            <th className="font-normal">plus</th>
            <th className="font-normal">It says</th>
          </tr>
        </thead>
        <tbody className="divide-y divide-rule">
          {view.signals
            .filter((one) => one.signal.line === shown)
            .map((one) => (
              <SignalRow
                key={`${one.signal.station} ${one.quantity}`}
                signal={one}
                source={source}
                elsewhere={
                  draft.sources.find(
                    (other) => other !== source && other.nodes.some((node) => sameSignal(node.signal, one.signal)),
                  )?.name
                }
                onChange={onChange}
              />
            ))}
        </tbody>
      </table>
    </Panel>
  );
}
