/** Batch cards of one line or of several in one queue, in the order of the clock. */
import type { Card, Schemas } from "../../api/client";
import { ALL_LINES } from "../../ui/LinePick";

export type LineCards = Schemas["CardsView"];
export type QueuedCard = { card: Card; of: LineCards };

const queues = new WeakMap<LineCards, QueuedCard[]>();

/** A plan's cards with the plan they are of; the same objects for as long as the answer is the same. */
function queueOf(of: LineCards): QueuedCard[] {
  const known = queues.get(of) ?? of.cards.map((card) => ({ card, of }));
  queues.set(of, known);
  return known;
}

export const addressOf = ({ of, card }: QueuedCard, all: boolean) =>
  `/dough/${of.plan}/${card.run}/${card.key}${all ? `?line=${ALL_LINES}` : ""}`;

export const cardsByClock = (plans: LineCards[]) =>
  plans.flatMap(queueOf).sort((first, then) => first.card.start_min - then.card.start_min);

export const queuedAt = (cards: QueuedCard[], plan: number, run: string, key: string | undefined) =>
  cards.find(({ card, of }) => of.plan === plan && card.run === run && card.key === key);
