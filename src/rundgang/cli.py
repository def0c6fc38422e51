"""The command line: balance, plan, check and cards from files, without a database; and the server."""

import json
import os
import signal
import sys
import time
from collections.abc import Callable
from datetime import date, datetime, timedelta
from multiprocessing import get_context
from pathlib import Path
from threading import Thread
from typing import Annotated
from zoneinfo import ZoneInfo

import typer

from rundgang.cli_window import (
    calendar_app,
    library_app,
    orders_in,
    orders_show,
    plant_app,
    roll_command,
    stock_app,
    window_app,
)
from rundgang.core.balance import LineBalance, balance
from rundgang.core.dough.card import BatchCard, batch_cards
from rundgang.core.errors import RundgangError
from rundgang.core.materials import supply
from rundgang.core.planning.check.plans import check_plant
from rundgang.core.planning.model import LinePlan, PlantPlan
from rundgang.core.planning.search.machine_code import make_parts, make_search
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import Progress, StopCriterion, proving_time
from rundgang.core.scenario import Scenario
from rundgang.demo.lorries import TIME_ZONE
from rundgang.demo.ostermere import demo_plant, ostermere
from rundgang.files import errors_to_stderr, save
from rundgang.floor import collect, simulate
from rundgang.formats.clock import clock
from rundgang.formats.documents import read_plan, read_scenario, schemas, write
from rundgang.formats.orders_csv import read_orders
from rundgang.jobs.queue import work
from rundgang.serve import serve, serve_beside
from rundgang.settings import Settings

app = typer.Typer(no_args_is_help=True, add_completion=False, help="Plan an industrial bakery's lines.")
orders_app = typer.Typer(no_args_is_help=True, help="Orders in files, and those of the running plant.")
orders_app.command("show")(orders_show)
orders_app.command("in")(orders_in)
app.add_typer(orders_app, name="orders")
app.command("roll")(roll_command)
for name, more in (
    ("window", window_app),
    ("calendar", calendar_app),
    ("plant", plant_app),
    ("stock", stock_app),
    ("library", library_app),
):
    app.add_typer(more, name=name)

ScenarioFile = Annotated[Path, typer.Argument(metavar="SCENARIO.json", help="Plant, products and orders.")]
PlanFile = Annotated[Path, typer.Argument(metavar="PLAN.json", help="From `rundgang plan`, or saved from the page.")]
AsJson = Annotated[bool, typer.Option("--json", help="Machine-readable output.")]
LineId = Annotated[str | None, typer.Option("--line", help="Which line; by default the only or first one.")]


def _line(scenario: Scenario, line_id: str | None) -> str:
    return scenario.line(line_id).id if line_id else scenario.plant.lines[0].id


@app.command("balance")
def balance_command(scenario_file: ScenarioFile, line: LineId = None, as_json: AsJson = False) -> None:
    """What every stage of a line can carry, for each product."""
    with errors_to_stderr():
        scenario = read_scenario(scenario_file.read_bytes())
        line_id = _line(scenario, line)
        balances = [balance(scenario, p.id) for p in scenario.products if p.line == line_id]
        if as_json:
            typer.echo(json.dumps([found.model_dump() for found in balances], indent=2))
            return
        for found in balances:
            _print_balance(scenario, found)


def _print_balance(scenario: Scenario, found: LineBalance) -> None:
    product = scenario.product(found.product)
    narrowest = next(stage.name for stage in found.stages if stage.station == found.bottleneck)
    typer.echo(
        f"{product.name}: {found.pace_per_h:,.0f} {product.pieces}/h wanted, {found.most_per_h:,.0f} possible; "
        f"bottleneck {narrowest}; a {found.batch_kg:.0f} kg dough "
        f"every {found.batch_interval_min:.1f} min, {found.mixers_needed} mixers; "
        f"flour to first pack {found.flour_to_pack_min:.0f} min"
    )
    for stage in found.stages:
        typer.echo(
            f"  {stage.name:<16}{stage.capacity_per_h:>9,.0f} /h {stage.utilisation:>6.0%} {stage.inside:>8,.0f} inside"
        )


