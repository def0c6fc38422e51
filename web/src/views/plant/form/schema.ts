/** A form's fields as the API describes them: a JSON Schema whose fields have their words. */

export type Words = {
  name: string;
  help: string;
  unit: string;
  quantity: string;
  refers: string;
  share: boolean;
  choices: Record<string, string>;
};

export type Schema = {
  $ref?: string;
  $defs?: Record<string, Schema>;
  type?: string;
  properties?: Record<string, Schema>;
  required?: string[];
  items?: Schema;
  enum?: string[];
  const?: string;
  default?: unknown;
  anyOf?: Schema[];
  oneOf?: Schema[];
  discriminator?: { mapping: Record<string, string> };
  minimum?: number;
  maximum?: number;
  words?: Words;
};

export type Data = Record<string, unknown>;

/** What a field that names another thing may pick: by what it refers to. */
export type References = (refers: string, row: Data) => { value: string; label: string }[];

/** A field; `needed` where it must not be left out. */
export type Field = { name: string; schema: Schema; words: Words; optional: boolean; needed: boolean };

function behind(schema: Schema, root: Schema): Schema {
  const name = schema.$ref?.split("/").at(-1);
  return name ? (root.$defs?.[name] ?? schema) : schema;
}

/** What a field holds, and whether it may be left out. */
export function held(schema: Schema, root: Schema): [Schema, boolean] {
  const choices = schema.anyOf ?? [];
  const real = choices.filter((choice) => choice.type !== "null");
  if (real.length !== 1) return [behind(schema, root), false];
  return [behind(real[0] ?? schema, root), real.length < choices.length];
}

/** The schema of a station or step of a kind, within the schema of what it belongs to. */
export function ofKind(root: Schema, list: string, kind: string): Schema {
  const ref = root.properties?.[list]?.items?.discriminator?.mapping[kind];
  return { ...behind({ $ref: ref ?? "" }, root), $defs: root.$defs ?? {} };
}

/** The fields that a person fills in; what has no words is made for them. */
export function fieldsOf(schema: Schema, root: Schema, without: readonly string[] = []): Field[] {
  return Object.entries(schema.properties ?? {}).flatMap(([name, field]) => {
    if (!field.words || without.includes(name)) return [];
    const [inner, optional] = held(field, root);
    const needed = schema.required?.includes(name) ?? false;
    return [{ name, schema: inner, words: field.words, optional, needed }];
  });
}

export const isScalar = (schema: Schema) =>
  ["string", "number", "integer", "boolean"].includes(schema.type ?? "") || schema.enum !== undefined;

/** Whether a field is a list of names, choices or figures, which stand in one line. */
export const isPlainList = (schema: Schema, root: Schema) =>
  schema.type === "array" && schema.items !== undefined && isScalar(behind(schema.items, root));

export const memberOf = (schema: Schema, root: Schema) => behind(schema.items ?? {}, root);

/** A first value for what is added. */
export function blank(schema: Schema, root: Schema): unknown {
  if (schema.default !== undefined) return schema.default;
  const [inner, optional] = held(schema, root);
  if (optional) return null;
  if (inner.const !== undefined) return inner.const;
  if (inner.enum) return inner.enum[0];
  if (inner.type === "object")
    return Object.fromEntries(Object.entries(inner.properties ?? {}).map(([name, part]) => [name, blank(part, root)]));
  if (inner.type === "array") return [];
  if (inner.type === "boolean") return false;
  return inner.type === "string" ? "" : (inner.minimum ?? 0);
}
