import { useLayoutEffect, useRef } from "react";

/** Steps through a list from what is shown; quick steps count although the screen has not followed yet. */
export function useStep<Item>(items: readonly Item[], shown: Item | undefined, go: (item: Item) => void) {
  const at = useRef(shown);
  const ahead = useRef<Item[]>([]);
  useLayoutEffect(() => {
    // A screen that comes to where an earlier step led has not overtaken the later ones.
    const reached = shown === undefined ? -1 : ahead.current.indexOf(shown);
    ahead.current = reached < 0 ? [] : ahead.current.slice(reached + 1);
    if (ahead.current.length === 0) at.current = shown;
  }, [shown]);
  return (by: number) => {
    const here = at.current === undefined ? -1 : items.indexOf(at.current);
    const from = here < 0 && by < 0 ? items.length : here;
    const next = items[Math.min(items.length - 1, Math.max(0, from + by))];
    if (next === undefined || next === at.current) return;
    at.current = next;
    ahead.current.push(next);
    go(next);
  };
}
