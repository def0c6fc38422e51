"""Probes of doughs, with everything their water was calculated from."""

from datetime import datetime

from sqlmodel import col, select

from rundgang.core.conditions import Conditions
from rundgang.core.dough.card import BatchCard, Log
from rundgang.core.dough.friction import ProbeReading
from rundgang.core.dough.probe import Measured
from rundgang.core.model import Model
from rundgang.store.plans import Plans
from rundgang.store.rows import Rows, written
from rundgang.store.tables import ProbeEntry

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
        """Store a probe of the dough of a card, with the temperatures its water was calculated from."""
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
        self.session.commit()

    def of(self, product: str, mixer: str) -> tuple[LoggedProbe, ...]:
        """The probes of a product from a mixer, oldest first; of a batch probed twice, the later one."""
        query = select(ProbeEntry).where(ProbeEntry.product == product, ProbeEntry.mixer == mixer)
        newest = self.session.exec(query.order_by(col(ProbeEntry.id).desc()).limit(MOST_PROBES))
        last: dict[tuple[object, ...], ProbeEntry] = {}
        for entry in newest:
            of_batch = (entry.plan_id, entry.run, entry.batch)
            last.setdefault(of_batch if entry.plan_id else (entry.id,), entry)
        return tuple(_as_probe(entry) for entry in reversed(last.values()))

    def log(self, plan: int) -> Log:
        """The probes of a plan by run and batch, the later one where a batch was probed twice."""
        of_plan = ProbeEntry.plan_id == Plans(self.session).key_of(plan)
        return {
            (entry.run, entry.batch): Measured(entry.dough_c, entry.water_c, entry.friction_c)
            for entry in self.session.exec(select(ProbeEntry).where(of_plan).order_by(col(ProbeEntry.id)))
        }


def _as_probe(entry: ProbeEntry) -> LoggedProbe:
    reading = ProbeReading(dough_c=entry.dough_c, others_c=tuple(entry.others_c), water_c=entry.water_c)
    return LoggedProbe(created_at=written(entry.created_at), run=entry.run, batch=entry.batch, reading=reading)
