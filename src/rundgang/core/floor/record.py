"""What a line has made by now: its batches and its packs, each with what it was made of.

Worked out of the plan as it went. Whoever weighs, counts or loads tells it better; of what nobody tells this is the
record.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import NamedTuple

from rundgang.core.dough.adjust import adjusted
from rundgang.core.dough.mixed import Dough, doughs, filling_key, preparation_key
from rundgang.core.dough.scaling import scale_formula
from rundgang.core.floor.fifo import Layer, first_in_first_out
from rundgang.core.floor.lots import UseKind
from rundgang.core.floor.packed import PackedPart, packed_parts
from rundgang.core.kinds.rate import cut_out_of
from rundgang.core.materials import packing_draws, step_draws
from rundgang.core.planning.model import Batch, CutRun, FillingBatch, LinePlan, Run
from rundgang.core.products import FormulaLine, Product
from rundgang.core.scenario import Scenario
from rundgang.core.units import GRAMS_PER_KG


class BatchName(NamedTuple):
    """By which a batch of a line is known: its run, and its card's key there."""

    run: str
    key: str


class Drawn(NamedTuple):
    """So much of a material goes in, when, and how: kg, or pieces of packing."""

    item: str
    amount: float
    at_min: float
    kind: UseKind


class Part(NamedTuple):
    """So much of a batch goes in, kg."""

    batch: BatchName
    kg: float


class MadeBatch(NamedTuple):
    """A dough, a preparation or a filling that has left its bowl.

    Attributes
    ----------
    item : str
        The preparation; of a dough its product.
    drawn : tuple of Drawn
        The ingredients, as its card says.
    mixed_in : tuple of Part
        The preparations.
    rework : Part or None
        What came back from the dough before it.
    """

    name: BatchName
    item: str
    mixer: str
    start_min: float
    done_min: float
    kg: float
    drawn: tuple[Drawn, ...]
    mixed_in: tuple[Part, ...] = ()
    rework: Part | None = None


class MadePacks(NamedTuple):
    """The packs of a dough that are off the line.

    Attributes
    ----------
    product : str
        The run's, or what is cut out of its pieces.
    is_cut : bool
        Whether it is the latter.
    doughs, put_on : tuple of Part
        What is in them of which dough and filling; of fillings that only met there, nothing.
    drawn : tuple of Drawn
        What their steps put on them from the materials, and what they are packed in.
    """

    run: str
    batch: int
    product: str
    is_cut: bool
    packs: int
    from_min: float
    to_min: float
    doughs: tuple[Part, ...]
    put_on: tuple[Part, ...]
    drawn: tuple[Drawn, ...]


def batch_begun(made: Iterable[MadeBatch], mixer: str, minute: float) -> BatchName | None:
    """The batch that a mixer begins with at a moment: the one that is to begin nearest to it there; None: it has none.

    Batches are weighed up before the ones ahead of them are mixed, so whichever was weighed does not tell.
    """
    own = (one for one in made if one.mixer == mixer)
    nearest = min(own, key=lambda one: abs(one.start_min - minute), default=None)
    return nearest.name if nearest else None


def made_batches(scenario: Scenario, plan: LinePlan, now_min: float) -> Iterator[MadeBatch]:
    """What has been mixed for a line by a moment, as its cards say."""
    before = dict[str, Dough]()
    for dough in doughs(plan):
        last = before.get(dough.run.id)
        for batch in _of_dough(scenario, dough, last):
            if batch.done_min <= now_min:
                yield batch
        before[dough.run.id] = dough
    for run in plan.runs:
        for filling in run.made_fillings:
            if filling.mixed_min <= now_min:
                yield _filling(scenario, run, filling)


def _of_dough(scenario: Scenario, dough: Dough, last: Dough | None) -> Iterator[MadeBatch]:
    run, whole = dough.run, dough.whole
    product = scenario.product(run.product)
    parts = list[Part]()
    for slot in whole.preparations:
        name = BatchName(run.id, preparation_key(whole, slot))
        parts.append(Part(name, slot.grams / GRAMS_PER_KG))
        yield MadeBatch(
            name=name,
            item=slot.preparation,
            mixer=slot.mixer,
            start_min=slot.start_min,
            done_min=slot.discharged_min,
            kg=slot.grams / GRAMS_PER_KG,
            drawn=_scaled(scenario, scenario.formula_of(slot.preparation), slot.grams, slot.start_min),
        )
    back = last.batch.pieces * product.reworked_g / GRAMS_PER_KG if last else 0.0
    yield MadeBatch(
        name=BatchName(run.id, str(whole.number)),
        item=product.id,
        mixer=whole.mixer,
        start_min=whole.start_min,
        done_min=whole.discharged_min,
        kg=whole.dough_g / GRAMS_PER_KG,
        drawn=_scaled(scenario, product.formula, whole.dough_g, whole.start_min),
        mixed_in=tuple(parts),
        rework=Part(BatchName(run.id, str(last.batch.number)), back) if last and back else None,
    )


def _filling(scenario: Scenario, run: Run, filling: FillingBatch) -> MadeBatch:
    return MadeBatch(
        name=_name_of(run, filling),
        item=filling.preparation,
        mixer=filling.kettle,
        start_min=filling.start_min,
        done_min=filling.mixed_min,
        kg=filling.grams / GRAMS_PER_KG,
        drawn=_scaled(scenario, scenario.formula_of(filling.preparation), filling.grams, filling.start_min),
    )


def _name_of(run: Run, filling: FillingBatch) -> BatchName:
    return BatchName(run.id, filling_key(filling))


