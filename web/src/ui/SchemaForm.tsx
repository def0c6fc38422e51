/** A form for a thing described by a JSON Schema: figures with units, choices, lists and parts inside parts. */
import { type ReactNode, useId, useState } from "react";
import { type Units, useUnits } from "../app/units";
import { Button } from "./parts";

export type Schema = {
  $ref?: string;
  $defs?: Record<string, Schema>;
  type?: string;
  title?: string;
  description?: string;
  properties?: Record<string, Schema>;
  required?: string[];
  items?: Schema;
  enum?: string[];
  const?: string;
  default?: unknown;
  anyOf?: Schema[];
  oneOf?: Schema[];
  minimum?: number;
  maximum?: number;
};

export type Thing = Record<string, unknown>;
type Value = unknown;
type Suggestions = Record<string, string[]>;
type Context = { root: Schema; suggestions: Suggestions; units: Units };
type PartProps = { schema: Schema; value: Value; name: string; context: Context; onChange: (value: Value) => void };

/** Quantity and unit by the end of a field's name; the first that fits. */
const ENDINGS: [string, string, string][] = [
  ["_wh_per_kg", "mixing work", "Wh/kg"],
  ["_c_per_min", "", "°C/min"],
  ["_per_min", "", "a minute"],
  ["_per_hour", "", "an hour"],
  ["_kg_per_h", "dough mass", "kg/h"],
  ["_per_h", "", "an hour"],
  ["_pct", "", "%"],
  ["_kg", "dough mass", "kg"],
  ["_kw", "", "kW"],
  ["_mm", "thickness", "mm"],
  ["_m3", "room volume", "m³"],
  ["_min", "", "min"],
  ["_h", "", "h"],
  ["_s", "", "s"],
  ["_m", "length", "m"],
  ["_g", "piece mass", "g"],
  ["_c", "temperature", "°C"],
];
const ENDED: Record<string, string> = { percent: "% of flour", grams: "g", minutes: "min" };

function named(name: string): { words: string; quantity: string; unit: string } {
  const ending = ENDINGS.find(([end]) => name.endsWith(end));
  const stem = ending ? name.slice(0, -ending[0].length) : name;
  return { words: stem.replaceAll("_", " "), quantity: ending?.[1] ?? "", unit: ending?.[2] ?? ENDED[name] ?? "" };
}

function resolved(schema: Schema, root: Schema): Schema {
  const name = schema.$ref?.split("/").at(-1);
  return name ? (root.$defs?.[name] ?? schema) : schema;
}

/** What may also be left out: the schema without the null, and whether there was one. */
function optional(schema: Schema, root: Schema): [Schema, boolean] {
  const choices = schema.anyOf ?? [];
  const real = choices.filter((choice) => choice.type !== "null");
  if (choices.length === 0 || real.length !== 1) return [resolved(schema, root), false];
  return [resolved(real[0] ?? schema, root), real.length < choices.length];
}

/** A first value for what is added. */
function blank(schema: Schema, root: Schema): Value {
  const [kind, mayBeNothing] = optional(schema, root);
  if (schema.default !== undefined) return schema.default;
  if (mayBeNothing) return null;
  if (kind.const !== undefined) return kind.const;
  if (kind.enum) return kind.enum[0];
  if (kind.oneOf) return blank(kind.oneOf[0] ?? {}, root);
  if (kind.type === "object")
    return Object.fromEntries(Object.entries(kind.properties ?? {}).map(([name, part]) => [name, blank(part, root)]));
  if (kind.type === "array") return [];
  if (kind.type === "string") return "";
  return kind.minimum ?? 0;
}

const isScalar = (schema: Schema) =>
  ["string", "number", "integer", "boolean"].includes(schema.type ?? "") || schema.enum !== undefined;

type FormProps = { schema: Schema; value: Thing; suggestions: Suggestions; onChange: (value: Thing) => void };