@app.command("plan")
def plan_command(
    scenario_file: ScenarioFile,
    out: Annotated[Path | None, typer.Option("--out", help="Write the plan here.")] = None,
    seconds: Annotated[float | None, typer.Option(min=0, max=3600, help="Search so long.")] = None,
    seed: Annotated[int, typer.Option(help="Of the search's random moves.")] = 0,
    line: Annotated[str | None, typer.Option("--line", help="Only this line; by default all of them.")] = None,
    as_json: AsJson = False,
) -> None:
    """Plan the window of a plant."""
    with errors_to_stderr():
        scenario = read_scenario(scenario_file.read_bytes())
        stop: StopCriterion | None = None
        if seconds is not None:
            end = time.monotonic() + seconds

            def stop(progress: Progress) -> bool:
                return time.monotonic() >= end

        lines = [scenario.line(line).id] if line else None
        plan = plan_plant(scenario, lines=lines, seed=seed, stop=stop, effort=proving_time(seconds or 0))
        if out:
            save(out, write(plan))
        if as_json:
            typer.echo(write(plan), nl=False)
            return
        _print_plan(scenario, plan)


def _print_plan(scenario: Scenario, plan: PlantPlan) -> None:
    for of_line in plan.plans:
        _print_line(scenario, of_line)
    near = f"; {plan.how_good}" if plan.how_good else ""
    typer.echo(f"{plan.cost:,.0f} points in all{near}; {plan.evaluated:,} orders tried")


def _print_line(scenario: Scenario, plan: LinePlan) -> None:
    parts, short = plan.score, sum(wave.short for wave in plan.waves)
    typer.echo(
        f"{scenario.line(plan.line).name}: {len(plan.runs)} runs; {short:,} packs short, "
        f"{parts.late_pack_hours:.1f} pack hours late, "
        f"{parts.changeover_min:.0f} min changeover, {parts.surplus_packs:,.0f} packs surplus"
    )
    typer.echo(f"  order: {plan.rule}")
    for run in plan.runs:
        last = clock(scenario, run.last_pack_min)
        typer.echo(
            f"  {run.id:<4}{scenario.product(run.product).name:<20} first mixed "
            f"{clock(scenario, run.first_mixed_min)}  start {clock(scenario, run.start_min)}  first pack "
            f"{clock(scenario, run.first_pack_min)}  last {last}  {run.packs:>6} packs  {len(run.mixed)} batches"
        )
    for left in plan.left_out:
        typer.echo(f"  left out: {left.packs} packs of {left.product} for {left.wave}")
    for wave in plan.waves:
        if wave.short:
            typer.echo(f"  {wave.short} of {wave.packs} packs of {wave.product} miss {wave.wave}")


@app.command("check")
def check_command(scenario_file: ScenarioFile, plan_file: PlanFile, as_json: AsJson = False) -> None:
    """Check a plan from first principles; exit 1 and one line for each violation."""
    with errors_to_stderr():
        violations = check_plant(read_scenario(scenario_file.read_bytes()), read_plan(plan_file.read_bytes()).plans)
    if as_json:
        typer.echo(json.dumps([violation.model_dump() for violation in violations], indent=2))
    else:
        for violation in violations:
            typer.echo(str(violation))
        if not violations:
            typer.echo("No violation found.")
    raise typer.Exit(1 if violations else 0)


