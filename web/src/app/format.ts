/** How figures and times are written. Minutes count from the window's start; the plant's zone shows them. */

import type { PlanningWindow } from "../api/client";
import { HANDS, momentFormat } from "./moments";

const MINUTE_MS = 60_000;
const DAY_MINUTES = 1_440;
const SECONDS_PER_MINUTE = 60;

const formats = new Map<string, Intl.NumberFormat>();

/** A figure with so many decimals, at least and at most. Making a format takes as long as a hundred figures. */
export function digits(value: number, least: number, most = least): string {
  const key = `${least} ${most}`;
  const format =
    formats.get(key) ?? new Intl.NumberFormat("en-GB", { minimumFractionDigits: least, maximumFractionDigits: most });
  formats.set(key, format);
  return format.format(value);
}

export const whole = (value: number) => digits(Math.round(value), 0);
export const oneDecimal = (value: number) => digits(value, 1);
export const percent = (share: number) => `${Math.round(share * 100)} %`;
export const kilograms = (grams: number) => digits(grams / 1000, 2, 3);

/** 2 h 05, or 48 min. */
export function duration(minutes: number): string {
  const rounded = Math.round(minutes);
  if (rounded < 60) return `${rounded} min`;
  return `${Math.floor(rounded / 60)} h ${String(rounded % 60).padStart(2, "0")}`;
}

/** The same, in seconds where it is less than a minute. */
export const brief = (minutes: number) =>
  minutes < 1 ? `${Math.round(minutes * SECONDS_PER_MINUTE)} s` : duration(minutes);

export const plural = (count: number, one: string, many = `${one}s`) => `${whole(count)} ${count === 1 ? one : many}`;

/** How fresh a customer wants packs at the lorry. */
export const asksFor = (hours: number | null | undefined) =>
  hours == null ? "as old as the product may be" : `at most ${hours.toLocaleString("en-GB")} h old`;

export type Clock = ReturnType<typeof clockOf>;

type Timed = Pick<PlanningWindow, "window" | "time_zone" | "now_min" | "clock_speed">;

/** The plant's clock for a day, as it was read at a moment of the browser's. */
export function clockOf(day: Timed, read = Date.now()) {
  const start = new Date(day.window.starts_at).getTime();
  const format = (options: Intl.DateTimeFormatOptions) => momentFormat(day.time_zone, options);
  const hands = format(HANDS);
  const dated = format({ weekday: "short", day: "numeric", month: "short" });
  const named = format({ weekday: "short" });
  const stamp = new Intl.DateTimeFormat("sv-SE", { timeZone: day.time_zone, dateStyle: "short", timeStyle: "short" });
  const severalDays = day.window.minutes > DAY_MINUTES;
  const at = (minute: number) => new Date(start + minute * MINUTE_MS);
  return {
    time: (minute: number) => hands.format(at(minute)),
    date: (minute: number) => dated.format(at(minute)),
    /** The time, with the day of the week where the window has more than one. */
    moment: (minute: number) =>
      severalDays ? `${named.format(at(minute))} ${hands.format(at(minute))}` : hands.format(at(minute)),
    /** The time with the day of the week, for whoever hears it. */
    spoken: (minute: number) => `${named.format(at(minute))} ${hands.format(at(minute))}`,
    /** As a field for date and time takes it. */
    typed: (minute: number) => stamp.format(at(minute)).replace(" ", "T"),
    /** The minute that such a field says: the plant's clock, read as it is shown. */
    minuteOf: (typed: string) => {
      const guess = (Date.parse(`${typed}Z`) - start) / MINUTE_MS;
      const off = (minute: number) =>
        (Date.parse(`${stamp.format(at(minute)).replace(" ", "T")}Z`) - Date.parse(`${typed}Z`)) / MINUTE_MS;
      const nearer = guess - off(guess);
      return nearer - off(nearer);
    },
    /** The minute by the deployment's clock, which the window was read with. */
    minuteNow: () => day.now_min + ((Date.now() - read) / MINUTE_MS) * day.clock_speed,
    /** The minute of a moment, as the API gives it. */
    minuteAt: (moment: string) => (Date.parse(moment) - start) / MINUTE_MS,
    /** The moment of a minute, as the API takes it. */
    stamp: (minute: number) => at(minute).toISOString(),
    /** Minutes of the window at which the plant's clock shows a whole multiple of `step` minutes. */
    ticks: (from: number, to: number, step: number) => {
      const [hours, minutes] = stamp.format(at(from)).slice(-5).split(":").map(Number);
      const past = ((hours ?? 0) * 60 + (minutes ?? 0)) % step;
      const first = Math.floor(from) - past;
      const count = Math.max(0, Math.ceil((to - first) / step) + 1);
      return Array.from({ length: count }, (_, index) => first + index * step).filter((m) => m >= from && m <= to);
    },
  };
}
