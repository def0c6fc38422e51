/** One line, product, ingredient or preparation, as a form; nothing is saved unless the whole library holds together. */
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { useChangeLibrary } from "../../api/queries";
import { useUnits } from "../../app/units";
import { Button, Notice, Panel, Refused } from "../../ui/parts";
import { type Thing as Data, type Schema, SchemaForm } from "../../ui/SchemaForm";
import type { Entry, Kind } from "./entries";

type Props = {
  kind: Kind;
  one: string;
  entry: Entry | undefined;
  view: Schemas["LibraryView"];
  schema: Record<string, unknown>;
};

/** A new thing begins as a copy of the first of its kind, under a name of its own. */
function draftOf({ kind, entry, view }: Props): Data {
  if (entry) return entry.data;
  const { plant, products, preparations } = view.library;
  const first = { products, preparations, lines: plant.lines, ingredients: plant.ingredients }[kind][0];
  return { ...(first as unknown as Data), id: "new", name: "New" };
}

/** What a field that names another thing may be. */
function suggestionsOf({ library }: Schemas["LibraryView"]): Record<string, string[]> {
  const items = [...library.plant.ingredients, ...library.preparations].map((item) => item.id);
  const stations = library.plant.lines.flatMap((line) => line.stations.map((station) => station.id));
  return {
    ingredient: items,
    item: items,
    station: [...new Set(stations)],
    line: library.plant.lines.map((line) => line.id),
    product: library.products.map((product) => product.id),
    carrier: library.plant.lines.flatMap((line) => line.carriers.map((carrier) => carrier.id)),
  };
}

export function Thing(props: Props) {
  const { kind, one, entry, view, schema } = props;
  const navigate = useNavigate();
  const units = useUnits();
  const change = useChangeLibrary();
  const [data, setData] = useState(() => draftOf(props));
  const changed = data !== entry?.data;
  // The new version shows a fresh form, so what follows a success must not hang on this one.
  const send = (wanted: Data | null, id: string) =>
    change.mutateAsync({ based_on: view.note.number, kind, id, data: wanted }).then(
      () => navigate(wanted ? `/plant/${kind}/${String(data.id)}` : `/plant/${kind}`),
      () => undefined,
    );
  return (
    <Panel label={String(data.name)} className="self-start p-4">
      <div className="mb-3 flex flex-wrap items-center gap-2">
        <h2 className="mr-auto font-bold text-lg leading-6">{entry?.name ?? `A new ${one}`}</h2>
        {kind === "products" && entry && <Elsewhere data={data} />}
        {entry && (
          <Button onClick={() => send(null, entry.id)} disabled={change.isPending}>
            Delete
          </Button>
        )}
        {entry && changed && <Button onClick={() => navigate(0)}>Leave it as it was</Button>}
        <Button
          weight="strong"
          disabled={!changed || change.isPending}
          onClick={() => send(data, entry?.id ?? String(data.id))}
        >
          {entry ? "Save the change" : "Add it"}
        </Button>
      </div>
      {change.isError && (
        <div className="mb-3">
          <Refused error={change.error} />
        </div>
      )}
      {changed && entry && !change.isError && (
        <div className="mb-3">
          <Notice title="Not saved yet.">Plans already made keep the data they were made for.</Notice>
        </div>
      )}
      <SchemaForm
        key={units.system}
        schema={schema as Schema}
        value={data}
        suggestions={suggestionsOf(view)}
        onChange={setData}
      />
    </Panel>
  );
}

function Elsewhere({ data }: { data: Data }) {
  return (
    <Link to={`/line/${String(data.line)}/${String(data.id)}`} className="text-sm underline">
      What the line can carry of it
    </Link>
  );
}
