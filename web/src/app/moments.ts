/** How moments are written: in English, with the clock and the order of day and month that the reader's locale has. */

type Manner = { monthFirst: boolean; hour12: boolean };

let known: Manner | undefined;

/** The reader's manner; to learn it the first time takes a browser as long as a page's code. */
function mannerOf(): Manner {
  if (known) return known;
  const reader = new Intl.DateTimeFormat(navigator.language, { hour: "numeric", month: "numeric", day: "numeric" });
  const parts = reader.formatToParts(0).map((part) => part.type);
  known = {
    monthFirst: parts.indexOf("month") < parts.indexOf("day") && navigator.language.startsWith("en"),
    hour12: reader.resolvedOptions().hour12 ?? false,
  };
  return known;
}

/** Learn it while nothing else is to be done. */
export const learnManner = () => setTimeout(mannerOf);

/** A format for moments in a time zone. */
export function momentFormat(timeZone: string, options: Intl.DateTimeFormatOptions): Intl.DateTimeFormat {
  const { monthFirst, hour12 } = mannerOf();
  const timed = options.hour !== undefined || options.timeStyle !== undefined;
  return new Intl.DateTimeFormat(monthFirst ? "en-US" : "en-GB", {
    timeZone,
    ...options,
    ...(timed && { hour12 }),
    ...(options.hour && { hour: hour12 ? "numeric" : "2-digit" }),
  });
}

/** Hours and minutes as a clock shows them. */
export const HANDS: Intl.DateTimeFormatOptions = { hour: "2-digit", minute: "2-digit" };
