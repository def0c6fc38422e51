"""Islands: the workers that search for the same at once, each on its own, and what they tell each other.

The first island is the search's own job: it proves, stops and stores. The others are jobs that every free worker may
take; they end when the search does, and one that is lost costs nothing.
"""

from collections.abc import Callable, Mapping
from time import monotonic
from typing import Any

from sqlmodel import Session, col, select, text

from rundgang.core.planning.lorries import OrderItem
from rundgang.core.planning.search.stopping import Arrangement, Progress
from rundgang.jobs.requests import LOST_AFTER_S
from rundgang.store.tables import SearchFind

TELL_SECONDS = 1.0
"""Islands tell each other what they have found so often."""

ISLAND_SEED = 7_368_787
"""What sets the random moves of islands apart."""


class Exchange:
    """What an island of a search tells the others, and hears of them.

    Parameters
    ----------
    job : int
        The search's.
    island : int
        0 is the search's own job.
    """

    def __init__(self, session: Session, job: int, island: int) -> None:
        self.session, self.job, self.island = session, job, island
        self.told_at, self.best = 0.0, float("inf")

    def tell(self, progress: Progress, arrangement: Callable[[], Arrangement]) -> Arrangement | None:
        """Tell, every so often, how far it is; the best order of the others, where that is better."""
        if monotonic() - self.told_at < TELL_SECONDS:
            return None
        self.told_at = monotonic()
        better = progress.cost < self.best
        self.best = min(self.best, progress.cost)
        self.session.add(
            SearchFind(
                job_id=self.job,
                island=self.island,
                evaluated=progress.evaluated,
                cost=progress.cost,
                arrangement=stored(arrangement()) if better else None,
            )
        )
        self.session.commit()
        query = select(SearchFind).where(
            SearchFind.job_id == self.job,
            SearchFind.island != self.island,
            SearchFind.cost < progress.cost,
            col(SearchFind.arrangement).is_not(None),
        )
        found = self.session.exec(query.order_by(col(SearchFind.cost)).limit(1)).first()
        return read(found.arrangement) if found and found.arrangement else None


def free_islands(session: Session, job: int) -> range:
    """Numbers for new islands of a search, so many that every worker there is has one."""
    workers = session.execute(
        text("SELECT count(*) FROM procrastinate_workers WHERE last_heartbeat > now() - make_interval(secs => :lost)"),
        {"lost": LOST_AFTER_S},
    ).scalar_one()
    query = text(
        "SELECT count(*), count(*) FILTER (WHERE status::text IN ('todo', 'doing')) FROM procrastinate_jobs "
        "WHERE task_name = 'island' AND (args->>'search')::bigint = :job"
    )
    asked, left = session.execute(query, {"job": job}).one()
    return range(asked + 1, asked + max(0, workers - 1 - left) + 1)


def stored(arrangement: Arrangement) -> dict[str, Any]:
    """An order of items as the database keeps it."""
    return {group: [item.model_dump(mode="json") for item in items] for group, items in arrangement.items()}


def read(arrangement: Mapping[str, Any]) -> dict[str, tuple[OrderItem, ...]]:
    """An order of items as the database has kept it."""
    return {group: tuple(OrderItem.model_validate(item) for item in items) for group, items in arrangement.items()}
