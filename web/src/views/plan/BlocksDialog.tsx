/** When stations are closed: shifts, cleaning windows, blade and roller changes, a repair. */
import { useState } from "react";
import type { StoredOpening } from "../../api/client";
import { useCloseStation, useLibrary, useOpening, useSetOpening, useStopAdvice } from "../../api/queries";
import { useMinuteNow } from "../../app/useMinuteNow";
import { Choice } from "../../ui/Choice";
import { Dialog } from "../../ui/Dialog";
import { Pick as PickOne } from "../../ui/Pick";
import { Button, Loading, Refused } from "../../ui/parts";
import { Sure } from "../../ui/Sure";
import { useWindowView } from "../planningWindow";
import { DowntimeFields } from "./DowntimeFields";
import { OnTheLine } from "./OnTheLine";
import { OpeningForm } from "./OpeningForm";
import { StopAdvice } from "./StopAdvice";

type Block = StoredOpening["blocks"][number];

const KINDS: [Block["kind"], string][] = [
  ["shift", "nobody there"],
  ["cleaning", "cleaning"],
  ["blades", "blades changed"],
  ["rollers", "rollers changed"],
  ["repair", "repair"],
];

const NOTHING = "-";

type Props = {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  line: string | undefined;
  version: number | undefined;
};

export function BlocksDialog({ open, onOpenChange, line, version }: Props) {
  const [part, setPart] = useState<"closed" | "begins" | "line">("closed");
  return (
    <Dialog open={open} onOpenChange={onOpenChange} title="What the plan begins from">
      <div className="mb-3">
        <Choice
          label="What to look at"
          value={part}
          onChange={setPart}
          options={[
            { value: "closed", label: "Downtime" },
            { value: "begins", label: "How the window begins" },
            ...(version === undefined ? [] : [{ value: "line" as const, label: "On the line" }]),
          ]}
        />
      </div>
      {part === "closed" && <Blocks line={line} version={version} onDone={() => onOpenChange(false)} />}
      {part === "begins" && <OpeningForm line={line} />}
      {part === "line" && version !== undefined && (
        <OnTheLine line={line} version={version} onDone={() => onOpenChange(false)} />
      )}
    </Dialog>
  );
}

type Inside = Pick<Props, "line" | "version"> & { onDone: () => void };

function Blocks({ line, version, onDone }: Inside) {
  const settings = useOpening();
  const change = useSetOpening();
  const { day, clock } = useWindowView();
  const now = Math.ceil(useMinuteNow());
  const [editing, setEditing] = useState<Block>();
  const library = useLibrary().data?.library;
  if (settings.isPending || !library) return <Loading what="the downtime" />;
  if (settings.isError) return <Refused error={settings.error} />;
  const { blocks } = settings.data;
  const keep = (next: Block[]) => change.mutate({ ...settings.data, blocks: next });
  const stationName = (block: Block) =>
    library.plant.lines
      .find((found) => found.id === block.line)
      ?.stations.find((station) => station.id === block.station)?.name ?? block.station;
  return (
    <>
      {blocks.length === 0 && <p className="text-ink-2 text-sm">No downtime.</p>}
      <ul>
        {blocks.map((block) => (
          <li key={block.id} className="flex items-baseline gap-3 border-rule border-b py-1.5 text-sm">
            <span className="flex-1">
              <span className="font-semibold">
                {day.lines.find((found) => found.id === block.line)?.name}, {stationName(block)}
              </span>
              : {block.reason}
              {block.renews && ", a tool renewed"}
              <span className="block text-ink-2 text-xs">
                {clock.moment(block.from_min)} to {clock.moment(block.to_min)}
              </span>
            </span>
            <button type="button" className="text-xs underline" onClick={() => setEditing(block)}>
              Change<span className="sr-only"> downtime of {stationName(block)}</span>
            </button>
            {block.from_min < now && now < block.to_min && (
              <button
                type="button"
                className="text-xs underline"
                onClick={() => keep(blocks.map((other) => (other === block ? { ...block, to_min: now } : other)))}
              >
                End it now
              </button>
            )}
            <Sure
              act="Remove"
              question={`Remove this downtime of ${stationName(block)}?`}
              onYes={() => keep(blocks.filter((other) => other.id !== block.id))}
            />
          </li>
        ))}
      </ul>
      {editing && (
        <EditClosing
          key={editing.id}
          block={editing}
          of={stationName(editing)}
          onCancel={() => setEditing(undefined)}
          onChange={(changed) => {
            keep(blocks.map((other) => (other.id === editing.id ? changed : other)));
            setEditing(undefined);
          }}
        />
      )}
      <NewClosing line={line} version={version} onDone={onDone} />
      {change.isError && <Refused error={change.error} />}
      <p className="mt-3 text-muted text-xs">
        Blade, roller and repair work: isolate and lock out first; only trained people reach in. Local rules decide.
      </p>
    </>
  );
}

