"""The tables that the decoder works on: what does not change from order to order, what is fixed, and the result.

Each table is an array of records with named fields, one record a thing. P products are mixed; D are delivered
(those behind the P are cut out of them); a route has up to L legs; U units stand in the dough rooms; all of one
shop, that is of all lines that share something. Times in minutes from the window's start, masses in kg, paces in
pieces scaled an hour.
"""

from typing import NamedTuple

import numpy as np

from rundgang.core.compiled import Floats, Ints, Records

SAME_MOMENT_MIN = 1e-9
"""Two times closer than this are the same moment, min."""

WHOLE = 1e-9
"""A count this little off a whole number is that number: what a product of yields loses as a float."""

CRUMB_KG = 1e-6
"""So little of a filling is none, kg."""

CLOSED = -1
"""Class of what is not free and needs no cleaning: a unit that is closed."""


def _record(whole: str = "", real: str = "") -> np.dtype[np.void]:
    """A record of whole numbers and of real ones, by their names."""
    return np.dtype([(name, np.int64) for name in whole.split()] + [(name, np.float64) for name in real.split()])


PRODUCT = _record(
    "article classes line legs dough least most policy cap first_stream end_stream first_closing end_closing "
    "first_meet end_meet first_use end_use first_cooler end_cooler first_tool end_tool first_draw end_draw cut_of "
    "cut_leg",
    "lead tail ratio kg age_span cut_ratio cut_tail most_c",
)
"""What is mixed, the heat classes of a product one after the other, the coolest first: the first of them, and how many;
place of its line; how many legs; which dough it is of; pieces in a dough, at least and at most; choice for the odd
last dough; packs a run may give; where its streams, closings, meetings, uses of people, coolers, tools and draws
begin and end; what is delivered beside, or -1, and the leg of its cutter. From the first thing begun for it to its
first piece; from the last leg's start to the first pack; pieces scaled a pack; of a piece scaled, kg; from rest to
age; of what is cut out, pieces scaled a pack, and from its leg's start to its first pack. The warmest air in which it
cools enough, °C."""

LEG = _record("store", "pace span slack waits share hold entry")
"""A leg, shape (P, L): the store before it, or -1; what it carries. Before it: from the start of the leg before at
the least hold; most beyond that; pieces that each piece waits for, times 60; share of the store that one piece fills;
least hold and turn-round; entry behind the start of the leg before."""

STREAM = _record("leg first_need end_need filling", "offset ratio least most age_span keeps")
"""Batches made for a run: doughs first, then a stream of each filling. Where it is used, behind the start of that leg;
where its needs begin and end; which filling it is, -1 of doughs; of a filling, kg for a piece scaled, kg in a batch,
from ready to its most age, and what its tank holds."""

NEED = _record("pool how class_", "before length")
"""A unit that a batch takes: of which pool; how long (`FOR_A_TIME`, `UNTIL_USED`, `FOR_THE_RUN`); what is in it, for
the cleaning; minutes before the batch is used, and minutes taken."""

FOR_A_TIME, UNTIL_USED, FOR_THE_RUN = 0, 1, 2

POOL = _record("first end")
"""Units that are counted together."""

CLOSING = _record("leg", "low high")
"""A leg may not start between `low` less its feeding time and `high`."""

MEETING = _record("at leg", "offset")
"""Passage of a machine that lines share: which, by which leg, how long behind its start."""

OVEN = _record("leg", "offset dwell heat_up")
"""Passage of an oven, shape (P, O); leg -1 where a product skips it; from cold to the product's temperature."""

COOLER = _record("leg", "offset dwell")
"""Passage of a cooler in the room's air."""

CREW_USE = _record("crew come_leg go_leg", "people come go")
"""People needed from the start of a leg + `come` to the end of a leg's feeding + `go`."""

TOOL = _record("by_days", "life renew worn")
"""A tool that wears: whether by days; its life, strokes or minutes; how long its station stands to renew it, min; how
far it is worn when the window starts."""

