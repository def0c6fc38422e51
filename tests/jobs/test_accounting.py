"""The account over windows that go on: against the plant's own counters, by the plan and the library of each time."""

import io
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from itertools import pairwise
from uuid import uuid4

import pytest
from openpyxl import load_workbook

from rolled import DAY_MIN, END_MIN, rolled
from rundgang.clock import Clock
from rundgang.core.library import library_of
from rundgang.formats.account_files import account_page, account_workbook, table_workbook
from rundgang.formats.accounted import LineAccount, Note, Pulled
from rundgang.formats.clock import zone_of
from rundgang.formats.library_edits import Edit
from rundgang.instruments.simulated.chance import Chance
from rundgang.instruments.simulated.plant import SimulatedPlant
from rundgang.jobs.account_tables import NO_SHIFTS, account_table
from rundgang.jobs.accounting import NothingCountedError, line_account
from rundgang.jobs.libraries import change_library
from rundgang.store.cluster import Urls
from rundgang.store.repository import Repository

pytestmark = pytest.mark.whole

LINE = "ring-line"

Worked = tuple[Repository, SimulatedPlant]


@pytest.fixture
def worked(urls: Urls) -> Iterator[Worked]:
    with rolled(urls, LINE, Chance(5)) as found:
        yield found


def at(store: Repository, minute: float) -> datetime:
    """A moment by minutes from the first window's start."""
    return store.windows.all()[-1].starts_at + timedelta(minutes=minute)


def clock(store: Repository) -> Clock:
    return Clock(at(store, END_MIN))


def whole(store: Repository) -> LineAccount:
    """Of all hours that were read."""
    return line_account(store, clock(store), LINE, at(store, 0), at(store, END_MIN))


def test_hours_of_two_windows_are_each_there_once_and_count_what_the_plant_did(worked: Worked) -> None:
    store, plant = worked
    found = whole(store)
    hours = found.account.hours
    assert len(hours) == END_MIN // 60
    assert all(one.until_min == then.from_min for one, then in pairwise(hours))
    moved = (store.windows.scenario().window.starts_at - plant.began).total_seconds() / 60
    assert hours[0].from_min + moved == pytest.approx(0)
    ends = {product.piece_steps[-1].station for product in store.windows.scenario().made_on(LINE)}
    for hour in hours:
        begin, until = hour.from_min + moved, hour.until_min + moved
        own = sum(plant.count(LINE, one, until) - plant.count(LINE, one, begin) for one in ends)
        assert hour.made == pytest.approx(own, abs=40), "the count of the minute in which the hour ends"
        assert sum(loss.packs for loss in hour.losses) == hour.planned - hour.made
    total = sum(plant.count(LINE, one, END_MIN - 1) for one in ends)
    assert found.account.made == pytest.approx(total, abs=1)
    assert sum(run.made for run in found.runs) == found.account.made


def test_an_hour_is_held_beside_the_plan_of_its_own_window(worked: Worked) -> None:
    """What was published last in the first window says what was planned before it went on, in the second behind it."""
    store, _ = worked
    first, second = (Repository(store.session, note.number) for note in reversed(store.windows.all()))
    for own, begin, until in ((first, 0, DAY_MIN), (second, DAY_MIN, END_MIN)):
        published = own.plans.published()
        assert published
        plan = next(plan for plan in own.plans.version(published.version).plan.plans if plan.line == LINE)
        moved = (own.windows.scenario().window.starts_at - at(store, 0)).total_seconds() / 60
        due = sum(
            run.packs
            for run in plan.giving
            if begin <= run.first_pack_min + moved and run.last_pack_min + moved <= until
        )
        found = line_account(store, clock(store), LINE, at(store, begin), at(store, until))
        assert found.account.planned >= due
        assert found.account.planned <= sum(run.packs for run in plan.giving)


def test_a_library_that_changes_later_changes_nothing_of_what_was(worked: Worked) -> None:
    store, _ = worked
    before = line_account(store, clock(store), LINE, at(store, 0), at(store, DAY_MIN))
    library = library_of(store.windows.scenario())
    product = next(one for one in library.products if one.line == LINE)
    edit = Edit(kind="products", id=product.id, data=product.model_dump(mode="json") | {"bake_loss": 0.2})
    assert change_library(store, store.libraries.number(), (edit,), "a wetter crumb").note
    after = line_account(Repository(store.session), clock(store), LINE, at(store, 0), at(store, DAY_MIN))
    assert (after.account, after.runs, after.given) == (before.account, before.runs, before.given)


