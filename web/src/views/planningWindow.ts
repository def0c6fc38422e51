/** What all views share about the day: its clock, names and tones, and the line one is looking at. */
import { useOutletContext, useSearchParams } from "react-router";
import type { PlanningWindow } from "../api/client";
import { clockOf } from "../app/format";

/** Each product's place among those of its line: what its tone and pattern follow. */
function tonesOf(day: PlanningWindow): Map<string, number> {
  const seen = new Map<string, number>();
  return new Map(
    day.products.map((product) => {
      const place = seen.get(product.line) ?? 0;
      seen.set(product.line, place + 1);
      return [product.id, place];
    }),
  );
}

const viewOf = (day: PlanningWindow) => ({
  day,
  clock: clockOf(day),
  names: new Map(day.products.map((product) => [product.id, product.name])),
  tones: tonesOf(day),
  waveNames: new Map(day.waves.map((wave) => [wave.id, wave.name])),
});

const views = new WeakMap<PlanningWindow, ReturnType<typeof viewOf>>();

/** Made once for a day, for all that ask: hundreds of cards do. */
export function useWindowView() {
  const day = useOutletContext<PlanningWindow>();
  const view = views.get(day) ?? viewOf(day);
  views.set(day, view);
  return view;
}

const REMEMBERED = "rundgang-line";

/** The line one is looking at: from the address, else the one looked at last, else the first. */
export function useLine() {
  const { day } = useWindowView();
  const [search] = useSearchParams();
  const wanted = search.get("line") ?? localStorage.getItem(REMEMBERED);
  return day.lines.find((line) => line.id === wanted) ?? day.lines[0];
}

export const rememberedLine = () => localStorage.getItem(REMEMBERED) ?? undefined;

export const rememberLine = (line: string) => localStorage.setItem(REMEMBERED, line);
