"""Probes of doughs, with everything their water was calculated from."""

from datetime import datetime
from typing import Any

from sqlmodel import col, func, select

from rundgang.core.conditions import Conditions
from rundgang.core.dough.card import BatchCard, Log
from rundgang.core.dough.friction import ProbeReading
from rundgang.core.dough.probe import Measured
from rundgang.core.errors import UnknownItemError
from rundgang.core.model import Model
from rundgang.store.plans import Plans
from rundgang.store.rows import Rows, key, written
from rundgang.store.tables import LinePlanRow, PlanningWindow, ProbeEntry, ProbeWithdrawal

MOST_PROBES = 200
"""So far back the history of a product and mixer is read."""


class LoggedProbe(Model):
    """A probe in the log."""

    created_at: datetime
    run: str
    batch: int
    reading: ProbeReading


class Probes(Rows):
    """The log of probes."""

    def add(
        self, plan: int, card: BatchCard, dough_c: float, others_c: tuple[float, ...], conditions: Conditions
    ) -> None:
        """Store a probe of a card's dough, in the open transaction, with what its water was calculated from, °C."""
        self.session.add(
            ProbeEntry(
                plan_id=Plans(self.session, self._of).key_of(plan),
                run=card.run,
                batch=card.number,
                product=card.product,
                mixer=card.mixer,
                dough_c=dough_c,
                water_c=card.water.wanted_c if card.water else 0,
                friction_c=card.friction.friction_c,
                others_c=list(others_c),
                conditions=conditions.model_dump(),
            )
        )
        self.session.flush()

    def withdraw(self, plan: int, run: str, batch: int, reason: str, author: str) -> None:
        """Let the probes of a dough count no more, those that it corrected too; UnknownItemError where it has none."""
        found = [entry for entry in self._of_line(plan) if (entry.run, entry.batch) == (run, batch)]
        if not found:
            raise UnknownItemError("probe of batch", f"{batch} of {run}")
        self.session.add_all(ProbeWithdrawal(probe_id=key(entry.id), reason=reason, author=author) for entry in found)
        self.session.commit()

    def of(self, product: str, mixer: str) -> tuple[LoggedProbe, ...]:
        """The probes of a product from a mixer, oldest first; of a batch probed twice, the later one."""
        query = (
            select(ProbeEntry, LinePlanRow.window_id, LinePlanRow.line)
            .join(LinePlanRow, isouter=True)
            .where(ProbeEntry.product == product, ProbeEntry.mixer == mixer, _counts())
        )
        newest = self.session.exec(query.order_by(col(ProbeEntry.id).desc()).limit(MOST_PROBES))
        last: dict[tuple[object, ...], ProbeEntry] = {}
        for entry, window, line in newest:
            last.setdefault((window, line, entry.run, entry.batch) if entry.plan_id else (entry.id,), entry)
        return tuple(_as_probe(entry) for entry in reversed(last.values()))

    def log(self, plan: int) -> Log:
        """The probes of a plan's batches, by run and batch, the later one where a batch was probed twice.

        A batch that was mixed by an earlier plan of the line is the same batch: its run is called as it was then.
        """
        return {
            (entry.run, entry.batch): Measured(entry.dough_c, entry.water_c, entry.friction_c)
            for entry in self._of_line(plan)
        }

    def _of_line(self, number: int) -> list[ProbeEntry]:
        """The probes of a plan's batches, by whichever plan of its line they were mixed, oldest first.

        Runs that came along from the window before are called as they were there.
        """
        plan, window = Plans(self.session, self._of).line(number).plan, key(self.window().id)
        product = {run.id: run.product for run in plan.runs}
        along = {run.id for run in plan.runs if run.first_mixed_min < self.went_on_min(self.window())}
        query = (
            select(ProbeEntry, LinePlanRow.window_id)
            .join(LinePlanRow)
            .where(
                col(LinePlanRow.window_id).in_((window, self._window_before(window))),
                LinePlanRow.line == plan.line,
                _counts(),
            )
        )
        probes = self.session.exec(query.order_by(col(ProbeEntry.id)))
        return [one for one, of in probes if product.get(one.run) == one.product and (of == window or one.run in along)]

    def _window_before(self, window: int) -> int | None:
        """The number of the window before one; None before the first."""
        return self.session.exec(select(func.max(PlanningWindow.id)).where(col(PlanningWindow.id) < window)).one()


def _counts() -> Any:
    """Whether a probe has not been withdrawn."""
    return col(ProbeEntry.id).not_in(select(ProbeWithdrawal.probe_id))


def _as_probe(entry: ProbeEntry) -> LoggedProbe:
    reading = ProbeReading(dough_c=entry.dough_c, others_c=tuple(entry.others_c), water_c=entry.water_c)
    return LoggedProbe(created_at=written(entry.created_at), run=entry.run, batch=entry.batch, reading=reading)
