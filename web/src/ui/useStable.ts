import { useCallback, useRef } from "react";

/** A function that stays the same one from drawing to drawing and does what the latest does. */
export function useStable<Args extends unknown[], Result>(act: (...args: Args) => Result) {
  const latest = useRef(act);
  latest.current = act;
  return useCallback((...args: Args) => latest.current(...args), []);
}
