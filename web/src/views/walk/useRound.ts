/** A line's round and its clock, with or without a network. */
import { useQuery } from "@tanstack/react-query";
import { useEffect, useReducer, useSyncExternalStore } from "react";
import { clockOf } from "../../app/format";
import { box, keepSending, readBox, roundOf } from "./outbox";

const ASKS_MS = 10_000;
const LOOKS_MS = 5_000;
const LEAST_MS = 1_000;

export function useRound(line: string) {
  return useQuery({
    queryKey: ["round", line],
    networkMode: "always",
    retry: false,
    refetchInterval: ASKS_MS,
    refetchOnReconnect: "always",
    queryFn: () => roundOf(line),
  });
}

/** What is in the box; it is sent meanwhile. */
export function useBox() {
  useEffect(keepSending, []);
  return useSyncExternalStore(readBox, box);
}

/** The plant's clock by a round, which may have been read long ago; drawn anew as it goes on. */
export function useRoundClock(known: Awaited<ReturnType<typeof roundOf>> | undefined) {
  const [, look] = useReducer((count: number) => count + 1, 0);
  const speed = known?.round.clock_speed ?? 1;
  useEffect(() => {
    const timer = setInterval(look, Math.max(LEAST_MS, LOOKS_MS / speed));
    return () => clearInterval(timer);
  }, [speed]);
  return known && clockOf(known.round, known.readAt);
}
