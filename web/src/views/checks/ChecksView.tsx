/** The plant's checks: what is looked at and measured on the walk, when, and what to do when it is out. */
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useInspections, useSetInspections } from "../../api/queries";
import { plural } from "../../app/format";
import { useUnits } from "../../app/units";
import { LinePick } from "../../ui/LinePick";
import { Button, buttonLook, Empty, Figure, Header, Loading, Panel, Refused } from "../../ui/parts";
import { useUnsaved } from "../../ui/useUnsaved";
import { rememberLine, useLine, useWindowView } from "../planningWindow";
import { CheckDialog } from "./CheckDialog";
import { asksWords, type Inspection, whenWords } from "./words";

type View = Schemas["InspectionsView"];

export function ChecksView() {
  const found = useInspections();
  if (found.isError)
    return (
      <div className="m-5">
        <Refused error={found.error} again={() => found.refetch()} />
      </div>
    );
  if (!found.data) return <Loading what="the checks" />;
  return <Checks view={found.data} />;
}

function Checks({ view }: { view: View }) {
  const { day } = useWindowView();
  const remembered = useLine()?.id ?? "";
  const [line, setLine] = useState(remembered);
  const [edited, edit] = useState<{ all: Inspection[]; seen: number }>();
  const [at, open] = useState<Inspection>();
  const save = useSetInspections();
  useUnsaved(edited !== undefined);
  const all = edited?.all ?? view.inspections.all ?? [];
  const change = (next: Inspection[]) => edit({ all: next, seen: edited?.seen ?? view.number });
  const put = (one: Inspection) =>
    change(
      all.some((known) => known.id === one.id)
        ? all.map((known) => (known.id === one.id ? one : known))
        : [...all, one],
    );
  const usual = view.usual.filter((one) => one.line === line && !all.some((known) => known.id === one.id));
  const stations = view.stations.filter((one) => one.line === line);
  const own = all.filter((one) => one.line === line);
  const add = (station: string) =>
    open({
      id: freeId(all, `${line}-${station}`),
      line,
      station,
      name: "",
      hint: "",
      when: { kind: "every", minutes: 60 },
      asks: { kind: "chosen", good: "good", bad: ["not good"] },
      action: "",
      product: null,
      leaving: true,
      holds: false,
      clears: false,
    });
  return (
    <>
      <Header
        title="Checks"
        sub="what is looked at and measured on the walk, when, and what to do when it is out"
        figures={<Figure value={own.length} label={`checks on this line, ${all.length} in the plant`} />}
        actions={
          <>
            <LinePick
              line={line}
              onChange={(chosen) => {
                rememberLine(chosen);
                setLine(chosen);
              }}
            />
            <Link className={buttonLook()} to={`/sheet?line=${line}`}>
              Round sheet
            </Link>
            <Link className={buttonLook()} to={`/walk/${line}`}>
              Walk
            </Link>
            {edited && <Button onClick={() => edit(undefined)}>Cancel</Button>}
            <Button
              weight="strong"
              disabled={!edited || save.isPending}
              onClick={() =>
                edited &&
                save.mutate(
                  { inspections: { all: edited.all }, seen: edited.seen },
                  { onSuccess: () => edit(undefined) },
                )
              }
            >
              Save
            </Button>
          </>
        }
      />
      {save.isError && <Refused error={save.error} />}
      {all.length === 0 && (
        <Empty title="No checks yet">
          <p className="mb-3">
            The trade's usual ones can be a beginning: their limits follow each product's own figures.
          </p>
          <Button weight="strong" onClick={() => change(view.usual)}>
            Add the usual checks of all {plural(day.lines.length, "line")}
          </Button>
        </Empty>
      )}
      <div className="grid grid-cols-[minmax(0,1fr)] content-start gap-2 px-2 pb-2">
        {stations.map((station) => (
          <Station
            key={station.station}
            view={view}
            station={station}
            own={own.filter((one) => one.station === station.station)}
            usual={usual.filter((one) => one.station === station.station)}
            onOpen={open}
            onAdd={(one) => change([...all, one])}
            onNew={() => add(station.station)}
            onDelete={(one) => change(all.filter((known) => known !== one))}
          />
        ))}
      </div>
      {at && (
        <CheckDialog
          view={view}
          inspection={at}
          onClose={() => open(undefined)}
          onDone={(one) => {
            put(one);
            open(undefined);
          }}
        />
      )}
    </>
  );
}

/** An id that no check has yet. */
function freeId(all: Inspection[], base: string) {
  for (let number = 1; ; number += 1) {
    const id = `${base.slice(0, 34)}-${number}`;
    if (!all.some((one) => one.id === id)) return id;
  }
}

type StationProps = {
  view: View;
  station: View["stations"][number];
  own: Inspection[];
  usual: Inspection[];
  onOpen: (one: Inspection) => void;
  onAdd: (one: Inspection) => void;
  onNew: () => void;
  onDelete: (one: Inspection) => void;
};

function Station({ view, station, own, usual, onOpen, onAdd, onNew, onDelete }: StationProps) {
  const units = useUnits();
  const { names } = useWindowView();
  return (
    <Panel label={station.name} className="px-4 py-2">
      <div className="flex items-center justify-between">
        <h2 className="font-bold">{station.name}</h2>
        <Button size="small" onClick={onNew}>
          New check
        </Button>
      </div>
      {own.length > 0 && (
        <table className="w-full text-sm">
          <tbody>
            {own.map((one) => (
              <tr key={one.id} className="border-rule border-t">
                <td className="w-1/5 py-1.5 pr-3 align-top font-semibold">
                  {one.name}
                  {one.product && (
                    <span className="block font-normal text-ink-2 text-xs">{names.get(one.product)}</span>
                  )}
                </td>
                <td className="w-1/6 py-1.5 pr-3 align-top">{whenWords(one.when)}</td>
                <td className="py-1.5 pr-3 align-top">
                  {asksWords(one.asks, view.subjects, units)}
                  {one.holds && <b className="ml-2 text-ember text-xs">holds what passed</b>}
                  {one.clears && <b className="ml-2 text-ember text-xs">go-ahead before packing</b>}
                </td>
                <td className="w-1/4 whitespace-pre-line py-1.5 pr-3 align-top text-ink-2">{one.action}</td>
                <td className="whitespace-nowrap py-1 text-right align-top">
                  <Button size="small" aria-label={`Change ${one.name}`} onClick={() => onOpen(one)}>
                    Change
                  </Button>{" "}
                  <Button size="small" aria-label={`Remove ${one.name}`} onClick={() => onDelete(one)}>
                    Remove
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {usual.length > 0 && (
        <p className="flex flex-wrap items-center gap-2 border-rule border-t py-1.5 text-ink-2 text-sm">
          Usual here:
          {usual.map((one) => (
            <Button key={one.id} size="small" onClick={() => onAdd(one)}>
              + {one.name}
            </Button>
          ))}
        </p>
      )}
    </Panel>
  );
}
