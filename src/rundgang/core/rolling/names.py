"""Names: what runs are called in another window, or beside others: numbered anew on each line, as a plan does."""

from collections.abc import Sequence

from rundgang.core.planning.model import LinePlan, Run


class Names:
    """What each of some runs is called from now on."""

    def __init__(self, runs: Sequence[Run]) -> None:
        self.known: dict[tuple[str, str], str] = {}
        for line in {run.line for run in runs}:
            own = sorted((run for run in runs if run.line == line), key=lambda run: run.start_min)
            self.known |= {(line, run.id): f"R{number}" for number, run in enumerate(own, start=1)}

    def of(self, run: Run) -> Run:
        """A run by its new name, and what it follows."""
        after = self.known.get((run.line, run.binding.after or ""))
        binding = run.binding.model_copy(update={"after": after})
        return run.model_copy(update={"id": self.known[run.line, run.id], "binding": binding})

    def of_plan(self, plan: LinePlan) -> LinePlan:
        """A plan without the runs that are over."""
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
