/** What instruments read, as it comes over the stream: the newest of each, for whoever shows it. */
import { useSyncExternalStore } from "react";

export type Heard = { at: number; value: number };

const newest = new Map<string, Heard>();
const readers = new Set<() => void>();

/** Take what the stream tells: lines of path, moment and value. */
export function hear(told: string) {
  for (const line of told.split("\n")) {
    const [path, at, value] = line.split(" ");
    if (path && at && value) newest.set(path, { at: Date.parse(at), value: Number(value) });
  }
  for (const reader of readers) reader();
}

const follow = (reader: () => void) => {
  readers.add(reader);
  return () => readers.delete(reader);
};

/** The newest reading of a signal since this page was opened; undefined where none has come. */
export const useHeard = (path: string) => useSyncExternalStore(follow, () => newest.get(path));
