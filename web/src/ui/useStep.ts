import { useEffect, useRef } from "react";

/** Steps through a list from what is shown; quick steps count although the screen has not followed yet. */
export function useStep<Item>(items: readonly Item[], shown: Item | undefined, go: (item: Item) => void) {
  const at = useRef(shown);
  useEffect(() => {
    at.current = shown;
  }, [shown]);
  return (by: number) => {
    const here = at.current === undefined ? -1 : items.indexOf(at.current);
    const from = here < 0 && by < 0 ? items.length : here;
    const next = items[Math.min(items.length - 1, Math.max(0, from + by))];
    if (next === undefined) return;
    at.current = next;
    go(next);
  };
}
