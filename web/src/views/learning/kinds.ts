/** What can be learnt: how each kind of figure is called, and how it is written. */
import type { Schemas } from "../../api/client";
import { digits, duration, whole } from "../../app/format";
import type { Units } from "../../app/units";

export type Lesson = Schemas["LineLesson"];
export type Kind = Lesson["kind"];

export const KINDS: Record<Kind, { name: string; from: string }> = {
  friction: { name: "Friction factors", from: "the probes of doughs" },
  cooling: { name: "Cooling", from: "cores out of the oven and behind the cooler" },
  yield: { name: "Yields", from: "the counters before and behind a station" },
  "bake loss": { name: "Bake losses", from: "baked pieces on the scale, and what they were scaled at" },
  pace: { name: "Paces", from: "what the first station counts in a quarter of an hour" },
  "tool change": { name: "Changes of tool", from: "the last piece before, and when it was found set up" },
  "belt set": { name: "Belts set anew", from: "the last piece before, and when it was found set up" },
  stops: { name: "Time between stops", from: "stations that stood for themselves" },
  stands: { name: "How long stops last", from: "stations that stood for themselves" },
};

/** A figure of a kind, without its unit. */
export function shown(kind: Kind, value: number, units: Units): string {
  switch (kind) {
    case "friction":
      return units.shown(value, "temperature difference");
    case "cooling":
      return digits(value, 4);
    case "yield":
    case "bake loss":
      return `${digits(100 * value, 2)} %`;
    case "pace":
      return whole(value);
    case "stops":
      return duration(value);
    default:
      return `${digits(value, 1)} min`;
  }
}

/** The unit where `shown` says none. */
export function unitOf(kind: Kind, units: Units): string {
  if (kind === "friction") return units.name("temperature difference", "K");
  return kind === "cooling" ? "per min" : kind === "pace" ? "an hour" : "";
}