@app.command("materials")
def materials_command(scenario_file: ScenarioFile, plan_file: PlanFile, as_json: AsJson = False) -> None:
    """What a plan draws, and what runs out for which batch; exit 1 where something does."""
    with errors_to_stderr():
        scenario = read_scenario(scenario_file.read_bytes())
        found = supply(scenario, read_plan(plan_file.read_bytes()).plans)
    if as_json:
        typer.echo(json.dumps([item.model_dump() for item in found], indent=2))
    for item in () if as_json else found:
        stock = (
            "no stock known" if item.on_hand is None else f"{item.on_hand:,.0f} there, {item.delivered:,.0f} to come"
        )
        out = ""
        if item.runs_out:
            gone = item.runs_out
            when, batch = clock(scenario, gone.at_min), f"{gone.run} batch {gone.batch}"
            out = f"; runs out {when} for {batch}, {gone.missing:,.1f} short"
        typer.echo(f"{item.name:<28}{item.used:>12,.1f} {item.unit}; {stock}{out}")
    raise typer.Exit(1 if any(item.runs_out for item in found) else 0)


@app.command("cards")
def cards_command(scenario_file: ScenarioFile, plan_file: PlanFile, as_json: AsJson = False) -> None:
    """The batch cards of a plan, in the order of the clock."""
    with errors_to_stderr():
        scenario = read_scenario(scenario_file.read_bytes())
        plan = read_plan(plan_file.read_bytes())
        violations = check_plant(scenario, plan.plans)
        if violations:
            raise RundgangError(f"The plan does not fit the scenario: {violations[0]}")
        all_cards = (card for of_line in plan.plans for card in batch_cards(scenario, of_line))
        cards = sorted(all_cards, key=lambda card: card.start_min)
    if as_json:
        typer.echo(json.dumps([card.model_dump() for card in cards], indent=2))
        return
    for card in cards:
        _print_card(scenario, card)


def _print_card(scenario: Scenario, card: BatchCard) -> None:
    typer.echo(
        f"{clock(scenario, card.start_min)} {card.mixer}: {card.run} {card.product_name} "
        f"batch {card.number} of {card.of}, {card.dough_g / 1000:.2f} kg to {card.dough_temperature_c:.1f} °C"
    )
    if card.water:
        water = card.water
        ice = f", {water.ice_g / 1000:.2f} kg of it ice" if water.ice_g else ""
        typer.echo(f"  water {water.total_g / 1000:.2f} kg at {water.wanted_c:.1f} °C{ice}. {water.remark}")
    if card.correction:
        typer.echo(f"  {card.correction}")
    for line in card.ingredients:
        late = f"  at minute {line.at_min:g}" if line.at_min else ""
        typer.echo(f"  {line.grams / 1000:>9.3f} kg  {line.name}{late}")
    phases = ", ".join(f"{phase.speed} {phase.minutes:g} min" for phase in card.phases)
    until = "use" if card.preparation else "divide"
    held = f"; {card.trough}" if card.trough else ""
    typer.echo(f"  mix {phases}{held}; {until} by {clock(scenario, card.divide_by_min)}")


@orders_app.command("import")
def import_command(
    orders_file: Annotated[Path, typer.Argument(metavar="ORDERS.csv")],
    into: Annotated[Path, typer.Option("--into", metavar="SCENARIO.json", help="Scenario to take them.")],
    good_rows: Annotated[bool, typer.Option("--good-rows", help="Take the good rows of a faulty file.")] = False,
    replace: Annotated[bool, typer.Option("--replace", help="Instead of the scenario's orders.")] = False,
    as_json: AsJson = False,
) -> None:
    """Take a file of orders into a scenario: all rows or none, or the good ones if you say so."""
    with errors_to_stderr():
        scenario = read_scenario(into.read_bytes())
        kept = () if replace else scenario.orders
        read = read_orders(orders_file.read_bytes(), scenario, frozenset(order.line for order in kept))
        refused = bool(read.faults) and not (good_rows and read.orders)
        if not refused:
            data = scenario.model_dump(mode="json")
            data["orders"] = [order.model_dump() for order in (*kept, *read.orders)]
            save(into, write(Scenario.model_validate(data)))
    if as_json:
        typer.echo(read.model_dump_json(indent=2))
    for fault in read.named_faults:
        typer.echo(fault, err=True)
    if refused:
        typer.echo(f"rundgang: nothing taken; {len(read.orders)} rows are good (--good-rows takes them)", err=True)
        raise typer.Exit(2)
    if not as_json:
        typer.echo(f"{len(read.orders)} orders taken into {into}")


