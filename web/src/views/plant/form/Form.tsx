/** A thing of the plant as a form: what it is called, its unit, and a sentence that helps, field by field. */
import { type ReactNode, useId, useState } from "react";
import { useUnits } from "../../../app/units";
import { Button } from "../../../ui/parts";
import { Input, PlainList, unitOf, written } from "./Input";
import {
  blank,
  type Data,
  type Field,
  fieldsOf,
  isPlainList,
  isScalar,
  memberOf,
  type References,
  type Schema,
} from "./schema";

type FormProps = {
  schema: Schema;
  root: Schema;
  value: Data;
  references: References;
  without?: readonly string[];
  onChange: (value: Data) => void;
};

const isUnset = (value: unknown) => value == null || (Array.isArray(value) && value.length === 0);

/** What is set, and by name what can be set besides. */
export function Form({ schema, root, value, references, without = [], onChange }: FormProps) {
  const [opened, setOpened] = useState<readonly string[]>([]);
  const fields = fieldsOf(schema, root, without);
  const mayBeLeft = (field: Field) =>
    (field.optional || field.schema.type === "array") && !field.needed && isUnset(value[field.name]);
  const left = fields.filter((field) => mayBeLeft(field) && !opened.includes(field.name));
  const shown = fields.filter((field) => !left.includes(field));
  const short = shown.filter((field) => isScalar(field.schema));
  const part = (field: Field) => (
    <Part
      key={field.name}
      {...{ field, root, references }}
      row={value}
      onChange={(next) => onChange({ ...value, [field.name]: next })}
    />
  );
  const open = (field: Field) => {
    setOpened([...opened, field.name]);
    if (field.schema.type === "object") onChange({ ...value, [field.name]: blank(field.schema, root) });
  };
  return (
    <div className="grid gap-3">
      {short.length > 0 && <div className="grid items-start gap-x-5 gap-y-2.5 sm:grid-cols-2">{short.map(part)}</div>}
      {shown.filter((field) => !short.includes(field)).map(part)}
      {left.length > 0 && (
        <p className="flex flex-wrap items-center gap-1.5 border-rule border-t pt-2 text-sm">
          <span className="text-ink-2">Can also be set:</span>
          {left.map((field) => (
            <button
              key={field.name}
              type="button"
              title={field.words.help}
              onClick={() => open(field)}
              className="rounded-full border border-trail/60 px-2.5 py-0.5 hover:border-crust"
            >
              {field.words.name}
            </button>
          ))}
        </p>
      )}
    </div>
  );
}

type PartProps = {
  field: Field;
  row: Data;
  root: Schema;
  references: References;
  onChange: (value: unknown) => void;
};

function Part(props: PartProps): ReactNode {
  const { field, root } = props;
  if (isScalar(field.schema)) return <Labelled {...props} />;
  if (field.name === "hazards") return <Ticks {...props} />;
  if (isPlainList(field.schema, root)) return <Labelled {...props} list />;
  return field.schema.type === "array" ? <Rows {...props} /> : <Inside {...props} />;
}

function Labelled({ field, row, references, onChange, list = false }: PartProps & { list?: boolean }) {
  const id = useId();
  const units = useUnits();
  const Typed = list ? PlainList : Input;
  return (
    <div>
      <label htmlFor={id} className="block font-semibold text-sm">
        {field.words.name}
      </label>
      <div className="mt-0.5 flex items-center gap-2">
        <Typed {...{ field, row, id, references, onChange }} />
        <span className="text-ink-2 text-sm">{unitOf(field, units)}</span>
      </div>
      {field.words.help && <p className="mt-0.5 text-ink-2 text-xs">{field.words.help}</p>}
    </div>
  );
}

/** Several of a few, each with a tick. */
function Ticks({ field, row, onChange }: PartProps) {
  const chosen = (row[field.name] as string[] | null) ?? [];
  return (
    <details className="border-rule border-t pt-2">
      <Summary field={field} said={chosen.map((one) => field.words.choices[one] ?? one).join(", ") || "nothing more"} />
      <div className="mt-1 grid gap-1 sm:grid-cols-3">
        {Object.entries(field.words.choices).map(([choice, name]) => (
          <label key={choice} className="flex items-center gap-2 text-sm">
            <input
              type="checkbox"
              checked={chosen.includes(choice)}
              onChange={(event) =>
                onChange(event.target.checked ? [...chosen, choice] : chosen.filter((one) => one !== choice))
              }
              className="accent-crust"
            />
            {name}
          </label>
        ))}
      </div>
    </details>
  );
}

