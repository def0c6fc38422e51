"""What the record of the last days teaches about a line, and what of it is taken into the library, or left."""

from collections.abc import Iterator, Sequence
from datetime import datetime, timedelta

from rundgang.clock import Clock
from rundgang.core.errors import UnknownItemError
from rundgang.core.floor.followed import Counted, Stoppage, as_it_went
from rundgang.core.floor.inspections import AtStart, Inspection, Measured
from rundgang.core.floor.instruments import Signal
from rundgang.core.floor.now import roots
from rundgang.core.learning.facts import UNSAID, TakenLesson, said_by, with_taken
from rundgang.core.learning.lessons import Lesson, lessons_of
from rundgang.core.learning.observed import Find, LineRecord, Observed, all_observed, frictions
from rundgang.core.library import library_of
from rundgang.core.model import Id, Model
from rundgang.core.planning.model import LinePlan
from rundgang.core.scenario import Scenario
from rundgang.formats.clock import minute_of
from rundgang.formats.library_edits import Edit
from rundgang.jobs.following import Heard, followed_by, states_of
from rundgang.jobs.spells import Spell, spells
from rundgang.store.inspections import StoredFound
from rundgang.store.lessons import LeftLesson
from rundgang.store.repository import Repository

BACK_DAYS = 14
"""So far back the record is looked at."""

MOST_TAKEN = 100
"""So many lessons are taken at once."""


class LineLesson(Lesson):
    """A lesson, and how it was left, where it was and nothing has become known since that says otherwise."""

    left: LeftLesson | None


class LineLessons(Model):
    """What the record teaches about a line.

    Attributes
    ----------
    library : int
        The version that it is held against.
    days : int
        So far back the record was looked at.
    """

    line: Id
    name: str
    library: int
    days: int
    lessons: tuple[LineLesson, ...]


def line_lessons(store: Repository, clock: Clock, line: str) -> LineLessons:
    """What the record teaches about a line; UnknownItemError where there is no such line."""
    scenario, since = store.windows.scenario(), clock.now() - timedelta(days=BACK_DAYS)
    known, left = scenario.line(line), store.lessons.left(line)
    observed = [*_probed(store, clock, scenario, line, since)]
    for spell in spells(store, clock, since):
        observed += _observed(spell, line)
    return LineLessons(
        line=line,
        name=known.name,
        library=store.libraries.number(),
        days=BACK_DAYS,
        lessons=tuple(_with_left(lesson, left.get(lesson.key)) for lesson in lessons_of(scenario, line, observed)),
    )


def _with_left(lesson: Lesson, left: LeftLesson | None) -> LineLesson:
    still = left if left and left.low <= lesson.estimate.value <= left.high else None
    return LineLesson(**{name: getattr(lesson, name) for name in Lesson.model_fields}, left=still)


def _probed(
    store: Repository, clock: Clock, scenario: Scenario, line: str, since: datetime
) -> Iterator[Observed]:  # fmt: skip
    """The doughs that were probed."""
    for product in scenario.made_on(line):
        for mixer in scenario.line(line).mixers(product.mixing.station).mixers:
            probes = store.probes.of(product.id, mixer)
            known = [(clock.shown_at(probe.created_at), probe.reading) for probe in probes]
            yield from frictions(product.id, mixer, [one for one in known if one[0] >= since])


def _observed(spell: Spell, line: str) -> Iterator[Observed]:
    """What the record of a window says of a line."""
    plan = next((plan for plan in spell.plans if plan.line == line), None)
    if plan is None or line not in {own.id for own in spell.scenario.plant.lines}:
        return
    counts, stood = _counts(spell, plan), tuple(_stood(spell, line))
    over = plan.model_copy(
        update={"runs": tuple(run for run in plan.runs if spell.begin < run.last_pack_min <= spell.until)}
    )
    record = LineRecord(
        scenario=spell.scenario,
        plan=_as_it_went(spell, over, counts, stood),
        counts=counts,
        stood=stood,
        watched=_watched(spell, counts),
        finds=tuple(_finds(spell, line)),
    )
    yield from all_observed(record)


