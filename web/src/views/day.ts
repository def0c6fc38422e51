/** What all views share about the day: its clock, names and tones. */
import { useMemo } from "react";
import { useOutletContext } from "react-router";
import type { Day } from "../api/client";
import { clockOf } from "../app/format";

export function useDayView() {
  const day = useOutletContext<Day>();
  return useMemo(
    () => ({
      day,
      clock: clockOf(day),
      names: new Map(day.products.map((product) => [product.id, product.name])),
      tones: new Map(day.products.map((product, index) => [product.id, index])),
      waveNames: new Map(day.waves.map((wave) => [wave.id, wave.name])),
    }),
    [day],
  );
}
