/** A product's way along its line: steps in walking order, and what a station's move does to them. */
import { keyFor } from "../../app/keys";
import type { Edit, Library, Thing } from "./draft";

export type Step = Record<string, unknown> & { station: string; kind: string };

export const stationsOf = (line: Thing | undefined) => (line?.stations ?? []) as Thing[];
export const routeOf = (product: Thing | undefined) => (product?.route ?? []) as Step[];

const inOrder = (route: Step[], stations: Thing[]) => {
  const place = new Map(stations.map((station, at) => [station.id, at]));
  return [...route].sort((one, other) => (place.get(one.station) ?? 0) - (place.get(other.station) ?? 0));
};

/** The edits that give a line other stations: products walk past them in the new order, and no longer past what is gone. */
export function withStations(library: Library, line: Thing, stations: Thing[]): Edit[] {
  const known = new Set(stations.map((station) => station.id));
  const followed = (library.products as unknown as Thing[])
    .filter((product) => product.line === line.id)
    .flatMap((product): Edit[] => {
      const was = routeOf(product);
      const route = inOrder(
        was.filter((step) => known.has(step.station)),
        stations,
      );
      const same = route.length === was.length && route.every((step, at) => step === was[at]);
      return same ? [] : [{ kind: "products", id: product.id, data: { ...product, route } }];
    });
  return [{ kind: "lines", id: line.id, data: { ...line, stations } }, ...followed];
}

/** The edit that gives a product a step, in walking order, or takes it away. */
export function withStep(line: Thing | undefined, product: Thing, station: string, step: Step | undefined): Edit {
  const others = routeOf(product).filter((one) => one.station !== station);
  const route = step ? inOrder([...others, step], stationsOf(line)) : others;
  return { kind: "products", id: product.id, data: { ...product, route } };
}

/** A copy under a name of its own. */
export const copyOf = (thing: Thing, name: string, among: Thing[]): Thing => ({
  ...structuredClone(thing),
  name: name.trim(),
  id: keyFor(
    name,
    among.map((one) => one.id),
  ),
});
