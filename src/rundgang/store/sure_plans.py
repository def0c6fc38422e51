"""What searches under chance have found: plans that are surer, and what changes would be worth."""

from sqlmodel import col, func, select

from rundgang.core.errors import UnknownItemError
from rundgang.core.model import Model
from rundgang.core.planning.model import PlantPlan
from rundgang.core.simulation.surer import Eased, Surer
from rundgang.core.simulation.worth import Worth
from rundgang.store.plans import Made
from rundgang.store.rows import Rows
from rundgang.store.tables import SurePlan, WorthFound


class SureNote(Model):
    """A plan that was found, without its runs: how sure the least sure of the lorries is, and what it costs, points."""

    number: int
    odds: float
    cost: float
    eased: tuple[Eased, ...]


class SurePlans(Rows):
    """Those of all searches."""

    def add_worth(self, job: int, found: Worth) -> None:
        """Store how a line does with a change, in the order in which they are found; once a change."""
        if found.change not in {one.change for one in self.worth_of(job)}:
            self.session.add(WorthFound(job_id=job, worth=found.model_dump(mode="json")))
            self.session.commit()

    def worth_of(self, job: int) -> tuple[Worth, ...]:
        """What a search has found that compares changes."""
        query = select(WorthFound.worth).where(WorthFound.job_id == job).order_by(col(WorthFound.id))
        return tuple(Worth.model_validate(one) for one in self.session.exec(query))

    def add(self, job: int, found: Surer, made: Made) -> None:
        """Store the next plan of a search, with what it was made for; it stays, whatever becomes of the search."""
        last = self.session.exec(select(func.max(SurePlan.number)).where(SurePlan.job_id == job)).one()
        self.session.add(
            SurePlan(
                job_id=job,
                number=(last or 0) + 1,
                odds=found.odds,
                cost=found.plan.cost,
                eased=[one.model_dump(mode="json") for one in found.eased],
                plan=found.plan.model_dump(mode="json"),
                made=made.model_dump(mode="json"),
            )
        )
        self.session.commit()

    def of(self, job: int) -> tuple[SureNote, ...]:
        """The plans of a search, in the order in which they were found."""
        columns = (SurePlan.number, SurePlan.odds, SurePlan.cost, SurePlan.eased)
        rows = self.session.exec(select(*columns).where(SurePlan.job_id == job).order_by(col(SurePlan.number)))
        return tuple(
            SureNote(number=number, odds=odds, cost=cost, eased=tuple(Eased.model_validate(one) for one in eased))
            for number, odds, cost, eased in rows
        )

    def one(self, job: int, number: int) -> tuple[PlantPlan, Made]:
        """A plan and what it was made for; UnknownItemError where there is none of that number."""
        query = select(SurePlan).where(SurePlan.job_id == job, SurePlan.number == number)
        row = self.session.exec(query).first()
        if row is None:
            raise UnknownItemError("plan of that search", str(number))
        return PlantPlan.model_validate(row.plan, strict=False), Made.model_validate(row.made)
