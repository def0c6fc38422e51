/** What to do about a stop, in words. */
import type { Schemas } from "../../api/client";
import { type Clock, plural } from "../../app/format";

type ToDo = Schemas["ToDo"];

type Names = { station: (id: string) => string; product: (id: string) => string; clock: Clock };

/** What is to be done, and why or until when. */
export function todoWords(todo: ToDo, { station, product, clock }: Names): { what: string; why: string } {
  const by = clock.moment(todo.by_min);
  const of = `${todo.run} ${product(todo.product)}`;
  const pieces = plural(Math.round(todo.pieces ?? 0), "piece");
  switch (todo.what) {
    case "hold":
      return {
        what: `Hold ${todo.mixer}`,
        why: `batch ${todo.batch} of ${of} must not be charged; it was due at ${by}`,
      };
    case "feed nothing":
      return {
        what: `Feed nothing into the ${station(todo.station)}`,
        why: `what ${of} feeds now would only stand further down`,
      };
    case "aside":
      return {
        what: `Put ${pieces} aside at the ${station(todo.station)}`,
        why: `${of}; those that stay are lost after ${by}`,
      };
    case "pull":
      return {
        what: `Look after what is in the ${station(todo.station)}`,
        why: `${of}, ${pieces}: lost after ${by}; pull it then`,
      };
    case "watch":
      return {
        what: `${station(todo.station)}: ${pieces} wait`,
        why: `${of}; good until ${by}`,
      };
    case "use":
      return {
        what: `Let batch ${todo.batch} of ${of} wait`,
        why: `good until ${by}`,
      };
  }
}

export const OPTION: Record<Schemas["StopOption"]["kind"], string> = {
  wait: "Hold, then run on",
  slow: "Go on slower with the others",
  scrap: "Throw away what stands, make it again",
  elsewhere: "Wait, make the rest on another line",
};
