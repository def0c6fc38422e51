"""What the API answers beyond the core's own models."""

from datetime import datetime, time

from pydantic import Field

from rundgang.api.deps import Author
from rundgang.core.conditions import Conditions
from rundgang.core.dough.card import BatchCard
from rundgang.core.doughs import BatchSplit
from rundgang.core.model import Model, Text
from rundgang.core.order_changes import OrderChange
from rundgang.core.orders import Order, Wave, Window
from rundgang.core.planning.check.violation import Violation
from rundgang.core.planning.model import LinePlan
from rundgang.core.planning.timeline import Timeline
from rundgang.core.shifts import Shift
from rundgang.core.units import System
from rundgang.core.weather import WetSpell
from rundgang.core.whatif import Setting
from rundgang.formats.orders_csv import OrderFile
from rundgang.store.books import Book


class ProductView(Model):
    """A product as the navigation needs it; `elsewhere` names the same article on other lines."""

    id: str
    name: str
    line: str
    family: str
    piece: str
    pieces: str
    pieces_per_pack: int
    target_per_hour: float
    allergens: tuple[str, ...]
    traits: tuple[str, ...]
    same_as: str | None
    elsewhere: tuple[str, ...]


class LineView(Model):
    """A line as the navigation needs it."""

    id: str
    name: str


class PlanState(Model):
    """The newest plan of a line in a nutshell; stale when orders or library have changed since."""

    line: str
    number: int
    book: int
    stale: bool
    packs_short: int
    violations: int
    first_dough_min: float | None


class WindowView(Model):
    """The day that is being planned, and how far it has come; and when the room is warmest, on the plant's clock.

    Attributes
    ----------
    number, newest : int
        Of the window, and of the one that is planned now.
    wet : tuple of WetSpell
        Hours to come in which the room is expected to be wet.
    goes_on_min : float
        When the window before went on to it, from its start, min; 0 where there was none.
    """

    number: int
    newest: int
    goes_on_min: float
    plant: str
    town: str
    time_zone: str
    window: Window
    now_min: float
    clock_speed: float
    clock_simulated: bool
    waves: tuple[Wave, ...]
    shifts: tuple[Shift, ...]
    conditions: Conditions
    conditions_now: Conditions
    warmest_at: time | None
    wet: tuple[WetSpell, ...]
    lines: tuple[LineView, ...]
    products: tuple[ProductView, ...]
    book: Book
    orders: int
    packs: int
    plans: tuple[PlanState, ...]
    library: int


class BeyondLorry(Model):
    """A lorry that leaves behind the window."""

    name: str
    leaves: datetime


class BeyondOrder(Model):
    """An order that is not planned yet; without a lorry where the one it was for does not leave."""

    order: Order
    lorry: BeyondLorry | None


class LorryAhead(BeyondLorry):
    """A lorry for which orders can be entered."""

    id: str


class OrdersView(Model):
    """The orders of the newest book: for the window's lorries, and beyond them; and the lorries that are to leave."""

    book: Book
    orders: tuple[Order, ...]
    beyond: tuple[BeyondOrder, ...] = ()
    ahead: tuple[LorryAhead, ...] = ()


class Reading(Model):
    """What is said beside readings.

    Attributes
    ----------
    units : {"metric", "us"}
        In which they were typed.
    confirmed : bool
        Whether those that hardly can be were looked at again.
    """

    units: System = "metric"
    confirmed: bool = False


class WithdrawalRequest(Model):
    """Why a reading does not count."""

    reason: Text = Field(min_length=1, max_length=120)
    author: Author = "planner"


class ReadView(Model):
    """What a file of orders says, and what would differ if it took the place of the day's; nothing is taken."""

    file: OrderFile
    packs: int
    changes: tuple[OrderChange, ...] = ()


class BalanceRequest(Model):
    """At what pace a line is balanced, finished pieces/h, and what is set otherwise."""

    pace: float | None = Field(default=None, gt=0, le=1_000_000)
    setting: Setting = Setting()


class PlanView(Model):
    """A stored plan with all that its chart draws."""

    number: int
    created_at: datetime
    book: int
    library: int
    stale: bool
    plan: LinePlan
    timeline: Timeline
    violations: tuple[Violation, ...]


class CardsView(Model):
    """The batch cards of a line's plan in the order of the clock, and the version of the plant's plan that has it."""

    plan: int
    version: int
    line: str
    stale: bool
    cards: tuple[BatchCard, ...]


class OptionsView(Model):
    """The choices for the odd last batch of a run."""

    run: str
    product: str
    chosen: str
    options: tuple[BatchSplit, ...]
