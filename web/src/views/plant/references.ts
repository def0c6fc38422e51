/** What a field of the library may name, by what it refers to. */
import type { Library, Thing } from "./draft";
import type { Data, References } from "./form/schema";
import { stationsOf } from "./route";

const listed = (things: readonly { id: string; name: string }[]) =>
  things.map(({ id, name }) => ({ value: id, label: name }));

/** @param line the line that the thing belongs to; a row that names a line has its own */
export function referencesIn(library: Library, line: string | undefined): References {
  const { lines, ingredients, crews = [] } = library.plant;
  const preparations = library.preparations ?? [];
  const of = (row: Data) => (typeof row.line === "string" ? row.line : line);
  const found = (id: string | undefined) => lines.find((one) => one.id === id) as unknown as Thing | undefined;
  return (refers, row) => {
    switch (refers) {
      case "item":
        return listed([...ingredients.filter((one) => one.role !== "packing"), ...preparations]);
      case "ingredient":
        return listed(ingredients.filter((one) => one.role !== "packing"));
      case "packing":
        return listed(ingredients.filter((one) => one.role === "packing"));
      case "station":
        return listed(stationsOf(found(of(row))));
      case "carrier":
        return listed((found(of(row))?.carriers ?? []) as Thing[]);
      case "line":
        return listed(lines);
      case "product":
        return listed(library.products);
      case "crew":
        return listed(crews);
      default:
        return [];
    }
  };
}