TOOL_USE = _record("tool wears leg", "offset stay per_piece per_min")
"""A station with a tool: whether it is worn there, or only in the way of its renewal; entered so long behind the start
of a leg, by pieces that stay so long; wear a piece scaled, and a minute from the first piece in to the last out."""

RENEWAL = _record("tool", "until")
"""A closing in which a tool is renewed, by when it ends."""

SUPPLY = _record("stock", "at amount")
"""What there is of a material that binds, and what comes, by time: kg or pieces."""

DRAW = _record("stock stream leg", "offset per_unit per_batch")
"""What a run draws of a material that binds: for each of its doughs, so long behind the start of a leg, stretched as
that leg is fed; or for each batch of a filling, behind the moment when that is begun to be used. For a piece scaled or
a kg of the filling; and a batch, what rounding to grams may add. `stream` is -1 for doughs."""

DUE = _record("product packs", "departs fresh good weight")
"""What a lorry is due, by departure: until when packs can be loaded, from when they must be made; what one counts."""

LOT = _record("product packs", "made")
"""Packs of something delivered that are in stock, and when they were made; each product's in the order of that."""


class Rooms(NamedTuple):
    """The dough rooms: what batches need, and which units there are.

    Attributes
    ----------
    leaves : array, shape (K, K)
        What one thing leaves in a unit that the next must not carry, by class, the products, then the preparations:
        nothing, a trait, an allergen, or both: 0 to 3.
    cleaning : array, shape (pools, 4)
        Minutes that it takes to clean that away.
    """

    needs: Records
    pools: Records
    leaves: Ints
    cleaning: Floats


class ShopArrays(NamedTuple):
    """All that does not change from order to order.

    Attributes
    ----------
    headway : array, shape (P, P, L, L)
        From the end of a leg of the first to the start of a leg of the next, min; -inf where none.
    meet_gap : array, shape (M, M)
        From the last piece in of one meeting to the first piece in of another, min; -1 where they do not meet.
    absences : array
        People of crews who are away, `AT_WORK`.
    crew_size : array
        People in each crew.
    set_free : array, shape (P, L)
        The earliest start of a leg by what its stations were set to before the window, min; -inf where by none.
    air : array, shape (hours,)
        The room's air by the hour, °C; a later hour is as the last.
    stocks : int
        Materials that bind.
    now, window : float
        Nothing is begun before; the window's length, min.
    """

    products: Records
    legs: Records
    streams: Records
    rooms: Rooms
    closings: Records
    meetings: Records
    ovens: Records
    coolers: Records
    uses: Records
    absences: Records
    tools: Records
    tool_uses: Records
    renewals: Records
    supplies: Records
    draws: Records
    dues: Records
    lots: Records
    headway: Floats
    meet_gap: Floats
    crew_size: Floats
    set_free: Floats
    air: Floats
    lines: int
    stocks: int
    delivered: int
    now: float
    window: float


TIME = _record("", "start feed")
"""Of a leg of a run, min."""

FIXED_RUN = _record("product packs pieces last trough", "last_at begun into")
"""A run that stays: its product, packs and pieces; its last dough as `RUN` has it."""

UNIT_USE = _record("unit class_", "begin end")


DRAWN = _record("stock", "at amount")
"""What has been drawn of a material that binds, and when."""


KEPT = _record("by tank", "kg begin free old")
"""What is left of a filling: by which run, -1 where none is; in which tank, taken since `begin`; how much, kg; until
when it is drawn on, and from when it is too old."""


class Fixed(NamedTuple):
    """What no order moves: runs begun or kept as planned, and what they take.

    Attributes
    ----------
    times : array, shape (F, L)
    kept : array, shape (fillings,)
        What they leave of each filling.
    used : array, shape (F, S)
        What they use of fillings that other runs have left, by stream, kg.
    """

    runs: Records
    times: Records
    taken: Records
    drawn: Records
    kept: Records
    used: Floats


