/** What is mixed when: one card after another, that which is shown marked. */
import { memo, useEffect, useRef } from "react";
import { Link } from "react-router";
import { useWindowView } from "../planningWindow";
import { addressOf, type QueuedCard } from "./queued";

type Props = {
  cards: QueuedCard[];
  shown: QueuedCard | undefined;
  /** Whether they are of all lines, and each says of which. */
  all: boolean;
};

export const Queue = memo(({ cards, shown, all }: Props) => {
  const { day, clock } = useWindowView();
  const lines = new Map(day.lines.map((line) => [line.id, line.name]));
  const queue = useRef<HTMLOListElement>(null);
  const here = useRef<HTMLAnchorElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the shown card decides where the queue stands; the page itself stays
  useEffect(() => {
    const [list, card] = [queue.current, here.current];
    if (!list || !card) return;
    const [room, place] = [list.getBoundingClientRect(), card.getBoundingClientRect()];
    const off = (from: number, to: number, least: number, most: number) =>
      from < least ? from - least : to > most ? to - most : 0;
    list.scrollTop += off(place.top, place.bottom, room.top, room.bottom);
    list.scrollLeft += off(place.left, place.right, room.left, room.right);
  }, [shown?.of.plan, shown?.card.run, shown?.card.key]);
  return (
    <nav aria-label="Batches in the order of the clock" className="relative">
      <ol ref={queue} className="flex content-start gap-1.5 overflow-auto pr-1 pb-1 lg:absolute lg:inset-0 lg:grid">
        {cards.map((queued) => {
          const { card, of } = queued;
          return (
            <li
              key={`${of.plan}-${card.run}-${card.key}`}
              className="min-w-52 lg:far-below lg:[--room:3.25rem] lg:min-w-0"
            >
              <Link
                ref={queued === shown ? here : undefined}
                replace
                to={addressOf(queued, all)}
                aria-current={queued === shown ? "true" : undefined}
                className="-outline-offset-2! block min-h-12 rounded-lg border border-rule bg-paper px-3 py-2 text-sm hover:border-trail aria-[current=true]:border-2 aria-[current=true]:border-crust"
              >
                <span className="flex justify-between">
                  <span className="font-bold">{clock.moment(card.start_min)}</span>
                  <span className="text-ink-2 text-xs">{card.probe ? "probed" : card.mixer}</span>
                </span>
                <span className="block text-ink-2 text-xs">
                  {card.run} {card.product_name} {card.number} of {card.of}
                  {all && <span className="block">{lines.get(of.line)}</span>}
                </span>
              </Link>
            </li>
          );
        })}
      </ol>
    </nav>
  );
});
