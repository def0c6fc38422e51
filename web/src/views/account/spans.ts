/** Which hours an account is of, as people say them; on the plant's clock, as a field for date and time takes them. */
import type { Clock } from "../../app/format";

export const SPANS = [
  { value: "eight", label: "Last 8 hours" },
  { value: "today", label: "Today" },
  { value: "yesterday", label: "Yesterday" },
  { value: "week", label: "This week" },
  { value: "last week", label: "Last week" },
  { value: "own", label: "Own hours" },
] as const;

export type SpanName = (typeof SPANS)[number]["value"];

const DAY_MS = 86_400_000;
const MONDAY = 1;
const DAYS = 7;

type Span = { since?: string; until?: string };

/** From when until when a span is; nothing where it is the last hours, whichever they are. */
export function spanOf(name: SpanName, clock: Clock): Span {
  const today = Date.parse(`${clock.typed(clock.minuteNow()).slice(0, 10)}T00:00Z`);
  const at = (days: number) => new Date(today + days * DAY_MS).toISOString().slice(0, 16);
  const monday = -((new Date(today).getUTCDay() - MONDAY + DAYS) % DAYS);
  switch (name) {
    case "today":
      return { since: at(0), until: at(1) };
    case "yesterday":
      return { since: at(-1), until: at(0) };
    case "week":
      return { since: at(monday), until: at(monday + DAYS) };
    case "last week":
      return { since: at(monday - DAYS), until: at(monday) };
    default:
      return {};
  }
}

/** The name of a span, where it has one. */
export function spanName(span: Span, clock: Clock): SpanName {
  const found = SPANS.find(({ value }) => {
    const known = spanOf(value, clock);
    return value !== "own" && known.since === span.since && known.until === span.until;
  });
  return found?.value ?? "own";
}
