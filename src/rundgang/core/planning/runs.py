"""From runs placed in a search to the plan's own models: batches with their mixers and troughs, and what binds."""

from rundgang.core.batching import dough_grams
from rundgang.core.planning.decode import Placed, Slot, cut_beside
from rundgang.core.planning.plan import Batch, Binding, CutRun, PreparationSlot, Reason, Run
from rundgang.core.planning.shop import Shop
from rundgang.core.products import Product


def as_runs(shop: Shop, placed: tuple[Placed, ...]) -> tuple[Run, ...]:
    """The plan's runs, numbered in order, with batches and what binds each start."""
    return tuple(
        Run(
            id=f"R{number}",
            product=run.product,
            line=shop.line.id,
            start_min=run.start_min,
            feed_min=run.feed_min,
            scaled_per_h=run.scaled_per_h,
            pieces=sum(run.split.pieces),
            packs=run.packs,
            packs_wanted=run.packs_wanted,
            first_pack_min=run.first_pack_min,
            last_pack_min=run.last_pack_min,
            batches=_batches(shop, shop.products[run.product], run),
            split=run.split,
            binding=_binding(shop, run, placed),
        )
        for number, run in enumerate(placed, start=1)
    )


def as_cut_runs(shop: Shop, placed: tuple[Placed, ...]) -> tuple[CutRun, ...]:
    """What the plan's runs give beside their own packs."""
    return tuple(
        CutRun(
            run=f"R{number}",
            product=beside.product,
            packs=beside.packs,
            first_pack_min=beside.first_pack_min,
            last_pack_min=beside.last_pack_min,
        )
        for number, run in enumerate(placed, start=1)
        for beside in cut_beside(shop, (run,))
    )


def _batches(shop: Shop, product: Product, run: Placed) -> tuple[Batch, ...]:
    return tuple(_batch(shop, product, number, slot) for number, slot in enumerate(run.slots, start=1))


def _batch(shop: Shop, product: Product, number: int, slot: Slot) -> Batch:
    used = iter(zip(shop.needs[product.id], slot.units, strict=True))

    def take() -> tuple[str, float]:
        need, unit = next(used)
        return shop.units(need.station)[unit], slot.divided - need.before_min

    grams = dough_grams(product, slot.pieces)
    mixer, begin = take()
    trough = take()[0] if product.trough else None
    prepared = []
    for made, share in shop.scenario.preparations_in(product):
        kettle, started = take()
        prepared.append(
            PreparationSlot(
                preparation=made.id,
                mixer=kettle,
                start_min=started,
                discharged_min=started + made.mixing.cycle_min,
                used_min=begin,
                position=take()[0] if made.held else None,
                grams=round(grams * share),
            )
        )
    return Batch(
        number=number,
        mixer=mixer,
        start_min=begin,
        discharged_min=begin + product.mixing.cycle_min,
        divided_min=slot.divided,
        last_piece_min=slot.last,
        pieces=slot.pieces,
        dough_g=grams,
        trough=trough,
        preparations=tuple(prepared),
    )


def _binding(shop: Shop, run: Placed, placed: tuple[Placed, ...]) -> Binding:
    if run.after is None:
        return Binding(kind=run.waits)
    before = f"R{run.after + 1}"
    if run.waits == "mixers":
        station = run.waits_at or shop.line.stations[0].id
        cleaned: tuple[Reason, ...] = shop.mixer_cleaning.get((station, placed[run.after].product, run.product), ())
        name = shop.line.station(station).name
        return Binding(kind="mixers", after=before, station=station, where=name, reasons=cleaned)
    pair = shop.headways[placed[run.after].product, run.product]
    return Binding(
        kind="headway",
        after=before,
        station=pair.station,
        where=shop.line.station(pair.station).name,
        gap_min=pair.gap.minutes,
        reasons=pair.gap.reasons,
    )
