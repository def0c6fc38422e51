/** A formula in baker's percent and in what a dough of the largest size weighs; allergens follow from it. */
import type { Schemas } from "../../api/client";
import { useUnits } from "../../app/units";
import { Button, Panel } from "../../ui/parts";
import type { Thing } from "./draft";
import { Input } from "./form/Input";
import { type Data, fieldsOf, memberOf, type References, type Schema } from "./form/schema";

type Row = Data & { ingredient: string; percent: number; at_min: number };

type Props = {
  product: Thing;
  schema: Schema;
  sheet: Schemas["ProductSheet"] | undefined;
  references: References;
  onFormula: (formula: Row[]) => void;
};

const GRAMS_PER_KG = 1_000;
export function Formula({ product, schema, sheet, references, onFormula }: Props) {
  const units = useUnits();
  const rows = (product.formula ?? []) as Row[];
  const weighed = new Map(sheet?.formula?.map((one) => [one.ingredient, one.grams]));
  const kg = (grams: number) => units.shown(grams / GRAMS_PER_KG, "scaled mass");
  const fields = fieldsOf(memberOf(schema.properties?.formula ?? {}, schema), schema);
  const items = references("item", {});
  const left = items.find((item) => rows.every((row) => row.ingredient !== item.value));
  const put = (place: number, part: Data) =>
    onFormula(rows.map((row, at) => (at === place ? ({ ...row, ...part } as Row) : row)));
  if (rows.length === 0 && sheet)
    return (
      <Panel label="Formula" className="p-4 text-sm">
        <h2 className="font-bold text-lg leading-6">Formula</h2>
        <p className="text-ink-2">It has no dough of its own: it is cut out of another product&apos;s.</p>
        <Allergens sheet={sheet} />
      </Panel>
    );
  return (
    <Panel label="Formula" className="p-4">
      <div className="mb-2 flex items-center justify-between gap-3">
        <h2 className="font-bold text-lg leading-6">Formula</h2>
        <Button
          disabled={!left}
          onClick={() => left && onFormula([...rows, { ingredient: left.value, percent: 1, at_min: 0 }])}
        >
          Add an ingredient
        </Button>
      </div>
      <table className="w-full text-sm">
        <thead>
          <tr className="border-rule border-b text-left text-muted text-xs">
            {fields.map(({ name, words }) => (
              <th key={name} className="font-semibold" title={words.help}>
                {[words.name, words.unit].filter(Boolean).join(", ")}
              </th>
            ))}
            <th className="pr-2 text-right font-semibold">
              of {sheet ? `${units.shown(sheet.batch_kg, "dough mass")} ` : "a dough, "}
              {units.name("dough mass", "kg")}
            </th>
            <th>
              <span className="sr-only">Delete</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row, place) => (
            <tr key={row.ingredient} className="border-rule border-b">
              {fields.map((field) => (
                <td key={field.name} className="py-1 pr-2">
                  <Input
                    field={field}
                    row={row}
                    id={`${field.name}-${place}`}
                    label={`${field.words.name}, ${items.find((item) => item.value === row.ingredient)?.label ?? ""}`}
                    references={references}
                    onChange={(value) => put(place, { [field.name]: value })}
                  />
                </td>
              ))}
              <td className="pr-2 text-right font-semibold">
                {weighed.has(row.ingredient) ? kg(weighed.get(row.ingredient) ?? 0) : "…"}
              </td>
              <td>
                <button
                  type="button"
                  aria-label={`Delete ${items.find((item) => item.value === row.ingredient)?.label ?? "it"}`}
                  className="px-1 text-ink-2 underline"
                  onClick={() => onFormula(rows.toSpliced(place, 1))}
                >
                  Delete
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {sheet && <Allergens sheet={sheet} />}
    </Panel>
  );
}

function Allergens({ sheet }: { sheet: Schemas["ProductSheet"] }) {
  const units = useUnits();
  return (
    <p className="mt-2 text-sm">
      <span className="font-semibold">Allergens:</span> {sheet.allergens.join(", ") || "none"}, from what is in it and
      on it.{" "}
      <span className="text-ink-2">
        A piece is scaled at {units.shown(sheet.scaling_g, "piece mass")} {units.name("piece mass")}.
      </span>
    </p>
  );
}
