/** One check: when, what, how much, and what to do when it is out. */
import { type FormEvent, type ReactNode, useState } from "react";
import type { Schemas } from "../../api/client";
import { Dialog } from "../../ui/Dialog";
import { Button } from "../../ui/parts";
import { useWindowView } from "../planningWindow";
import { type Asks, type Inspection, WHEN, type When } from "./words";

type Props = {
  view: Schemas["InspectionsView"];
  inspection: Inspection;
  onClose: () => void;
  onDone: (one: Inspection) => void;
};

const FIELD = "w-full rounded border border-trail/60 bg-ground px-2 py-1.5 text-ink";

const ASKS: Record<Asks["kind"], { name: string; first: Asks }> = {
  chosen: { name: "a word, by one tap", first: { kind: "chosen", good: "good", bad: ["not good"] } },
  measured: {
    name: "a figure",
    first: {
      kind: "measured",
      subject: "core temperature",
      low: null,
      high: null,
      around: "fixed",
      sample: 1,
      zone: 0,
    },
  },
  counted: { name: "a count of pieces in a pack", first: { kind: "counted", wanted: null } },
};

const FIRST: Record<When["kind"], When> = {
  every: { kind: "every", minutes: 60 },
  start: { kind: "start" },
  batch: { kind: "batch", after_min: 0 },
  changeover: { kind: "changeover", allergens_only: false },
  daily: { kind: "daily" },
};

export function CheckDialog({ view, inspection, onClose, onDone }: Props) {
  const { day } = useWindowView();
  const [one, set] = useState(inspection);
  const put = (change: Partial<Inspection>) => set({ ...one, ...change });
  const station = view.stations.find((known) => known.line === one.line && known.station === one.station);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    onDone({ ...one, name: one.name.trim(), action: one.action.trim() });
  };
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title={`Check at ${station?.name ?? "the station"}`}>
      <form onSubmit={submit} className="grid gap-3 text-sm">
        <Field name="Name">
          <input
            required
            maxLength={80}
            className={FIELD}
            value={one.name}
            onChange={(event) => put({ name: event.target.value })}
          />
        </Field>
        <Field name="How it is taken" help="shown with it: how many pieces, from where">
          <input
            maxLength={120}
            className={FIELD}
            value={one.hint ?? ""}
            onChange={(event) => put({ hint: event.target.value })}
          />
        </Field>
        <Field name="When">
          <select
            className={FIELD}
            value={one.when.kind}
            onChange={(event) => put({ when: FIRST[event.target.value as When["kind"]], clears: false })}
          >
            {Object.entries(WHEN).map(([kind, name]) => (
              <option key={kind} value={kind}>
                {name}
              </option>
            ))}
          </select>
        </Field>
        {one.when.kind === "every" && (
          <Field name="Every so many minutes">
            <Figure
              value={one.when.minutes}
              least={5}
              most={1_440}
              onChange={(minutes) => minutes !== null && put({ when: { kind: "every", minutes } })}
            />
          </Field>
        )}
        {one.when.kind === "batch" && (
          <Field name="Minutes after it has come" help="of a trough: after it was put in">
            <Figure
              value={one.when.after_min ?? 0}
              least={0}
              onChange={(minutes) => put({ when: { kind: "batch", after_min: minutes ?? 0 } })}
            />
          </Field>
        )}
        {one.when.kind === "changeover" && (
          <Tick
            checked={one.when.allergens_only ?? false}
            onChange={(only) => put({ when: { kind: "changeover", allergens_only: only } })}
          >
            only where an allergen leaves the line
          </Tick>
        )}
        <Field name="What is asked">
          <select
            className={FIELD}
            value={one.asks.kind}
            onChange={(event) => put({ asks: ASKS[event.target.value as Asks["kind"]].first })}
          >
            {Object.entries(ASKS).map(([kind, { name }]) => (
              <option key={kind} value={kind}>
                {name}
              </option>
            ))}
          </select>
        </Field>
        <AsksFields view={view} asks={one.asks} onChange={(asks) => put({ asks })} />
        <Field name="What to do when it is out">
          <textarea
            required
            maxLength={200}
            rows={2}
            className={FIELD}
            value={one.action}
            onChange={(event) => put({ action: event.target.value })}
          />
        </Field>
        <Field name="Of which product">
          <select
            className={FIELD}
            value={one.product ?? ""}
            onChange={(event) => put({ product: event.target.value || null })}
          >
            <option value="">all of the line</option>
            {day.products
              .filter((product) => product.line === one.line)
              .map((product) => (
                <option key={product.id} value={product.id}>
                  {product.name}
                </option>
              ))}
          </select>
        </Field>
        <Tick checked={one.leaving ?? true} onChange={(leaving) => put({ leaving })}>
          of what leaves the station, not of what comes to it
        </Tick>
        <Tick checked={one.holds ?? false} onChange={(holds) => put({ holds })}>
          when it fails, hold all that has passed since it was good
        </Tick>
        {one.when.kind === "start" && (
          <Tick checked={one.clears ?? false} onChange={(clears) => put({ clears })}>
            go-ahead: hold what of a run is packed before it is good
          </Tick>
        )}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" weight="strong">
            Done
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

