"""The command line as a planner types it."""

import json
import subprocess
import sys
from pathlib import Path

import pytest
from typer.testing import CliRunner

from rundgang.cli import app
from rundgang.core.scenario import Scenario
from rundgang.formats.documents import read_plan, read_scenario

run = CliRunner()


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """A folder with the demo's scenario and a plan of its first line."""
    (tmp_path / "s.json").write_text(run.invoke(app, ["example", "--day", "2026-03-11"]).stdout)
    command = ["plan", str(tmp_path / "s.json"), "--line", "ring-line", "--out", str(tmp_path / "p.json")]
    assert run.invoke(app, command).exit_code == 0
    return tmp_path


def test_plan_then_check(folder: Path) -> None:
    checked = run.invoke(app, ["check", str(folder / "s.json"), str(folder / "p.json")])
    assert (checked.exit_code, checked.stdout) == (0, "No violation found.\n")


def test_check_exits_1_with_a_line_a_violation(folder: Path) -> None:
    plan = json.loads((folder / "p.json").read_text())
    plan["plans"][0]["runs"][1]["start_min"] -= 10
    (folder / "p.json").write_text(json.dumps(plan))
    checked = run.invoke(app, ["check", str(folder / "s.json"), str(folder / "p.json")])
    assert checked.exit_code == 1
    lines = checked.stdout.splitlines()
    assert any(line.startswith("R2 at Steam oven: enters before it is empty") and "10.0 min" in line for line in lines)
    as_json = run.invoke(app, ["check", str(folder / "s.json"), str(folder / "p.json"), "--json"])
    assert len(json.loads(as_json.stdout)) == len(lines)


def test_same_seed_same_plan_and_json(folder: Path) -> None:
    command = ["plan", str(folder / "s.json"), "--seed", "3", "--json"]
    first, second = (run.invoke(app, command).stdout for _ in range(2))
    assert first == second
    plan = read_plan(first)
    assert [one.line for one in plan.plans] == [
        line.id for line in read_scenario((folder / "s.json").read_bytes()).plant.lines
    ]


def test_zero_seconds_is_the_plain_rule(folder: Path) -> None:
    plan = read_plan(run.invoke(app, ["plan", str(folder / "s.json"), "--seconds", "0", "--json"]).stdout)
    assert plan.evaluated == 1, "all lines share the packers, so one list is one order"


def test_a_plan_with_a_line_twice_or_an_unknown_product_is_no_plan(folder: Path) -> None:
    plan = json.loads((folder / "p.json").read_text())
    twice = plan | {"plans": plan["plans"] * 2}
    (folder / "b.json").write_text(json.dumps(twice))
    checked = run.invoke(app, ["check", str(folder / "s.json"), str(folder / "b.json")])
    assert (checked.exit_code, checked.stdout) == (1, "plan: has line ring-line twice\n")
    plan["plans"][0]["runs"][0]["product"] = "anvil"
    (folder / "b.json").write_text(json.dumps(plan))
    checked = run.invoke(app, ["check", str(folder / "s.json"), str(folder / "b.json")])
    assert (checked.exit_code, "makes anvil on ring-line" in checked.stdout) == (1, True)


def test_balance_names_the_bottleneck(folder: Path) -> None:
    text = run.invoke(app, ["balance", str(folder / "s.json")]).stdout
    assert "bottleneck Proofer" in text
    found = json.loads(run.invoke(app, ["balance", str(folder / "s.json"), "--json"]).stdout)
    assert [entry["bottleneck"] for entry in found] == ["proofer"] * 3


def test_cards_say_water_and_temperature(folder: Path) -> None:
    command = ["cards", str(folder / "s.json"), str(folder / "p.json")]
    text = run.invoke(app, command).stdout
    cards = json.loads(run.invoke(app, [*command, "--json"]).stdout)
    assert text.count("divide by") == len(cards)
    assert f"at {cards[0]['water']['wanted_c']:.1f} °C" in text


