/** What the last shift handed over, for whoever comes. */
import type { Schemas } from "../api/client";
import type { Clock } from "../app/format";

type Props = { note: Schemas["Note"] | null | undefined; clock: Clock };

export function HandedOver({ note, clock }: Props) {
  if (!note) return null;
  return (
    <section aria-label="Handed over" className="border-trail border-l-4 py-1 pl-3">
      <p className="whitespace-pre-wrap">{note.says}</p>
      <p className="text-ink-2 text-sm">
        handed over by {note.author}, {clock.moment(clock.minuteAt(note.at))}
      </p>
    </section>
  );
}