type EditProps = { block: Block; of: string; onChange: (block: Block) => void; onCancel: () => void };

/** A downtime that is entered already: from when, for how long, and why. */
function EditClosing({ block, of, onChange, onCancel }: EditProps) {
  const { clock } = useWindowView();
  const [typed, setTyped] = useState({
    from: clock.typed(block.from_min),
    minutes: String(Math.round(block.to_min - block.from_min)),
    reason: block.reason,
  });
  const [minutes, reason] = [Number(typed.minutes), typed.reason.trim()];
  const good = typed.from !== "" && minutes > 0 && reason !== "";
  return (
    <form
      aria-label={`Change the downtime of ${of}`}
      className="mt-3 flex flex-wrap items-end gap-3 rounded-lg border border-trail/60 bg-ground p-3 text-sm"
      onSubmit={(event) => {
        event.preventDefault();
        const begins = typed.from === clock.typed(block.from_min) ? block.from_min : clock.minuteOf(typed.from);
        if (good) onChange({ ...block, from_min: begins, to_min: begins + minutes, reason });
      }}
    >
      <p className="basis-full font-semibold">{of}</p>
      <DowntimeFields value={typed} onChange={setTyped} />
      <Button type="submit" weight="strong" disabled={!good}>
        Save
      </Button>
      <Button onClick={onCancel}>Cancel</Button>
    </form>
  );
}

function NewClosing({ line, version, onDone }: Inside) {
  const close = useCloseStation();
  const { day, clock } = useWindowView();
  const lines = useLibrary().data?.library.plant.lines ?? [];
  const [chosen, setChosen] = useState(line ?? day.lines[0]?.id ?? "");
  const stations = lines.find((found) => found.id === chosen)?.stations ?? [];
  const [wanted, setStation] = useState("");
  const station = stations.find((found) => found.id === wanted)?.id ?? stations[0]?.id ?? "";
  const [kind, setKind] = useState<Block["kind"]>("cleaning");
  const [renews, setRenews] = useState("");
  const tools = stations.find((found) => found.id === station)?.tools ?? [];
  const tool = tools.find((found) => found.id === renews);
  const [typed, setTyped] = useState(() => ({
    from: clock.typed(Math.max(0, Math.ceil(clock.minuteNow()))),
    minutes: "45",
    reason: "",
  }));
  const { from, minutes, reason } = typed;
  const good = from !== "" && Number(minutes) > 0;
  const nameOf = (id: string) => stations.find((found) => found.id === id)?.name ?? id;
  return (
    <>
      <form
        className="mt-4 grid gap-2 rounded-lg border border-trail/60 bg-ground p-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (!good) return;
          close.mutate({
            line: chosen,
            station,
            kind,
            begins: from,
            minutes: Number(minutes),
            renews: tool?.id ?? null,
            reason: reason.trim() || (KINDS.find(([id]) => id === kind)?.[1] ?? kind),
          });
          setTyped({ ...typed, reason: "" });
        }}
      >
        <div className="flex flex-wrap gap-2">
          <PickOne
            label="Line"
            value={chosen}
            onChange={setChosen}
            options={day.lines.map((found) => ({ value: found.id, label: found.name }))}
          />
          <PickOne
            label="Station"
            value={station}
            onChange={setStation}
            options={stations.map((found) => ({ value: found.id, label: found.name }))}
          />
          <PickOne
            label="Why"
            value={kind}
            onChange={(value) => setKind(value as Block["kind"])}
            options={KINDS.map(([value, label]) => ({ value, label }))}
          />
          {tools.length > 0 && (
            <PickOne
              label="Renews"
              value={tool?.id ?? NOTHING}
              onChange={setRenews}
              options={[
                { value: NOTHING, label: "no tool" },
                ...tools.map((found) => ({ value: found.id, label: found.name })),
              ]}
            />
          )}
        </div>
        <div className="flex flex-wrap items-end gap-3 text-sm">
          <DowntimeFields value={typed} onChange={setTyped} />
          <Button type="submit" weight="strong" disabled={!good}>
            Add
          </Button>
        </div>
        {close.isError && <Refused error={close.error} />}
        <p className="text-ink-2 text-xs">
          By the plant's clock, from {clock.date(0)} {clock.time(0)} on.
        </p>
      </form>
      {kind === "repair" && version !== undefined && (
        <Standstill
          key={`${chosen} ${station} ${from}`}
          version={version}
          at={{ line: chosen, station, begins: from }}
          minutes={minutes}
          nameOf={nameOf}
          onTaken={onDone}
        />
      )}
    </>
  );
}