def _scaled(scenario: Scenario, formula: tuple[FormulaLine, ...], grams: int, at_min: float) -> tuple[Drawn, ...]:
    """The materials of a batch as its card says; what is made in the house is not among them."""
    then = scenario.during(at_min)
    scaled = scale_formula(then, adjusted(then, formula).formula, grams)
    return tuple(
        Drawn(line.ingredient, line.grams / GRAMS_PER_KG, at_min, "mixed in")
        for line in scaled
        if line.role != "preparation"
    )


def made_packs(scenario: Scenario, plan: LinePlan, now_min: float) -> Iterator[MadePacks]:
    """What packs have come off a line by a moment, dough by dough."""
    made, cuts = _made_as(plan), {cut.run: cut for cut in plan.cut_runs}
    for run in plan.runs:
        product, cut = scenario.product(run.product), cuts.get(run.id)
        share = _cut_share(product)
        for packed in (run, *((cut,) if cut else ())):
            if packed.first_pack_min <= now_min:
                of_dough = share if isinstance(packed, CutRun) else 1 - share
                yield from _packs(scenario, made, run, packed, of_dough, now_min)


def _cut_share(product: Product) -> float:
    """How much of a product's dough is cut out and sold as another."""
    for place, step in enumerate(product.piece_steps):
        cut = cut_out_of(step)
        if cut and cut.product:
            return cut.grams / product.entering_g[place]
    return 0.0


def _packs(
    scenario: Scenario, made: "_MadeAs", run: Run, packed: Run | CutRun, of_dough: float, now_min: float
) -> Iterator[MadePacks]:  # fmt: skip
    parts, product = tuple(packed_parts(run, packed, of_dough)), scenario.product(packed.product)
    put_on, drawn = _put_on(made, run, packed, parts), _drawn(scenario, run, packed, product)
    before = 0
    for part, fillings in zip(parts, put_on, strict=True):
        if part.to_min <= now_min:
            yield MadePacks(
                run=run.id,
                batch=part.batch,
                product=product.id,
                is_cut=isinstance(packed, CutRun),
                packs=part.packs,
                from_min=part.from_min,
                to_min=part.to_min,
                doughs=tuple(Part(made.dough(run, number), grams / GRAMS_PER_KG) for number, grams in part.doughs),
                put_on=fillings,
                drawn=tuple(one for number in range(before + 1, part.batch + 1) for one in drawn.get(number, ())),
            )
        before = part.batch


def _put_on(
    made: "_MadeAs", run: Run, packed: Run | CutRun, parts: Sequence[PackedPart]
) -> tuple[tuple[Part, ...], ...]:  # fmt: skip
    """What of which filling is on the packs of each part: first in, first out of the tanks, blended where two meet."""
    found = [list[Part]() for _ in parts]
    names = dict.fromkeys(filling.preparation for filling in run.fillings) if packed is run else {}
    for name in names:
        own = [filling for filling in run.fillings if filling.preparation == name]
        total = sum(filling.used_g for filling in own)
        layers = [Layer(place, filling.used_g / GRAMS_PER_KG) for place, filling in enumerate(own)]
        a_pack = total / GRAMS_PER_KG / packed.packs
        blends = BLENDS_SHARE * min(layer.amount for layer in layers)
        shares = first_in_first_out(layers, [part.packs * a_pack for part in parts], blends)
        for place, of_part in enumerate(shares):
            known = [share for share in of_part if share.lot is not None]
            found[place] += [Part(made.filling(run, own[share.lot or 0]), share.amount) for share in known]
    return tuple(tuple(parts) for parts in found)


BLENDS_SHARE = 0.05
"""In a tank so much of the smaller of two batches is a blend of both where they meet (common practice)."""


def _drawn(
    scenario: Scenario, run: Run, packed: Run | CutRun, product: Product
) -> Mapping[int, tuple[Drawn, ...]]:  # fmt: skip
    """What goes on the pieces of each dough from the materials, and around their packs, by the dough's number."""
    found: dict[int, tuple[Drawn, ...]] = {}
    put_on = () if isinstance(packed, CutRun) else step_draws(scenario, run)
    for draw in put_on:
        found[draw.batch] = (*found.get(draw.batch, ()), Drawn(draw.item, draw.amount, draw.at_min, "put on"))
    for batch in run.batches:
        for draw in packing_draws(run, batch, product, packed):
            found[draw.batch] = (*found.get(draw.batch, ()), Drawn(draw.item, draw.amount, draw.at_min, "packed in"))
    return found


class _MadeAs(NamedTuple):
    """By which run and key a dough or a filling was made that another run takes the rest of."""

    doughs: Mapping[tuple[str, float], BatchName]
    fillings: Sequence[tuple[FillingBatch, BatchName]]

    def dough(self, run: Run, number: int) -> BatchName:
        """The name of a dough of a run, or of the one that it is the rest of."""
        batch = next(batch for batch in run.batches if batch.number == number)
        return self.doughs.get((batch.mixer, batch.start_min), BatchName(run.id, str(number)))

    def filling(self, run: Run, filling: FillingBatch) -> BatchName:
        """The name of a batch of a filling, or of the one that it is the rest of."""
        if not filling.kept:
            return _name_of(run, filling)
        return next((name for made, name in self.fillings if made.is_of(filling)), _name_of(run, filling))


def _made_as(plan: LinePlan) -> _MadeAs:
    batches: list[tuple[Run, Batch]] = [(run, batch) for run in plan.runs for batch in run.mixed]
    return _MadeAs(
        {(batch.mixer, batch.start_min): BatchName(run.id, str(batch.number)) for run, batch in batches},
        [(made, _name_of(run, made)) for run in plan.runs for made in run.made_fillings],
    )
