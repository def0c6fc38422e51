"""What decides about versions: the lines a change touches, what the check says of a plan, what may be published."""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

from rundgang.core.errors import RundgangError
from rundgang.core.planning.check.plans import check, check_shared
from rundgang.core.planning.check.violation import Violation
from rundgang.core.planning.model import PlantPlan
from rundgang.core.planning.repair import Change, Fit, Moved, Repaired, repair
from rundgang.core.scenario import Scenario


class Checked(NamedTuple):
    """What the check found: by line, in its plan by itself; and in what lines share, where each by itself is right."""

    alone: dict[str, tuple[Violation, ...]]
    shared: tuple[Violation, ...]

    @property
    def sound(self) -> bool:
        """Whether nothing is wrong."""
        return not self.every

    @property
    def every(self) -> tuple[Violation, ...]:
        """All that is wrong."""
        return (*(one for line in self.alone.values() for one in line), *self.shared)


MOST_NAMED = 3
"""So many broken rules are named; the rest follows from them as a rule."""


class NotToPublishError(RundgangError):
    """A version that breaks rules."""

    def __init__(self, number: int) -> None:
        super().__init__(
            f"Version {number} breaks rules, so it cannot be published. Allowed: versions that pass the check."
        )


def checked(scenario: Scenario, plan: PlantPlan) -> Checked:
    """Check a plan of the plant, line by line and in what lines share."""
    alone = {line.line: check(scenario, line) for line in plan.plans}
    return Checked(alone, () if any(alone.values()) else check_shared(scenario, plan.plans))


class UnsoundFactError(RundgangError):
    """A plan of what has happened that breaks rules, so that the floor cannot go by it."""

    def __init__(self, broken: Sequence[Violation]) -> None:
        super().__init__(
            f"The rest of the plan does not fit around it: {'; '.join(str(one) for one in broken[:MOST_NAMED])}. "
            "Nothing was stored. Allowed: what leaves a plan that passes the check."
        )


def refuse_unsound(found: Checked) -> None:
    """Raise UnsoundFactError where the check found anything."""
    if not found.sound:
        raise UnsoundFactError(found.every)


def refuse_to_publish(number: int, breaks_rules: bool) -> None:
    """Raise NotToPublishError where a version breaks rules."""
    if breaks_rules:
        raise NotToPublishError(number)


def fitted(scenario: Scenario, plan: PlantPlan, lines: Sequence[str]) -> Repaired:
    """Some lines fitted to new orders, closings or stock, and then every other line that these touch."""
    moved: tuple[Moved, ...] = ()
    for line in lines:
        found = repair(scenario, plan, Fit(line=line))
        plan, moved = found.plan, (*moved, *found.moved)
    for other in plan.plans:
        if other.line not in lines and (check(scenario, other) or check_shared(scenario, plan.plans)):
            found = repair(scenario, plan, Fit(line=other.line))
            plan, moved = found.plan, (*moved, *found.moved)
    return Repaired(plan=plan, moved=moved)


DONE: Mapping[str, str] = {
    "move": "moved",
    "place": "put elsewhere in the order",
    "pin": "pinned",
    "split": "split",
    "merge": "joined with the next",
    "pace": "set to another pace",
    "odd": "given another last dough",
}


def noted(scenario: Scenario, plan: PlantPlan, change: Change) -> str:
    """What a change is, in the words of the list of versions."""
    if isinstance(change, Fit):
        return f"{scenario.line(change.line).name} fitted to the newest orders and closings"
    product = next(run.product for run in plan.of(change.line).runs if run.id == change.run)
    let_go = change.kind == "pin" and not getattr(change, "pinned", True)
    return f"{change.run} {scenario.product(product).name} {'unpinned' if let_go else DONE[change.kind]}"
