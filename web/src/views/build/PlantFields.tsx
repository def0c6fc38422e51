/** The plant's name, where it is, its line, and the family that is the pattern. */
import type { ReactNode } from "react";
import type { Draft, Pattern } from "./draft";

const FIELD = "mt-0.5 block w-full rounded border border-trail/60 bg-ground px-2 py-1.5 text-sm";
const ZONES = Intl.supportedValuesOf("timeZone");

type Props = {
  draft: Draft;
  patterns: Pattern[];
  edit: (parts: Partial<Draft>) => void;
  onPattern: (pattern: Pattern) => void;
};

function Field({ label, children }: { label: string; children: ReactNode }) {
  return (
    // biome-ignore lint/a11y/noLabelWithoutControl: the control is the child
    <label className="block pb-2 text-ink-2 text-xs">
      {label}
      {children}
    </label>
  );
}

export function PlantFields({ draft, patterns, edit, onPattern }: Props) {
  const zones = ZONES.includes(draft.time_zone) ? ZONES : [draft.time_zone, ...ZONES];
  const name = (key: "plant" | "town" | "line", label: string) => (
    <Field label={label}>
      <input
        className={FIELD}
        value={draft[key]}
        maxLength={80}
        onChange={(event) => edit({ [key]: event.target.value })}
      />
    </Field>
  );
  return (
    <>
      {name("plant", "Name of the plant")}
      {name("town", "Town")}
      <Field label="Time zone">
        <select className={FIELD} value={draft.time_zone} onChange={(event) => edit({ time_zone: event.target.value })}>
          {zones.map((zone) => (
            <option key={zone}>{zone}</option>
          ))}
        </select>
      </Field>
      {name("line", "Name of its first line")}
      <Field label="What it makes">
        <select
          className={FIELD}
          value={draft.pattern}
          onChange={(event) => {
            const chosen = patterns.find((pattern) => pattern.id === event.target.value);
            if (chosen) onPattern(chosen);
          }}
        >
          {patterns.map((pattern) => (
            <option key={pattern.id} value={pattern.id}>
              {pattern.family}
            </option>
          ))}
        </select>
      </Field>
      <p className="text-muted text-xs">
        The usual figures are those of a made-up bakery. Heat, fill and ages are suggestions, not limits of your
        machines: take those from their plates and your own trials.
      </p>
    </>
  );
}