export function SchemaForm({ schema, value, suggestions, onChange }: FormProps) {
  const units = useUnits();
  const context = { root: schema, suggestions, units };
  return (
    <Fields schema={schema} value={value} name="" context={context} onChange={(next) => onChange(next as Thing)} />
  );
}

function Fields({ schema, value, context, onChange }: PartProps) {
  const thing = (value ?? {}) as Thing;
  const fields = Object.entries(schema.properties ?? {}).filter(([, field]) => field.const === undefined);
  const small = fields.filter(([, field]) => isScalar(optional(field, context.root)[0]));
  const large = fields.filter(([, field]) => !isScalar(optional(field, context.root)[0]));
  const part = ([name, field]: [string, Schema]) => (
    <Part
      key={name}
      name={name}
      schema={field}
      value={thing[name]}
      context={context}
      onChange={(next) => onChange({ ...thing, [name]: next })}
    />
  );
  return (
    <div className="grid gap-2">
      <div className="grid gap-x-5 gap-y-1.5 sm:grid-cols-2">{small.map(part)}</div>
      {large.map(part)}
    </div>
  );
}

function Part(props: PartProps): ReactNode {
  const { schema, value, name, context, onChange } = props;
  const [kind, mayBeNothing] = optional(schema, context.root);
  if (isScalar(kind)) return <Scalar {...props} schema={kind} mayBeNothing={mayBeNothing} />;
  const { words } = named(name);
  if (kind.type === "array") return <List {...props} schema={kind} />;
  if (value == null && mayBeNothing)
    return (
      <div className="flex items-center justify-between border-rule border-t pt-2 text-sm">
        <span className="text-ink-2">{words}: none</span>
        <Button aria-label={`Add ${words}`} onClick={() => onChange(blank(kind, context.root))}>
          Add
        </Button>
      </div>
    );
  return (
    <fieldset className="rounded-lg border border-rule px-3 pb-3">
      <legend className="flex items-center gap-3 px-1 font-semibold text-sm">
        {words}
        {mayBeNothing && (
          <button type="button" className="font-normal text-xs underline" onClick={() => onChange(null)}>
            take away
          </button>
        )}
      </legend>
      <Fields {...props} schema={kind} />
    </fieldset>
  );
}

const LOOK = "rounded-md border border-trail/60 bg-ground px-2 py-1 text-sm";

type ScalarProps = PartProps & { mayBeNothing: boolean; bare?: boolean };

function Scalar(props: ScalarProps) {
  const { name, bare = false } = props;
  const id = useId();
  const { words, quantity, unit } = named(name);
  const input = <Input {...props} id={id} label={bare ? words : undefined} />;
  if (bare) return input;
  return (
    <div className="flex items-center justify-between gap-2">
      <label htmlFor={id} className="text-sm">
        {words}
      </label>
      <span className="flex items-center gap-1.5">
        {input}
        <span className="w-16 text-ink-2 text-xs">{props.context.units.name(quantity, unit)}</span>
      </span>
    </div>
  );
}

type InputProps = ScalarProps & { id: string; label: string | undefined };

