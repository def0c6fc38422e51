"""All nouns of the store through one database session, of the newest window or of an earlier one."""

from sqlmodel import Session

from rundgang.store.books import Books
from rundgang.store.calendars import Calendars
from rundgang.store.evening import Evening
from rundgang.store.inspections import InspectionsRows
from rundgang.store.instruments import InstrumentsRows
from rundgang.store.lessons import Lessons
from rundgang.store.libraries import Libraries
from rundgang.store.lots import Lots
from rundgang.store.mappings import Mappings
from rundgang.store.memory import Memory, memory_of
from rundgang.store.mock_recalls import MockRecalls
from rundgang.store.openings import Openings
from rundgang.store.plans import Basis, Plans
from rundgang.store.plants import Plants
from rundgang.store.probes import Probes
from rundgang.store.readings import Readings
from rundgang.store.stops import Stops
from rundgang.store.sure_plans import SurePlans
from rundgang.store.upkeep import Upkeep
from rundgang.store.windows import Windows


class Repository:
    """The nouns, each with its own rows."""

    def __init__(self, session: Session, window: int | None = None) -> None:
        self.session = session
        self.windows, self.books, self.libraries = Windows(session, window), Books(session, window), Libraries(session)
        self.openings, self.plans = Openings(session, window), Plans(session, window)
        self.probes, self.calendars = Probes(session, window), Calendars(session)
        self.plants, self.mappings = Plants(session, window), Mappings(session)
        self.instruments, self.readings = InstrumentsRows(session), Readings(session)
        self.inspections, self.stops = InspectionsRows(session), Stops(session, window)
        self.lots, self.lessons, self.upkeep = Lots(session, window), Lessons(session), Upkeep(session)
        self.evening, self.mock_recalls = Evening(session), MockRecalls(session)
        self.sure_plans = SurePlans(session)

    @property
    def memory(self) -> Memory:
        """What was read from rows that never change."""
        return memory_of(self.session.get_bind())

    def basis(self) -> Basis:
        """What a plan made now would be made of."""
        book, opening = self.books.newest(), self.openings.newest()
        openings = frozenset({opening.number, opening.restores})
        return Basis(frozenset({book.number, book.restores}), self.libraries.number(), openings)
