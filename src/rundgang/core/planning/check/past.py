"""The check of the past: what had begun by the plan's *now* stands in it as it was, and nothing else begins before."""

from collections.abc import Iterator

from rundgang.core.planning.check.violation import SLACK_MIN, Violation, fault
from rundgang.core.planning.model import LinePlan, Run
from rundgang.core.scenario import Scenario


def past_faults(scenario: Scenario, plan: LinePlan) -> Iterator[Violation]:
    """Every plan that contradicts what has happened."""
    now, left = scenario.opening.now_min, list(plan.runs)
    for fact in scenario.opening.begun_on(plan.line):
        kept = next((run for run in left if run.product == fact.product and _same(run, fact)), None)
        if kept is None:
            first = min(slot.start_min for batch in fact.batches for slot in batch.slots)
            yield fault(fact.id, "", f"has been begun at minute {first:.0f} and is not in the plan as it was")
        else:
            left.remove(kept)
            if kept.packs > fact.packs:
                yield fault(fact.id, "", f"counts {kept.packs} packs, of which {fact.packs} may be loaded")
    for run in left:
        begins = [slot.start_min for batch in run.batches for slot in batch.slots]
        begins += [filling.start_min for filling in run.fillings if not filling.kept]
        if now - min(begins) > SLACK_MIN:
            yield fault(run.id, "", "is begun before the plan's now", now - min(begins))


def _same(run: Run, fact: Run) -> bool:
    """Whether a run is the fact: its doughs mixed then and there, fed and packed at the same times."""
    if len(run.batches) != len(fact.batches) or len(run.legs) != len(fact.legs):
        return False
    times = [(a.start_min, b.start_min) for a, b in zip(run.legs, fact.legs, strict=True)]
    times += [(a.feed_min, b.feed_min) for a, b in zip(run.legs, fact.legs, strict=True)]
    for a, b in zip(run.batches, fact.batches, strict=True):
        if (a.mixer, a.trough, a.pieces) != (b.mixer, b.trough, b.pieces):
            return False
        times += [(a.start_min, b.start_min), (a.divided_min, b.divided_min)]
    return all(abs(one - other) <= SLACK_MIN for one, other in times)