type StandstillProps = {
  version: number;
  at: { line: string; station: string; begins: string };
  minutes: string;
  nameOf: (station: string) => string;
  onTaken: () => void;
};

/** A station that broke while runs are on it: how long it may stand, and what that does. */
export function Standstill({ version, at, minutes, nameOf, onTaken }: StandstillProps) {
  const advice = useStopAdvice();
  const [low, setLow] = useState(String(Math.max(1, Math.round(Number(minutes) / 2))));
  const [high, setHigh] = useState(String(Number(minutes) * 2));
  const [heat, setHeat] = useState(false);
  const stop = {
    ...at,
    low_min: Number(low),
    likely_min: Number(minutes),
    high_min: Number(high),
    heat_fails: heat,
  };
  const good = stop.low_min > 0 && stop.low_min <= stop.likely_min && stop.likely_min <= stop.high_min;
  const short = "w-20 rounded border border-trail/60 bg-paper px-2 py-1.5 text-right";
  return (
    <div className="mt-4">
      <h3 className="font-semibold">It broke while runs are on it</h3>
      <div className="mt-1 flex flex-wrap items-end gap-3 text-sm">
        <label>
          <span className="block text-ink-2 text-xs">at least, min</span>
          <input type="number" min={1} className={short} value={low} onChange={(event) => setLow(event.target.value)} />
        </label>
        <label>
          <span className="block text-ink-2 text-xs">at most, min</span>
          <input
            type="number"
            min={1}
            className={short}
            value={high}
            onChange={(event) => setHigh(event.target.value)}
          />
        </label>
        <label className="flex items-center gap-2 py-1.5">
          <input type="checkbox" checked={heat} onChange={(event) => setHeat(event.target.checked)} />
          it lost its heat, not its drive
        </label>
        <Button disabled={!good || advice.isPending} onClick={() => advice.mutate({ version, stop })}>
          {advice.isPending ? "Calculating …" : "What it does"}
        </Button>
      </div>
      {!good && (
        <p className="mt-1 text-ember text-xs">
          At least, as it seems ({minutes} min) and at most: each must be no less than the one before.
        </p>
      )}
      {advice.isError && <Refused error={advice.error} />}
      {advice.data && (
        <StopAdvice version={version} asked={stop} advice={advice.data} nameOf={nameOf} onTaken={onTaken} />
      )}
    </div>
  );
}