def test_import_all_or_none_or_the_good(folder: Path) -> None:
    orders = folder / "o.csv"
    orders.write_text("order;dispatch;product;packs\nz1;11.03.2026 12:00;Lantern Plain;1.000\nz2;never;?;-1\n")
    before = (folder / "s.json").read_text()
    command = ["orders", "import", str(orders), "--into", str(folder / "s.json")]

    refused = run.invoke(app, command)
    assert refused.exit_code == 2
    assert "line 3, dispatch: found “never”" in refused.stderr
    assert (folder / "s.json").read_text() == before

    taken = run.invoke(app, [*command, "--good-rows"])
    assert taken.exit_code == 0
    assert Scenario.model_validate_json((folder / "s.json").read_text()).orders[-1].packs == 1_000


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["plan", "nowhere.json"], "nowhere.json: No such file"),
        (["balance", "{folder}/p.json"], "cannot be read"),
        (["check", "{folder}/s.json", "{folder}/s.json"], "The plan cannot be read"),
        (["plan", "{folder}/s.json", "--line", "bread"], "no line “bread”"),
        (["cards", "{folder}/s.json", "{folder}/b.json"], "does not fit"),
    ],
)
def test_errors_go_to_stderr_with_exit_2(folder: Path, arguments: list[str], words: str) -> None:
    plan = json.loads((folder / "p.json").read_text())
    plan["plans"][0]["runs"][0]["product"] = "anvil"
    (folder / "b.json").write_text(json.dumps(plan))
    failed = run.invoke(app, [argument.format(folder=folder) for argument in arguments])
    assert (failed.exit_code, failed.stdout) == (2, "")
    assert words in failed.stderr


def test_a_reader_that_stops_early_is_no_error(folder: Path) -> None:
    command = f"{sys.executable} -m rundgang.cli cards {folder}/s.json {folder}/p.json | head -1"
    shown = subprocess.run(["sh", "-c", command], capture_output=True, text=True, check=True)
    assert (shown.stdout.count("\n"), shown.stderr) == (1, "")


def test_schema_describes_both_documents() -> None:
    schema = json.loads(run.invoke(app, ["schema"]).stdout)
    assert {"plant", "products", "orders"} <= set(schema["scenario"]["properties"])
    assert "plans" in schema["plan"]["properties"]


@pytest.mark.parametrize("line", ["bread-line", "doughnut-line", "pastry-line"])
def test_any_line_is_balanced_planned_and_checked(folder: Path, line: str) -> None:
    scenario, plan = str(folder / "s.json"), str(folder / f"{line}.json")
    balanced = run.invoke(app, ["balance", scenario, "--line", line, "--json"])
    found = json.loads(balanced.stdout)
    assert {one["line"] for one in found} == {line}
    assert len(found) == len([p for p in json.loads(Path(scenario).read_text())["products"] if p["line"] == line])
    planned = run.invoke(app, ["plan", scenario, "--line", line, "--out", plan, "--seconds", "0"])
    assert planned.exit_code == 0
    assert "Wed" in planned.stdout, "over several days the day stands beside the time"
    assert run.invoke(app, ["check", scenario, plan]).exit_code == 0


def test_a_sponges_card_says_its_trough_and_when_it_is_used(folder: Path) -> None:
    scenario, plan = str(folder / "s.json"), str(folder / "bread.json")
    run.invoke(app, ["plan", scenario, "--line", "bread-line", "--out", plan, "--seconds", "0"])
    printed = run.invoke(app, ["cards", scenario, plan]).stdout
    assert "Night sponge for Tarn White" in printed
    assert "; trough 1; use by" in printed
    assert "kg  Night sponge" in printed


def test_a_line_that_is_not_there_is_named(folder: Path) -> None:
    refused = run.invoke(app, ["balance", str(folder / "s.json"), "--line", "moon"])
    assert refused.exit_code == 2
    assert "There is no line “moon”. Allowed: ring-line, bread-line" in refused.stderr