function Input({ schema, value, name, context, mayBeNothing, onChange, id, label }: InputProps) {
  const number = schema.type === "number" || schema.type === "integer";
  const { quantity } = named(name);
  const shown = () => {
    if (value == null) return "";
    if (!number) return String(value);
    return quantity && context.units.system === "us" && typeof value === "number"
      ? context.units.shown(value, quantity).replaceAll(",", "")
      : String(value);
  };
  const [text, setText] = useState(shown);
  const list = context.suggestions[name];
  if (schema.enum)
    return (
      <select
        id={id}
        aria-label={label}
        value={String(value ?? "")}
        onChange={(event) => onChange(event.target.value)}
        className={`w-32 ${LOOK}`}
      >
        {schema.enum.map((choice) => (
          <option key={choice}>{choice}</option>
        ))}
      </select>
    );
  const take = (typed: string) => {
    setText(typed);
    if (typed.trim() === "" && mayBeNothing) onChange(null);
    else if (!number) onChange(typed);
    else {
      const metric = quantity ? context.units.typed(typed, quantity) : typed.replace(",", ".");
      const figure = Number(metric);
      onChange(metric === undefined || metric.trim() === "" || Number.isNaN(figure) ? typed : figure);
    }
  };
  const range = number && schema.minimum !== undefined ? `${schema.minimum} to ${schema.maximum ?? "…"}` : undefined;
  return (
    <>
      <input
        id={id}
        aria-label={label}
        value={text}
        title={range}
        inputMode={number ? "decimal" : undefined}
        list={list ? `${id}-list` : undefined}
        onChange={(event) => take(event.target.value)}
        className={`${number ? "w-24 text-right" : "w-40"} ${LOOK}`}
      />
      {list && (
        <datalist id={`${id}-list`}>
          {list.map((suggestion) => (
            <option key={suggestion} value={suggestion} />
          ))}
        </datalist>
      )}
    </>
  );
}

/** Members keep their place on the screen while one types, whatever their names become. */
function useKeys(count: number) {
  const [keys, setKeys] = useState(() => Array.from({ length: count }, (_, place) => place));
  return { keys, setKeys, fresh: () => Math.max(-1, ...keys) + 1 };
}

function List({ schema, value, name, context, onChange }: PartProps) {
  const members = (value ?? []) as Value[];
  const { keys, setKeys, fresh } = useKeys(members.length);
  const item = resolved(schema.items ?? {}, context.root);
  const { words } = named(name);
  const put = (place: number, next: Value) => onChange(members.map((member, at) => (at === place ? next : member)));
  const drop = (place: number) => {
    setKeys(keys.filter((_, at) => at !== place));
    onChange(members.filter((_, at) => at !== place));
  };
  const move = (place: number, by: number) => {
    const order = members.map((_, at) => at);
    order.splice(place + by, 0, ...order.splice(place, 1));
    setKeys(order.map((at) => keys[at] ?? at));
    onChange(order.map((at) => members[at]));
  };
  const add = () => {
    setKeys([...keys, fresh()]);
    onChange([...members, blank(item, context.root)]);
  };
  if (isScalar(item)) return <Words {...{ words, members, onChange }} suggestions={context.suggestions[name]} />;
  return (
    <section aria-label={words} className="border-rule border-t pt-2">
      <div className="mb-1 flex items-center justify-between">
        <h3 className="font-semibold text-sm">
          {words} ({members.length})
        </h3>
        <Button aria-label={`Add to ${words}`} onClick={add}>
          Add
        </Button>
      </div>
      <ol className="grid gap-1">
        {members.map((member, place) => (
          <li key={keys[place] ?? place}>
            <Member
              {...{ item, member, context }}
              place={place}
              last={members.length - 1}
              onPut={(next) => put(place, next)}
              onDrop={() => drop(place)}
              onMove={(by) => move(place, by)}
            />
          </li>
        ))}
      </ol>
    </section>
  );
}

type WordsProps = {
  words: string;
  members: Value[];
  onChange: (value: Value) => void;
  suggestions: string[] | undefined;
};

/** A short list of words in one line, parted by semicolons. */
function Words({ words, members, onChange, suggestions }: WordsProps) {
  const id = useId();
  const [text, setText] = useState(members.join("; "));
  return (
    <div className="flex items-center justify-between gap-2">
      <label htmlFor={id} className="text-sm">
        {words}
      </label>
      <input
        id={id}
        value={text}
        title={suggestions && `for instance ${suggestions.join("; ")}`}
        onChange={(event) => {
          setText(event.target.value);
          const parts = event.target.value.split(";").map((part) => part.trim());
          onChange(parts.filter((part) => part !== ""));
        }}
        className={`flex-1 max-w-96 ${LOOK}`}
      />
    </div>
  );
}