ITEM = _record("product packs policy", "fresh leaves pin hold share was")
"""An order item: made before `fresh` is too old; the lorry leaves; start asked for by the planner, NaN where free; no
start before; pace asked for, of the line's; choice for the odd last dough, -1 for the product's; start in the
published plan, NaN where it has none."""

RUN = _record(
    "product item pieces packs wanted policy cause cause_of first_slot end_slot shared shared_of last trough",
    "pace idle last_at begun into",
)
"""A run: its first item, -1 of a fixed one; what keeps it from starting earlier (`runs` names the causes), and which
run, pool or crew that is; where its units stand; pieces that the last dough of a run before it gives, and which run
that is; pieces of its own last dough, 0 where it has none, and the trough, -1 without one. White time at the divider
that the change before it costs; when its last dough is begun to be divided; when the first thing is begun for that, and
when it comes into its trough."""


class Runs(NamedTuple):
    """Runs with times: the fixed ones first, then those decoded.

    Attributes
    ----------
    of, times : array, shape (R,), (R, L)
    joins : array, shape (N,)
        By item, the run it became part of, or whose surplus it takes; `LEFT_OUT` where it is not made.
    heads : array, shape (N,)
        By item, the first of those that it was gathered with.
    slot_unit : array
        The units of what is made for each run, one after the other.
    kept, kept_by : array, shape (R, S)
        By stream of a run, what it uses of a filling that a run before it has left, kg, and which run that is.
    """

    of: Records
    times: Records
    joins: Ints
    heads: Ints
    slot_unit: Ints
    kept: Floats
    kept_by: Ints


STRETCH = _record("class_", "begin end")
AT_WORK = _record("crew", "come go people")
OVER = _record("packs by", "since")
SETTLING = _record("bound_by", "low high bound feed")
STAND = _record("", "enter feed exit leave share")
WORN = _record("", "worn since left")
LEVEL = _record("", "at amount")


class Units(NamedTuple):
    """What units have taken.

    Attributes
    ----------
    uses : array, shape (U, room)
        What each unit has taken, the first `filled` of each, by time.
    last : array, shape (pools,)
        The unit of each that was taken last. It is asked first: what is made one after another is mostly alike, and
        stays apart from what is made beside it, so that less is cleaned.
    """

    uses: Records
    filled: Ints
    last: Ints


class State(NamedTuple):
    """Working room: units with their stretches, people at work, packs over, and the run at hand.

    Attributes
    ----------
    line_end, line_last : array, shape (lines,)
        When the last run of a line has been fed, -inf before the first; and which run that is, -1 before it.
    over : array, shape (P,)
        Packs over from an earlier run, when they were made, and which run that is.
    settling : array, shape (L,)
        Of the run at hand: how long a leg starts behind the one before, at least and at most; its earliest start by
        headways, and the run that sets it; how long it is fed, min.
    stands : array
        Runs that stand in the store at hand: since when and for how long each comes in, and leaves; share of the store.
    near : array
        Stretches of people at work beside the run at hand.
    could : array
        When the run at hand could end in each of its heat classes, min.
    next_place, next_of_line : array
        By place in the order, the next of its line; by line, the first.
    sizes, used : array
        Pieces of its doughs; when each batch of the stream at hand is begun to be used, behind the stream's start, min.
    tools : array
        How far each tool is worn, since when it has been in, and when the last run left it.
    drawn : array, shape (S, room)
        What has been drawn of each material that binds, the first `draws` of each, by time.
    own : array
        What the run at hand draws of one of them, by time.
    kept : array, shape (fillings,)
        What is left of each filling.
    """

    units: Units
    people: Records
    line_end: Floats
    line_last: Ints
    over: Records
    settling: Records
    stands: Records
    near: Ints
    could: Floats
    sizes: Ints
    used: Floats
    next_place: Ints
    next_of_line: Ints
    tools: Records
    drawn: Records
    draws: Ints
    own: Records
    kept: Records
