/** What instruments read, as it comes over the stream: the newest of each, for whoever shows it. */
import { useSyncExternalStore } from "react";

const newest = new Map<string, number>();
const readers = new Set<() => void>();

/** Take what the stream tells: lines of path, moment and value. */
export function hear(told: string) {
  for (const line of told.split("\n")) {
    const [path, , value] = line.split(" ");
    if (path && value) newest.set(path, Number(value));
  }
  for (const reader of readers) reader();
}

const follow = (reader: () => void) => {
  readers.add(reader);
  return () => readers.delete(reader);
};

/** The newest reading of a signal since this page was opened; undefined where none has come. */
export const useHeard = (path: string) => useSyncExternalStore(follow, () => newest.get(path));