type MemberProps = {
  item: Schema;
  member: Value;
  context: Context;
  place: number;
  last: number;
  onPut: (value: Value) => void;
  onDrop: () => void;
  onMove: (by: number) => void;
};

function Member({ item, member, context, place, last, onPut, onDrop, onMove }: MemberProps) {
  const thing = (member ?? {}) as Thing;
  const kinds = item.oneOf?.map((choice) => resolved(choice, context.root));
  const kindOf = (schema: Schema) => schema.properties?.kind?.const ?? "";
  const schema = kinds?.find((kind) => kindOf(kind) === thing.kind) ?? kinds?.[0] ?? item;
  const fields = Object.entries(schema.properties ?? {}).filter(([, field]) => field.const === undefined);
  const flat = fields.every(([, field]) => isScalar(optional(field, context.root)[0]));
  const name = String(thing.name ?? thing.station ?? thing.ingredient ?? thing.item ?? thing.id ?? place + 1);
  const tools = (
    <span className="flex gap-1">
      <Tool label={`${name} up`} disabled={place === 0} onClick={() => onMove(-1)}>
        ↑
      </Tool>
      <Tool label={`${name} down`} disabled={place === last} onClick={() => onMove(1)}>
        ↓
      </Tool>
      <Tool label={`Take ${name} away`} onClick={onDrop}>
        ×
      </Tool>
    </span>
  );
  if (flat && !kinds)
    return (
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        {fields.map(([field, part]) => (
          <span key={field} className="flex items-center gap-1">
            <Scalar
              bare
              name={field}
              schema={optional(part, context.root)[0]}
              mayBeNothing={optional(part, context.root)[1]}
              value={thing[field]}
              context={context}
              onChange={(next) => onPut({ ...thing, [field]: next })}
            />
            <span className="text-ink-2 text-xs">
              {context.units.name(named(field).quantity, named(field).unit || named(field).words)}
            </span>
          </span>
        ))}
        <span className="ml-auto">{tools}</span>
      </div>
    );
  return (
    <div className="flex items-start gap-2">
      <details className="flex-1 rounded-lg border border-rule bg-paper">
        <summary className="cursor-pointer px-3 py-1.5 text-sm">
          <span className="font-semibold">{name}</span>
          <span className="pl-3 text-ink-2 text-xs">{String(thing.kind ?? "")}</span>
        </summary>
        <div className="px-3 pb-3">
          {kinds && (
            <label className="mb-2 flex items-center gap-2 text-sm">
              kind
              <select
                value={kindOf(schema)}
                onChange={(event) => {
                  const chosen = kinds.find((kind) => kindOf(kind) === event.target.value);
                  if (chosen)
                    onPut({ ...(blank(chosen, context.root) as Thing), ...kept(thing, chosen), kind: kindOf(chosen) });
                }}
                className={LOOK}
              >
                {kinds.map((kind) => (
                  <option key={kindOf(kind)}>{kindOf(kind)}</option>
                ))}
              </select>
            </label>
          )}
          <Fields key={kindOf(schema)} schema={schema} value={thing} name="" context={context} onChange={onPut} />
        </div>
      </details>
      <span className="pt-1">{tools}</span>
    </div>
  );
}

/** What a thing keeps when it becomes another kind: the fields both have. */
const kept = (thing: Thing, schema: Schema) =>
  Object.fromEntries(Object.entries(thing).filter(([name]) => name in (schema.properties ?? {})));

type ToolProps = { label: string; disabled?: boolean; onClick: () => void; children: ReactNode };

function Tool({ label, disabled = false, onClick, children }: ToolProps) {
  return (
    <button
      type="button"
      aria-label={label}
      disabled={disabled}
      onClick={(event) => {
        event.preventDefault();
        onClick();
      }}
      className="h-7 w-7 rounded border border-rule hover:border-crust disabled:opacity-40"
    >
      {children}
    </button>
  );
}
