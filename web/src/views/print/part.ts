/** Which part of the plan is printed: all of it, one run, or what happens in a stretch of time. */
import type { Card, PlanView, Run } from "../../api/client";

export type Part = { run: string | null; from: number; to: number };

export const runsOf = (view: PlanView, { run, from, to }: Part): Run[] =>
  view.plan.runs.filter(
    (one) =>
      (run === null || one.id === run) &&
      one.last_pack_min >= from &&
      (one.batches[0]?.start_min ?? one.start_min) < to,
  );

/** Lorries of the stretch; of one run, those it is made for. */
export const lorriesOf = (view: PlanView, { run, from, to }: Part, departs: Map<string, number>) => {
  const own = run === null ? undefined : view.plan.runs.find((one) => one.id === run);
  return view.plan.waves.filter((outcome) => {
    const leaves = departs.get(outcome.wave) ?? 0;
    if (own && !own.items.some((item) => item.wave === outcome.wave && own.product === outcome.product)) return false;
    return leaves >= from && leaves < to;
  });
};

export const cardsOf = (cards: Card[], { run, from, to }: Part) =>
  cards.filter((card) => (run === null || card.run === run) && card.start_min >= from && card.start_min < to);
