/** One figure, name or choice of a thing, typed in the units that one reads. */
import { useState } from "react";
import { type Units, useUnits } from "../../../app/units";
import type { Data, Field, References } from "./schema";

const LOOK = "rounded-md border border-trail/60 bg-ground px-2 py-1.5 text-sm aria-[invalid=true]:border-ember";
const NONE = "";

type Props = {
  field: Field;
  row: Data;
  id: string;
  references: References;
  label?: string;
  onChange: (value: unknown) => void;
};

export const unitOf = ({ words }: Field, units: Units) =>
  words.share ? "%" : words.quantity ? units.name(words.quantity, words.unit) : words.unit;

const PER_CENT = 100;
const exact = (figure: number) => Number(figure.toPrecision(12));

/** A stored figure as it is written: in the units that one reads, a share as per cent. */
export function written(value: unknown, { words }: Field, units: Units): string {
  if (value == null) return "";
  if (typeof value !== "number") return String(value);
  if (words.share) return String(exact(value * PER_CENT));
  if (words.quantity && units.system === "us") return units.shown(value, words.quantity).replaceAll(",", "");
  return String(exact(value));
}

/** What was typed as it is stored; the text itself where it is no figure, for the check to name. */
function read(text: string, { words, schema, optional }: Field, units: Units): unknown {
  if (schema.type === "string") return text === "" && optional ? null : text;
  if (text.trim() === "") return optional ? null : text;
  const figure = Number(units.typed(text, words.share ? "" : words.quantity) ?? Number.NaN);
  if (Number.isNaN(figure)) return text;
  return words.share ? exact(figure / PER_CENT) : figure;
}

export function Input(props: Props) {
  const { field, row, id, label, onChange } = props;
  const units = useUnits();
  const value = row[field.name];
  const [typed, setTyped] = useState<string>();
  if (field.words.refers || field.schema.enum) return <Select {...props} />;
  if (field.schema.type === "boolean")
    return (
      <input
        id={id}
        type="checkbox"
        aria-label={label}
        checked={value === true}
        onChange={(event) => onChange(event.target.checked)}
        className="h-5 w-5 accent-crust"
      />
    );
  const figure = field.schema.type !== "string";
  return (
    <input
      id={id}
      aria-label={label}
      aria-invalid={figure && typeof value === "string"}
      inputMode={figure ? "decimal" : undefined}
      value={typed ?? written(value, field, units)}
      onChange={(event) => {
        setTyped(event.target.value);
        onChange(read(event.target.value, field, units));
      }}
      onBlur={() => setTyped(undefined)}
      className={`${figure ? "w-24 text-right" : "w-full min-w-24 max-w-64"} ${LOOK}`}
    />
  );
}

/** One of what there is, by its name. */
function Select({ field, row, id, label, references, onChange }: Props) {
  const value = String(row[field.name] ?? NONE);
  const options = field.schema.enum
    ? field.schema.enum.map((choice) => ({ value: choice, label: field.words.choices[choice] ?? choice }))
    : references(field.words.refers, row);
  const known = value === NONE || options.some((option) => option.value === value);
  return (
    <select
      id={id}
      aria-label={label}
      value={value}
      onChange={(event) => onChange(event.target.value === NONE && field.optional ? null : event.target.value)}
      className={`min-w-24 max-w-56 ${LOOK}`}
    >
      {(field.optional || value === NONE) && <option value={NONE}>{field.optional ? "none" : "choose …"}</option>}
      {!known && <option value={value}>no longer there</option>}
      {options.map((option) => (
        <option key={option.value} value={option.value}>
          {option.label}
        </option>
      ))}
    </select>
  );
}

/** Names or figures in one line, set apart by commas, or by semicolons where they are figures. */
export function PlainList({ field, row, id, label, onChange }: Props) {
  const units = useUnits();
  const members = (row[field.name] as unknown[] | null) ?? [];
  const [typed, setTyped] = useState<string>();
  const item = field.schema.items ?? {};
  const figures = item.type === "number" || item.type === "integer";
  const one: Field = { ...field, schema: item, optional: false };
  const mark = figures ? ";" : ",";
  return (
    <input
      id={id}
      aria-label={label}
      value={typed ?? members.map((member) => written(member, one, units)).join(`${mark} `)}
      onChange={(event) => {
        setTyped(event.target.value);
        const parts = event.target.value.split(mark).map((part) => part.trim());
        onChange(parts.filter((part) => part !== "").map((part) => read(part, one, units)));
      }}
      onBlur={() => setTyped(undefined)}
      className={`w-full min-w-24 max-w-80 ${LOOK}`}
    />
  );
}