@app.command("schema")
def schema_command() -> None:
    """The JSON Schemas of a scenario and of a plan."""
    typer.echo(schemas(), nl=False)


@app.command("example")
def example_command(
    day: Annotated[datetime | None, typer.Option("--day", formats=["%Y-%m-%d"], help="Day of the lorries.")] = None,
) -> None:
    """The demo plant's scenario, as a document to begin from."""
    typer.echo(write(ostermere(day.date() if day else tomorrow())), nl=False)


@app.command("serve")
def serve_command(
    port: Annotated[int, typer.Option(min=0, max=65535, help="Loopback port; 0 picks a free one.")] = 8420,
    reset: Annotated[bool, typer.Option("--reset", help="Delete the private database first.")] = False,
    demo: Annotated[bool, typer.Option("--demo", help="Fill an empty database with the demo plant.")] = False,
    day: Annotated[
        datetime | None, typer.Option("--day", formats=["%Y-%m-%d"], help="Day of the demo's first lorries.")
    ] = None,
) -> None:
    """Serve the application."""
    with errors_to_stderr():
        serve(Settings(), demo_plant(day.date() if day else tomorrow()) if demo else None, port, reset)


WhileHeld = Annotated[bool, typer.Option("--while-held", help="End when the input does.", hidden=True)]


@app.command("worker")
def worker_command(while_held: WhileHeld = False) -> None:
    """Search for plans, as the application asks; DATABASE_URL names its database. As many as one requests may run."""
    _beside(while_held, lambda settings: work(settings.database_url or ""))


@app.command("server", hidden=True)
def server_command(
    number: Annotated[int, typer.Option("--socket", help="The socket that is listened on already.")],
    data: Annotated[Path | None, typer.Option("--data", help="Where the database has its data.")] = None,
    while_held: WhileHeld = False,
) -> None:
    """Serve beside a server, from its socket and over the database that DATABASE_URL names."""
    _beside(while_held, lambda settings: serve_beside(settings, number, data))


@app.command("simulate", hidden=True)
def simulate_command(while_held: WhileHeld = False) -> None:
    """A simulated plant that works by what is published, with instruments over OPC UA."""
    _beside(while_held, simulate)


@app.command("collect")
def collect_command(while_held: WhileHeld = False) -> None:
    """Listen to the instruments, and store what they read; DATABASE_URL names the database. One is enough."""
    _beside(while_held, collect)


def _beside(while_held: bool, run: Callable[[Settings], None]) -> None:
    """Run a process that works beside the server, over the database that DATABASE_URL names."""
    with errors_to_stderr():
        settings = Settings()
        if not settings.database_url:
            raise RundgangError("DATABASE_URL is not set. Allowed: the application's database, as its owner knows it.")
        if while_held:
            Thread(target=_end_with_input, daemon=True).start()
        run(settings)


def _end_with_input() -> None:
    """Stop this process, as if it were told to, when nobody holds its input any more."""
    while os.read(sys.stdin.fileno(), 1_024):
        pass
    os.kill(os.getpid(), signal.SIGTERM)


@app.command("compile")
def compile_command() -> None:
    """Turn the search into machine code now instead of at the first plan."""
    scenario = ostermere(tomorrow())
    parts = get_context("fork").Process(target=make_parts, args=(scenario,))
    parts.start()
    make_search(scenario)
    parts.join()


def tomorrow() -> date:
    """The day after today, at the demo plant."""
    return datetime.now(ZoneInfo(TIME_ZONE)).date() + timedelta(days=1)


def main() -> None:
    """Run the command line."""
    app()


if __name__ == "__main__":
    main()
