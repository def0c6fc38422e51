"""The command line from day to day: windows, calendar, stock, the whole plant; on files, or with DATABASE_URL."""

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated

import typer
from sqlmodel import Session

from rundgang.core.calendar import Calendar
from rundgang.core.errors import MalformedError, RundgangError
from rundgang.core.library import library_of
from rundgang.core.orders import Window
from rundgang.core.planning.past import opened
from rundgang.core.rolling.ahead import gone_on
from rundgang.files import errors_to_stderr, save
from rundgang.formats.clock import local_time, minute_of, zone_of
from rundgang.formats.documents import read_calendar, read_plan, read_scenario, read_whole_plant, write
from rundgang.formats.library_files import read_library, read_workbook, write_workbook
from rundgang.formats.orders_written import write_orders
from rundgang.formats.stock_csv import read_stock, write_stock
from rundgang.jobs.calendars import keep_calendar
from rundgang.jobs.entering import OnLineRequest, enter_run
from rundgang.jobs.founding import SOON, found
from rundgang.jobs.libraries import read_only, take_library
from rundgang.jobs.order_files import Mode, read_file, take_file
from rundgang.jobs.rolling import go_on
from rundgang.jobs.stocktaking import levels
from rundgang.jobs.stocktaking import take_file as take_stock
from rundgang.settings import Settings
from rundgang.store.database import connect
from rundgang.store.repository import Repository
from rundgang.store.windows import WindowNote

window_app = typer.Typer(no_args_is_help=True, help="The windows of the running plant.")
calendar_app = typer.Typer(no_args_is_help=True, help="The calendar of the running plant, in and out.")
plant_app = typer.Typer(no_args_is_help=True, help="The whole plant, in and out.")
stock_app = typer.Typer(no_args_is_help=True, help="Packs and materials of the running plant.")

library_app = typer.Typer(no_args_is_help=True, help="What the running plant is and makes, in and out.")

AUTHOR = "command line"

Out = Annotated[Path | None, typer.Option("--out", help="Write it here instead of on the screen.")]


@contextmanager
def running() -> Iterator[Repository]:
    """The plant that DATABASE_URL names."""
    url = Settings().database_url
    if not url:
        raise RundgangError("DATABASE_URL is not set. Allowed: the application's database, as its owner knows it.")
    engine = connect(url)
    with Session(engine) as session:
        yield Repository(session)
    engine.dispose()


def _out(text: str, out: Path | None) -> None:
    if out:
        save(out, text)
    else:
        typer.echo(text, nl=False)


def roll_command(
    scenario_file: Annotated[Path, typer.Argument(metavar="SCENARIO.json")],
    plan_file: Annotated[Path, typer.Argument(metavar="PLAN.json", help="The plan that is live on the floor.")],
    at: Annotated[datetime, typer.Option("--at", help="The moment, on the plant's clock.")],
    calendar_file: Annotated[Path | None, typer.Option("--calendar", help="Gives the lorries from then on.")] = None,
    out: Out = None,
) -> None:
    """Go on from a scenario and its plan to the next window's scenario."""
    with errors_to_stderr():
        scenario, plans = read_scenario(scenario_file.read_bytes()), read_plan(plan_file.read_bytes()).plans
        calendar = read_calendar(calendar_file.read_bytes()) if calendar_file else Calendar()
        present = opened(scenario, plans, max(0.0, minute_of(scenario, at)))
        rolled = gone_on(present, plans, scenario.orders, calendar, zone_of(scenario))
        _out(write(rolled.scenario), out)
    settled = rolled.settled
    typer.echo(
        f"{settled.runs} runs over; {settled.sent:,} packs of them gone, {settled.short:,} short, "
        f"{sum(settled.thrown.values()):,} wasted",
        err=True,
    )


def _said(note: WindowNote, store: Repository) -> str:
    zone = zone_of(store.windows.scenario())
    begins, ends = (f"{moment.astimezone(zone):%a %d %b %H:%M}" for moment in (note.goes_on_at, note.ends_at))
    return f"window {note.number}: {begins} to {ends}, by {note.author}; {note.sent:,} packs gone, {note.short:,} short"


@window_app.command("list")
def window_list() -> None:
    """Every window, newest first."""
    with errors_to_stderr(), running() as store:
        for note in store.windows.all():
            typer.echo(_said(note, store))


@window_app.command("next")
def window_next() -> None:
    """Go on to the next window from this moment on."""
    with errors_to_stderr(), running() as store:
        typer.echo(_said(go_on(store, Settings().clock(), AUTHOR), Repository(store.session)))


@window_app.command("running")
def window_running(
    line: Annotated[str, typer.Argument(help="The line's key.")],
    product: Annotated[str, typer.Argument(help="The product's key.")],
    packs: Annotated[int, typer.Argument(help="That the run gives in all.")],
    first_piece: Annotated[datetime, typer.Argument(help="When it was, or will be, divided, on the plant's clock.")],
    emptied: Annotated[
        list[datetime] | None, typer.Option("--emptied", help="When a dough of it left the bowl; the first one first.")
    ] = None,
) -> None:
    """Enter a run that is on a line and in no plan; the plan is fitted around it."""
    with errors_to_stderr(), running() as store:
        store.windows.locked_window()
        scenario = store.windows.scenario()
        now = Settings().clock().minute_of(scenario.window.starts_at)
        published = store.plans.published()
        version = store.plans.version(published.version if published else None)
        request = OnLineRequest(
            line=line, product=product, packs=packs, first_piece=first_piece, emptied=tuple(emptied or ())
        )
        stored, moved = enter_run(store, opened(scenario, version.plan.plans, max(0.0, now)), version, request, AUTHOR)
        typer.echo(f"version {stored.note.number}: {stored.note.note}; {len(moved)} runs moved")