def test_days_weeks_and_thirds_of_days_add_up_and_say_what_they_are(worked: Worked) -> None:
    store, _ = worked
    alone = whole(store)
    for by in ("day", "week", "shift"):
        found = account_table(store, clock(store), by, LINE, at(store, 0), at(store, END_MIN))
        assert found.total == alone.tally
        for figure in ("planned", "produced", "good", "busy_min", "production_min"):
            rows = sum(getattr(row.tally.figures, figure) for row in found.rows)
            assert rows == pytest.approx(getattr(found.total.figures, figure))
        assert all(one.until == then.since for one, then in pairwise(found.rows))
        assert found.says == (NO_SHIFTS if by == "shift" else "")
    zone = zone_of(store.windows.scenario())
    book = load_workbook(io.BytesIO(table_workbook(found, zone)))
    rows = list(book["By shift"].iter_rows(min_row=2, values_only=True))
    assert len(rows) == len(found.rows) + 1
    assert [row[1].hour for row in rows[1:-1]] == [one.since.astimezone(zone).hour for one in found.rows[1:]]
    assert {one.since.astimezone(zone).hour for one in found.rows[1:]} <= {6, 14, 22}


def test_a_stop_that_somebody_told_leads_to_its_entry(worked: Worked) -> None:
    store, _ = worked
    one = next(one for one in whole(store).stood if one.until_min is not None)
    assert (one.stop, one.cause) == (None, "")
    starts_at = store.windows.scenario().window.starts_at.astimezone(UTC)
    began, ended = (starts_at + timedelta(minutes=minute) for minute in (one.from_min, one.until_min or 0))
    number = store.stops.begin(LINE, one.station, began, began, "Ida")
    store.stops.note(number, "cause", began, {"cause": "it jams", "exactly": "pieces across"}, "Ida")
    store.stops.note(number, "runs", ended, {}, "Ida")
    store.session.commit()
    found = whole(store)
    told = next(this for this in found.stood if this.from_min == one.from_min)
    assert (told.stop, told.cause) == (number, "it jams: pieces across")
    causes = {loss.cause for hour in found.account.hours for loss in hour.losses if loss.station == one.station}
    assert causes <= {"it jams: pieces across", ""}


def test_paper_and_workbook_say_what_was_told_and_escape_it(worked: Worked) -> None:
    store, _ = worked
    moment = at(store, 600).astimezone(UTC)
    store.evening.hand_over(Note(uuid=uuid4(), line=LINE, says="<b>hot</b> belt", at=moment, author="Ida & Per"))
    for cause, pieces in (("shape", 12), ("sample", 3), ("shape", 8)):
        store.evening.pull(
            Pulled(
                uuid=uuid4(), line=LINE, station="oven", run=None, product=None, pieces=pieces, cause=cause,
                at=moment, note="", author="Ida",
            )
        )  # fmt: skip
    store.session.commit()
    found, zone = whole(store), zone_of(store.windows.scenario())
    assert [(off.cause, off.packs, off.pieces) for off in found.off] == [("shape", 0, 20), ("sample", 0, 3)]
    page = account_page(found, zone)
    assert "&lt;b&gt;hot&lt;/b&gt; belt" in page
    assert "Ida &amp; Per" in page
    assert f"<b>{found.account.made:,} of {found.account.planned:,} packs</b>" in page
    book = load_workbook(io.BytesIO(account_workbook(found, zone)))
    assert book.sheetnames == ["Hours", "Causes", "Runs", "Off"]
    hours = list(book["Hours"].iter_rows(min_row=2, values_only=True))
    assert sum(row[4] for row in hours) == found.account.planned - found.account.made
    runs = list(book["Runs"].iter_rows(min_row=2, values_only=True))
    assert sum(row[3] for row in runs) == found.account.made
    off = list(book["Off"].iter_rows(min_row=2, values_only=True))
    assert sorted((row[4], row[2]) for row in off) == [("sample", 3), ("shape", 8), ("shape", 12)]


def test_of_a_line_that_nothing_counts_that_is_said(worked: Worked) -> None:
    store, _ = worked
    early = Clock(at(store, -60))
    with pytest.raises(NothingCountedError, match="Ring line"):
        line_account(store, early, LINE, at(store, -300), at(store, -60))
