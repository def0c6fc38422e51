/** How moments are written: in English, with the clock and the order of day and month that the reader's locale has. */

const reader = new Intl.DateTimeFormat(navigator.language, { hour: "numeric", month: "numeric", day: "numeric" });
const parts = reader.formatToParts(0).map((part) => part.type);
const monthFirst = parts.indexOf("month") < parts.indexOf("day") && navigator.language.startsWith("en");
const hour12 = reader.resolvedOptions().hour12 ?? false;

/** A format for moments in a time zone. */
export function momentFormat(timeZone: string, options: Intl.DateTimeFormatOptions): Intl.DateTimeFormat {
  const timed = options.hour !== undefined || options.timeStyle !== undefined;
  return new Intl.DateTimeFormat(monthFirst ? "en-US" : "en-GB", { timeZone, ...options, ...(timed && { hour12 }) });
}

/** Hours and minutes as a clock shows them. */
export const HANDS: Intl.DateTimeFormatOptions = { hour: hour12 ? "numeric" : "2-digit", minute: "2-digit" };