@calendar_app.command("show")
def calendar_show(out: Out = None) -> None:
    """The newest calendar as a document."""
    with errors_to_stderr(), running() as store:
        newest = store.calendars.newest()
        _out(write(newest.calendar if newest else Calendar()), out)


@calendar_app.command("set")
def calendar_set(file: Annotated[Path, typer.Argument(metavar="CALENDAR.json")]) -> None:
    """Let another calendar count from now on."""
    with errors_to_stderr(), running() as store:
        calendar = read_calendar(file.read_bytes())
        number = keep_calendar(store, Settings().clock(), calendar, AUTHOR)
        store.session.commit()
        typer.echo(f"calendar {number}: {len(calendar.lorries)} lorries in the timetable")


@plant_app.command("out")
def plant_out(out: Out = None) -> None:
    """The whole plant as one document."""
    with errors_to_stderr(), running() as store:
        _out(write(store.plants.whole()), out)


@plant_app.command("in")
def plant_in(file: Annotated[Path, typer.Argument(metavar="PLANT.json")]) -> None:
    """Bring a plant into an empty database, whole or its library alone, and plan it."""
    with errors_to_stderr(), running() as store:
        starts = Settings().clock().now().astimezone(UTC).replace(minute=0, second=0, microsecond=0)
        whole = read_whole_plant(file.read_bytes(), Window(starts_at=starts, minutes=3 * 24 * 60))
        found(store, whole, "own", SOON)
        typer.echo(f"{whole.scenario.plant.name}: {len(whole.scenario.products)} products")


@stock_app.command("show")
def stock_show() -> None:
    """Packs in stock with their age, and materials with what comes."""
    with errors_to_stderr(), running() as store:
        scenario = levels(store, Settings().clock())
        for lot in scenario.finished:
            made = local_time(scenario, lot.made_min)
            typer.echo(f"{scenario.product(lot.product).name:<28}{lot.packs:>9,} packs, made {made:%a %d %b %H:%M}")
        for stock in scenario.stocks:
            coming = sum(come.amount for come in stock.deliveries)
            name = scenario.ingredient(stock.item).name
            typer.echo(f"{name:<28}{stock.on_hand:>12,.1f} there, {coming:,.1f} to come")


@stock_app.command("out")
def stock_out(out: Out = None) -> None:
    """Packs with their age, materials and deliveries as CSV."""
    with errors_to_stderr(), running() as store:
        _out(write_stock(levels(store, Settings().clock())), out)


@stock_app.command("in")
def stock_in(file: Annotated[Path, typer.Argument(metavar="STOCK.csv")]) -> None:
    """Take a file of stock: all of it, or nothing where a row is wrong."""
    with errors_to_stderr(), running() as store:
        read = read_stock(file.read_bytes(), store.windows.scenario())
        typer.echo(take_stock(store, Settings().clock(), read, file.name, AUTHOR).origin)


def orders_show(out: Out = None) -> None:
    """The window's orders as CSV."""
    with errors_to_stderr(), running() as store:
        _out(write_orders(store.windows.scenario()), out)


def orders_in(
    file: Annotated[Path, typer.Argument(metavar="ORDERS.csv", help="CSV, or a workbook.")],
    replace: Annotated[bool, typer.Option("--replace", help="In place of the window's orders.")] = False,
    columns: Annotated[str | None, typer.Option("--columns", help="Kept headings of the customer's file.")] = None,
) -> None:
    """Take a file of orders: all of it, or nothing where a row is wrong."""
    with errors_to_stderr(), running() as store:
        mode: Mode = "replace" if replace else "add"
        read = read_file(store, file.read_bytes(), mode, columns)
        if read.faults or not read.orders:
            faults = read.named_faults or ("there is no row in it",)
            raise MalformedError("The file has wrong rows, so nothing was taken. It", faults)
        book = take_file(store, read, mode, file.name)
        typer.echo(f"order book {book.number}: {book.origin}")


@library_app.command("out")
def library_out(
    out: Annotated[Path, typer.Argument(metavar="LIBRARY.json", help="JSON, or a workbook where it ends in xlsx.")],
) -> None:
    """What the plant is and makes, as a file."""
    with errors_to_stderr(), running() as store:
        library = library_of(store.windows.scenario())
        save(out, write_workbook(library) if out.suffix == ".xlsx" else write(library))


@library_app.command("in")
def library_in(
    file: Annotated[Path, typer.Argument(metavar="LIBRARY.json", help="JSON, or a workbook.")],
    look: Annotated[bool, typer.Option("--look", help="Say what it would change, and take nothing.")] = False,
) -> None:
    """Take a library as the next version: all of it, or nothing where it does not hold together."""
    with errors_to_stderr(), running() as store:
        data = file.read_bytes()
        after = read_workbook(data) if file.suffix == ".xlsx" else read_library(data)
        found = read_only(store, after) if look else take_library(store, after, f"file {file.name}")
        for line in found.changes or ("nothing differs",):
            typer.echo(line)
        if found.note:
            typer.echo(f"version {found.note.number}: {found.note.origin}")
