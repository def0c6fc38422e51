import { useEffect, useRef } from "react";
import { useSearchParams } from "react-router";

/**
 * The address's parameters, and a way to change them that loses nothing: a change builds on the one before, though
 * the address and the screen have not followed yet.
 */
export function useAddress() {
  const [search, setSearch] = useSearchParams();
  const latest = useRef(search);
  const pending = useRef<string>(undefined);
  useEffect(() => {
    if (pending.current !== undefined && pending.current !== search.toString()) return;
    pending.current = undefined;
    latest.current = search;
  }, [search]);
  const change = (alter: (parameters: URLSearchParams) => void) => {
    const next = new URLSearchParams(latest.current);
    alter(next);
    latest.current = next;
    pending.current = next.toString() === search.toString() ? undefined : next.toString();
    setSearch(next, { replace: true });
  };
  return [search, change] as const;
}