def _counts(spell: Spell, plan: LinePlan) -> dict[str, Counted]:
    """What left each station that pieces pass."""
    starts_at, begin, until = spell.moments
    made = {step.station for run in plan.runs for step in spell.scenario.product(run.product).piece_steps}
    found = {
        station: spell.store.readings.counted(
            Signal(line=plan.line, station=station, quantity="count"), starts_at, begin, until
        )
        for station in sorted(made)
    }
    return {station: counted for station, counted in found.items() if counted}


def _stood(spell: Spell, line: str) -> Iterator[Stoppage]:
    return spell.store.readings.stoppages(states_of(spell.scenario.line(line)), *spell.moments)


def _as_it_went(
    spell: Spell, plan: LinePlan, counts: dict[str, Counted], stood: Sequence[Stoppage]
) -> LinePlan:  # fmt: skip
    made = [spell.scenario.product(run.product) for run in plan.runs]
    begins = {product.piece_steps[0].station for product in made if product.formula}
    ends = {product.piece_steps[-1].station for product in made}
    told = Heard(
        fed={station: counts[station] for station in sorted(begins & counts.keys())},
        packed={station: counts[station] for station in sorted(ends & counts.keys())},
        stood=roots(spell.scenario, plan.line, stood),
    )
    found = followed_by(told, spell.scenario, plan, spell.until)
    return as_it_went(plan, found)


def _watched(spell: Spell, counts: dict[str, Counted]) -> tuple[float, float] | None:
    """From when until when the instruments of a line were heard."""
    if not counts:
        return None
    begin = max(spell.begin, *(counted.since_min for counted in counts.values()))
    until = max(counted.known_until(spell.until) for counted in counts.values())
    return (begin, until) if begin < until else None


def _finds(spell: Spell, line: str) -> Iterator[Find]:
    """The checks of a line, as they were found, by what each asks for."""
    _, begin, until = spell.moments
    asked = {one.id: one for one in spell.store.inspections.newest().inspections.on(line)}
    products = {product.id for product in spell.scenario.products}
    for found in spell.store.inspections.found(line, begin, until):
        one = asked.get(found.inspection)
        if one and (found.product is None or found.product in products):
            yield _find(spell.scenario, one, found)


def _find(scenario: Scenario, one: Inspection, found: StoredFound) -> Find:
    return Find(
        at_min=minute_of(scenario, found.at),
        station=found.station,
        run=found.run,
        product=found.product,
        subject=one.asks.subject if isinstance(one.asks, Measured) else None,
        values=found.measured,
        good=found.good,
        at_start=isinstance(one.when, AtStart) and not isinstance(one.asks, Measured),
    )


def edits_for(scenario: Scenario, line: str, taken: Sequence[TakenLesson]) -> tuple[Edit, ...]:
    """The things of the library as they are with the lessons that are taken.

    Raises
    ------
    UnknownItemError
        It has no such line, product or station, or says nothing of the kind of it.
    """
    stations = tuple(station.id for station in scenario.line(line).stations)
    for lesson in taken:
        if lesson.product is not None:
            scenario.product(lesson.product)
        if lesson.station is not None and lesson.station not in stations:
            raise UnknownItemError("station", lesson.station, stations)
        said = said_by(scenario, line, lesson.kind, lesson.product, lesson.station or lesson.mixer)
        if said is None and lesson.kind not in UNSAID:
            raise UnknownItemError(f"{lesson.kind} of", str(lesson.product or lesson.station))
    library = library_of(scenario)
    after = with_taken(library, line, taken)
    lines = zip(library.plant.lines, after.plant.lines, strict=True)
    products = zip(library.products, after.products, strict=True)
    return (
        *(Edit(kind="lines", id=now.id, data=now.model_dump(mode="json")) for was, now in lines if was != now),
        *(Edit(kind="products", id=now.id, data=now.model_dump(mode="json")) for was, now in products if was != now),
    )


def origin_of_lessons(taken: Sequence[TakenLesson], author: str) -> str:
    """What the history of the library says of lessons that were taken."""
    kinds = ", ".join(dict.fromkeys(lesson.kind for lesson in taken))
    return f"{len(taken)} {'figure' if len(taken) == 1 else 'figures'} learnt from the record ({kinds}), by {author}"


def leave_lesson(store: Repository, line: str, left: LeftLesson) -> None:
    """Note that a lesson was looked at and left."""
    store.windows.scenario().line(line)
    store.lessons.leave(line, left)
    store.session.commit()
