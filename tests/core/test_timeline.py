"""The chart's data against the plan it draws, worked out again piece by piece."""

from datetime import date

import pytest

from plants import belt, make_plan, mixers, on_belt, product, scenario
from rundgang.core.planning.timeline import timeline
from rundgang.demo.ring_line import ring_line

DAY = ring_line(date(2026, 3, 11))
PLAN = make_plan(DAY, "ring-line")
LAID = timeline(DAY, PLAN)


def test_a_ribbon_follows_its_first_and_last_piece() -> None:
    """Each station's first and last moment, by adding dwell and transfer step by step."""
    line = DAY.plant.lines[0]
    for run, ribbon in zip(PLAN.runs, LAID.ribbons, strict=True):
        made = DAY.product(run.product)
        now = run.start_min
        assert [stop.station for stop in ribbon.stops] == [step.station for step in made.piece_steps]
        for stop, step in zip(ribbon.stops, made.piece_steps, strict=True):
            station = line.station(step.station)
            inside = run.dwell_min.get(
                step.station, float(getattr(step, "dwell_min", getattr(station, "pass_min", 0.0)))
            )
            assert stop.first_in == pytest.approx(now)
            assert stop.last_in == pytest.approx(now + run.feed_min)
            assert stop.first_out == pytest.approx(now + inside)
            assert stop.last_out == pytest.approx(now + inside + run.feed_min)
            now += inside + station.transfer_min
        assert ribbon.stops[-1].first_out == pytest.approx(run.first_pack_min)
        assert ribbon.stops[-1].last_out == pytest.approx(run.last_pack_min)


def test_pieces_inside_follow_littles_law_through_the_yields() -> None:
    """Little's law at the proofer, the oven and the cooler, with what the yields have left."""
    for run, ribbon in zip(PLAN.runs, LAID.ribbons, strict=True):
        flow = run.scaled_per_h / 60
        for stop, step in zip(ribbon.stops, DAY.product(run.product).piece_steps, strict=True):
            dwell = stop.first_out - stop.first_in
            assert stop.inside == pytest.approx(flow * min(dwell, run.feed_min))
            flow *= step.yield_ / float(step.conversion)


def test_no_belt_holds_more_than_its_places() -> None:
    places = {"proofer": 9_900, "oven": 2_480, "cooler": 7_300}
    for ribbon in LAID.ribbons:
        for stop in ribbon.stops:
            assert stop.inside <= places.get(stop.station, 1e9) * (1 + 1e-9)


def test_busy_shares_are_shares_of_the_plan() -> None:
    rows = {row.name: row for row in LAID.rows}
    assert list(rows)[:3] == ["Mixer Alder", "Mixer Birch", "Divider"]
    assert all(0 <= row.busy_share <= 1 for row in LAID.rows)
    mixed = sum(b.discharged_min - b.start_min for run in PLAN.runs for b in run.batches if b.mixer == "Mixer Alder")
    assert rows["Mixer Alder"].busy_share == pytest.approx(mixed / (LAID.to_min - LAID.from_min))
    skipped = sum(run.feed_min for run in PLAN.runs if run.product == "pear-cardamom")
    lost = rows["Divider"].busy_share - rows["Slicer"].busy_share
    assert lost == pytest.approx(skipped / (LAID.to_min - LAID.from_min)), "pears are not sliced"


def test_curves_rise_and_end_at_the_sums() -> None:
    assert [p.packs for p in LAID.made] == sorted(p.packs for p in LAID.made)
    assert [p.minute for p in LAID.due] == sorted(p.minute for p in LAID.due)
    assert LAID.made[-1].packs - LAID.due[-1].packs == PLAN.score.surplus_packs


def test_neighbours_meet_where_they_come_closest() -> None:
    """By trying every station the two share: nowhere is less to spare."""
    for meeting in LAID.meetings:
        ahead, behind = (
            next(ribbon for ribbon in LAID.ribbons if ribbon.run == run) for run in (meeting.first, meeting.then)
        )
        first = {stop.station: stop for stop in ahead.stops}
        white = {
            stop.station: stop.first_in - first[stop.station].last_in for stop in behind.stops if stop.station in first
        }
        assert meeting.to_min - meeting.from_min == pytest.approx(white[meeting.station])
        assert meeting.spare_min == pytest.approx(white[meeting.station] - meeting.needed_min, abs=1e-6)


def test_runs_of_one_product_without_orders_between_are_one_ribbon() -> None:
    plant = scenario(
        [belt("oven")],
        [product("roll", [on_belt("oven", 10)])],
        [("roll", 200.0, 500), ("roll", 400.0, 500)],
        mixing=mixers(),
    )
    laid = timeline(plant, make_plan(plant, "line"))
    assert (len(laid.ribbons), laid.meetings) == (1, ())
    assert [point.packs for point in laid.due] == [500, 1_000, 1_000]
