"""The simulated plant in tests: by a plan from the tests' database, with people and stops as the test says."""

from collections.abc import Iterator

from sqlmodel import Session

from rundgang.core.planning.model import PlantPlan
from rundgang.core.scenario import Scenario
from rundgang.instruments.simulated.chance import Chance, Stop
from rundgang.instruments.simulated.plant import SimulatedPlant
from rundgang.store.cluster import Urls
from rundgang.store.database import connect
from rundgang.store.repository import Repository


class Told(Chance):
    """Only the stops that are said happen, each by its station; people are late as the seed has it, or never."""

    def __init__(self, *stops: tuple[str, Stop], seed: int | None = None) -> None:
        super().__init__(seed or 0, bool(stops))
        self.said, self.prompt = stops, seed is None

    def late_min(self, line: str, run: str) -> float:
        return 0.0 if self.prompt else super().late_min(line, run)

    def stops(self, line: str, station: str, heated: bool, until_min: float) -> Iterator[Stop]:
        return (stop for of, stop in self.said if of == station)


def planned_in(urls: Urls) -> tuple[Scenario, PlantPlan]:
    """The scenario of a database and its first plan."""
    engine = connect(urls.app)
    with Session(engine) as session:
        store = Repository(session)
        found = store.windows.scenario(), store.plans.version(1).plan
    engine.dispose()
    return found


def at_work(planned: tuple[Scenario, PlantPlan], chance: Chance) -> SimulatedPlant:
    """The plant that works by a plan from the window's start on."""
    scenario, plan = planned
    plant = SimulatedPlant(scenario.window.starts_at, chance)
    plant.publish(scenario, plan.plans, scenario.window.starts_at)
    return plant
