"""Names: what runs are called, in another window, or in the next plan of the same one.

In the next window a run is called as it was. In the next plan a run that makes the same for the same lorries is called
as before, whatever its place: cards that are printed stay right, and what has been mixed is the same batch. A new run
takes a number that no run of the line has, beyond the last one; after the highest it begins at 1 again.
"""

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence

from rundgang.core.opening import Opening
from rundgang.core.planning.model import LinePlan, PlantPlan, Run

HIGHEST = 9_999
"""The highest number of a run: more than a line has runs at once."""

Named = Mapping[tuple[str, str], str]
"""By line and name, the new name."""


class Names:
    """What each of some runs is called from now on."""

    def __init__(self, known: Named) -> None:
        self.known = known

    @classmethod
    def kept(cls, runs: Iterable[Run]) -> "Names":
        """As they are called already; all other runs have none."""
        return cls({(run.line, run.id): run.id for run in runs})

    def of(self, run: Run) -> Run:
        """A run by its new name, and what it follows."""
        after = self.known.get((run.line, run.binding.after or ""))
        binding = run.binding.model_copy(update={"after": after})
        return run.model_copy(update={"id": self.known[run.line, run.id], "binding": binding})

    def of_plan(self, plan: LinePlan) -> LinePlan:
        """A plan without the runs that have no name any more."""
        named = {run.id: self.known[key] for run in plan.runs if (key := (run.line, run.id)) in self.known}
        return plan.model_copy(
            update={
                "runs": tuple(self.of(run) for run in plan.runs if run.id in named),
                "cut_runs": tuple(
                    cut.model_copy(update={"run": named[cut.run]}) for cut in plan.cut_runs if cut.run in named
                ),
                "renewals": tuple(
                    one.model_copy(update={"before": named[one.before]}) for one in plan.renewals if one.before in named
                ),
            }
        )


def named_as(plan: LinePlan, before: LinePlan, begun: Iterable[Run] = ()) -> LinePlan:
    """A line's plan with its runs called as in the one before, as far as they are the same; those begun as they are."""
    called = _called(plan.runs, before.runs, {run.id for run in begun})
    free = names_beyond((*before.runs, *plan.runs))
    known = {(run.line, run.id): called.get(run.id) or next(free) for run in plan.runs}
    named = plan if all(name == new for (_, name), new in known.items()) else Names(known).of_plan(plan)
    return _very_same(named, before)


def _very_same(plan: LinePlan, before: LinePlan) -> LinePlan:
    """The plan with the runs of the one before themselves, where they are equal: what is known of them stays known."""
    old = {run.id: run for run in before.runs}
    runs = tuple(old[run.id] if old.get(run.id) == run else run for run in plan.runs)
    return plan.model_copy(update={"runs": runs})


def all_named_as(plan: PlantPlan, before: Iterable[LinePlan], opening: Opening) -> PlantPlan:
    """A plant's plan with the runs of every line called as in the plans before, those begun as the opening has them."""
    known = {line.line: line for line in before}
    plans = tuple(
        named_as(line, known[line.line], opening.begun_on(line.line)) if line.line in known else line
        for line in plan.plans
    )
    return plan.model_copy(update={"plans": plans})


def common_packs(one: Run, other: Run) -> int:
    """Packs for the same lorries of the same product in both runs."""
    if one.product != other.product:
        return 0
    packs = {lot.wave: lot.packs for lot in one.items}
    return sum(min(lot.packs, packs.get(lot.wave, 0)) for lot in other.items)


def _called(runs: Sequence[Run], before: Sequence[Run], begun: Collection[str]) -> dict[str, str]:
    """By name, the run before that each is: the most packs in common first, then the nearest start."""
    pairs = [
        (-shared, abs(run.start_min - was.start_min), run.id, was.id)
        for run in runs
        for was in before
        if (shared := common_packs(was, run))
    ]
    called, taken = {name: name for name in begun}, set(begun)
    for _, _, run, was in sorted(pairs):
        if run not in called and was not in taken:
            called[run] = was
            taken.add(was)
    return called


def names_beyond(runs: Iterable[Run]) -> Iterator[str]:
    """Names that none of a line's runs has, one after another."""
    taken = {int(run.id[1:]) for run in runs if run.id[1:].isdigit()}
    last = max(taken, default=0)
    for number in (1 + (last + step) % HIGHEST for step in range(HIGHEST)):
        if number not in taken:
            yield f"R{number}"
