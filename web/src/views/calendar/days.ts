/** Weekdays as the calendar counts them, and keys made from what people write. */
import type { Calendar } from "../../api/client";

export const WEEKDAYS = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];
export const EVERY_DAY = [0, 1, 2, 3, 4, 5, 6];

export type EditCalendar = (parts: Partial<Calendar>) => void;

/** A key for something new, after its name, that none of the others has. */
export function keyFor(name: string, taken: string[]): string {
  const plain = name
    .normalize("NFKD")
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, "-")
    .replaceAll(/^-+|-+$/g, "")
    .slice(0, 24);
  const stem = plain || "lorry";
  let key = stem;
  for (let number = 2; taken.includes(key); number += 1) key = `${stem}-${number}`;
  return key;
}

/** An entry of a list replaced, or without it. */
export const put = <T>(list: T[], place: number, entry: T | undefined): T[] =>
  entry === undefined ? list.filter((_, at) => at !== place) : list.map((old, at) => (at === place ? entry : old));