function Field({ name, help, children }: { name: string; help?: string; children: ReactNode }) {
  return (
    // biome-ignore lint/a11y/noLabelWithoutControl: the field is the child
    <label className="grid gap-1">
      <span className="font-semibold">
        {name}
        {help && <span className="ml-2 font-normal text-ink-2 text-xs">{help}</span>}
      </span>
      {children}
    </label>
  );
}

function Tick({
  checked,
  onChange,
  children,
}: {
  checked: boolean;
  onChange: (on: boolean) => void;
  children: ReactNode;
}) {
  return (
    <label className="flex items-center gap-2">
      <input type="checkbox" checked={checked} onChange={(event) => onChange(event.target.checked)} />
      {children}
    </label>
  );
}

type FigureProps = {
  value: number | null | undefined;
  least?: number;
  most?: number;
  onChange: (value: number | null) => void;
};

function Figure({ value, least, most, onChange }: FigureProps) {
  return (
    <input
      type="number"
      step="any"
      min={least}
      max={most}
      className={FIELD}
      value={value ?? ""}
      onChange={(event) => onChange(event.target.value === "" ? null : Number(event.target.value))}
    />
  );
}

type AsksProps = { view: Schemas["InspectionsView"]; asks: Asks; onChange: (asks: Asks) => void };

function AsksFields({ view, asks, onChange }: AsksProps) {
  if (asks.kind === "chosen")
    return (
      <div className="grid grid-cols-2 gap-3">
        <Field name="The good word">
          <input
            required
            maxLength={30}
            className={FIELD}
            value={asks.good}
            onChange={(event) => onChange({ ...asks, good: event.target.value })}
          />
        </Field>
        <Field name="What may be wrong" help="up to four, with commas">
          <input
            required
            className={FIELD}
            defaultValue={asks.bad.join(", ")}
            onChange={(event) =>
              onChange({
                ...asks,
                bad: event.target.value
                  .split(",")
                  .map((word) => word.trim())
                  .filter(Boolean),
              })
            }
          />
        </Field>
      </div>
    );
  if (asks.kind === "counted")
    return (
      <Field name="Pieces" help="empty: as many as the product's pack has">
        <Figure value={asks.wanted} least={1} onChange={(wanted) => onChange({ ...asks, wanted })} />
      </Field>
    );
  const subject = view.subjects.find((one) => one.subject === asks.subject);
  const unit = asks.around === "own percent" ? "%" : (subject?.unit ?? "");
  return (
    <div className="grid grid-cols-2 gap-3">
      <Field name="Of what">
        <select
          className={FIELD}
          value={asks.subject}
          onChange={(event) => onChange({ ...asks, subject: event.target.value as typeof asks.subject })}
        >
          {view.subjects.map((one) => (
            <option key={one.subject}>{one.subject}</option>
          ))}
        </select>
      </Field>
      <Field name="Limits are">
        <select
          className={FIELD}
          value={asks.around ?? "fixed"}
          onChange={(event) => onChange({ ...asks, around: event.target.value as typeof asks.around })}
        >
          <option value="fixed">fixed</option>
          <option value="own">from the product's own figure</option>
          <option value="own percent">from it, in percent</option>
        </select>
      </Field>
      <Field name={asks.around === "fixed" ? `At least, ${unit}` : `Less, ${unit}`} help="empty: no limit">
        <Figure value={asks.low} onChange={(low) => onChange({ ...asks, low })} />
      </Field>
      <Field name={asks.around === "fixed" ? `At most, ${unit}` : `More, ${unit}`} help="empty: no limit">
        <Figure value={asks.high} onChange={(high) => onChange({ ...asks, high })} />
      </Field>
      <Field name="Pieces measured" help="their mean counts">
        <Figure
          value={asks.sample}
          least={1}
          most={20}
          onChange={(sample) => sample !== null && onChange({ ...asks, sample })}
        />
      </Field>
      <Field name="Zone of the oven" help="0: all of it">
        <Figure
          value={asks.zone}
          least={0}
          most={30}
          onChange={(zone) => zone !== null && onChange({ ...asks, zone })}
        />
      </Field>
    </div>
  );
}
