import { useCallback, useState } from "react";

export type Span = readonly [from: number, to: number];
export type TimeScale = (minute: number) => number;

export const SHORTEST_SPAN = 10;
export const LONGEST_SPAN = 7 * 24 * 60;
const STEPS = [1, 2, 5, 10, 15, 30, 60, 120, 180, 360, 720, 1440];
const PIXELS_A_TICK = 62;

export function timeScale(span: Span, left: number, right: number): TimeScale {
  const perMinute = (right - left) / (span[1] - span[0]);
  return (minute) => left + (minute - span[0]) * perMinute;
}

/** The finest step whose labels do not crowd. */
export function tickStep(span: Span, width: number): number {
  const fits = Math.max(1, width / PIXELS_A_TICK);
  return STEPS.find((step) => (span[1] - span[0]) / step <= fits) ?? 1440;
}

/** A window of time kept where there is something to see; one wider than all of it begins where that does. */
function within(whole: Span, [from, to]: Span): Span {
  const past = Math.min(0, whole[1] - to);
  const start = Math.max(whole[0], from + past);
  return [start, start + to - from];
}

/** A window of time that can be drawn closer, wider, earlier and later, between ten minutes and a week. */
export function useSpan(whole: Span) {
  const [chosen, setChosen] = useState<Span>();
  const span = chosen ?? whole;
  const zoom = useCallback(
    (factor: number, around?: number) =>
      setChosen((before) => {
        const [from, to] = before ?? whole;
        const centre = around ?? (from + to) / 2;
        const length = Math.min(LONGEST_SPAN, Math.max(SHORTEST_SPAN, (to - from) * factor));
        const start = centre - ((centre - from) / (to - from)) * length;
        return within(whole, [start, start + length]);
      }),
    [whole],
  );
  const move = useCallback(
    (minutes: number) =>
      setChosen((before) => {
        const [from, to] = before ?? whole;
        return within(whole, [from + minutes, to + minutes]);
      }),
    [whole],
  );
  return { span, zoom, move, reset: () => setChosen(undefined) };
}