function Summary({ field, said }: { field: Field; said: string }) {
  return (
    <summary className="cursor-pointer text-sm">
      <span className="font-semibold">{field.words.name}</span> <span className="text-ink-2">{said}</span>
    </summary>
  );
}

/** A thing inside the thing. */
function Inside({ field, row, root, references, onChange }: PartProps) {
  const value = (row[field.name] ?? {}) as Data;
  const units = useUnits();
  const said = fieldsOf(field.schema, root)
    .filter((one) => typeof value[one.name] === "number" && value[one.name] !== 0)
    .map((one) => `${one.words.name.toLowerCase()} ${written(value[one.name], one, units)} ${unitOf(one, units)}`)
    .join(", ");
  return (
    <details className="border-rule border-t pt-2" open={said === "" && field.optional}>
      <Summary field={field} said={said || "nothing set"} />
      {field.words.help && <p className="mt-0.5 text-ink-2 text-xs">{field.words.help}</p>}
      <div className="mt-2">
        <Form schema={field.schema} {...{ root, value, references }} onChange={onChange} />
      </div>
      {field.optional && (
        <button type="button" className="mt-2 text-sm underline" onClick={() => onChange(null)}>
          Without it
        </button>
      )}
    </details>
  );
}

/** Members of a list as the rows of a table. */
function Rows({ field, row, root, references, onChange }: PartProps) {
  const units = useUnits();
  const id = useId();
  const member = memberOf(field.schema, root);
  const columns = fieldsOf(member, root);
  const rows = (row[field.name] as Data[] | null) ?? [];
  const put = (place: number, next: Data) => onChange(rows.map((old, at) => (at === place ? next : old)));
  const added = () => ({
    ...(blank(member, root) as Data),
    ...("id" in (member.properties ?? {}) && { id: fresh(rows) }),
  });
  return (
    <div className="border-rule border-t pt-2">
      <div className="flex items-center justify-between gap-3 text-sm">
        <span>
          <span className="font-semibold">{field.words.name}</span>{" "}
          <span className="text-ink-2">{rows.length === 0 ? `none. ${field.words.help}` : field.words.help}</span>
        </span>
        <Button aria-label={`Add: ${field.words.name}`} onClick={() => onChange([...rows, added()])}>
          Add
        </Button>
      </div>
      {rows.length > 0 && (
        <div className="overflow-x-auto">
          <table className="mt-1 text-sm">
            <thead>
              <tr className="text-left text-muted text-xs">
                {columns.map((column) => (
                  <th key={column.name} className="pr-3 font-semibold" title={column.words.help}>
                    {column.words.name} {unitOf(column, units)}
                  </th>
                ))}
                <th>
                  <span className="sr-only">Delete</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {rows.map((one, place) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: a row has no name of its own until one is typed
                <tr key={place}>
                  {columns.map((column) => (
                    <td key={column.name} className="py-0.5 pr-3">
                      <Cell
                        {...{ references, root }}
                        field={column}
                        row={{ ...one, of: row }}
                        id={`${id}-${place}-${column.name}`}
                        label={`${column.words.name}, ${field.words.name} ${place + 1}`}
                        onChange={(next) => put(place, { ...one, [column.name]: next })}
                      />
                    </td>
                  ))}
                  <td>
                    <button
                      type="button"
                      aria-label={`Delete ${field.words.name} ${place + 1}`}
                      className="px-1 text-ink-2 underline"
                      onClick={() => onChange(rows.filter((_, at) => at !== place))}
                    >
                      Delete
                    </button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </div>
  );
}

type CellProps = PartProps & { id: string; label: string };

/** What stands in a cell: a figure or a choice, a list in one line, or a table in its own right. */
function Cell({ root, ...rest }: CellProps) {
  const { field } = rest;
  if (isScalar(field.schema)) return <Input {...rest} />;
  return isPlainList(field.schema, root) ? <PlainList {...rest} /> : <Rows root={root} {...rest} />;
}

const fresh = (rows: Data[]) => {
  const taken = rows.map((row) => String(row.id));
  let number = rows.length + 1;
  while (taken.includes(`n${number}`)) number += 1;
  return `n${number}`;
};
