/** Weekdays as the calendar counts them, and keys made from what people write. */
import type { Calendar } from "../../api/client";

export const WEEKDAYS = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];
export const EVERY_DAY = [0, 1, 2, 3, 4, 5, 6];

export type EditCalendar = (parts: Partial<Calendar>) => void;

/** An entry of a list replaced, or without it. */
export const put = <T>(list: T[], place: number, entry: T | undefined): T[] =>
  entry === undefined ? list.filter((_, at) => at !== place) : list.map((old, at) => (at === place ? entry : old));
