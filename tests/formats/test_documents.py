"""Documents: what is written is read, and every fault is a line with its place, finding and range."""

import json
from datetime import date

import pytest

from rundgang.core.errors import MalformedError
from rundgang.core.library import library_of
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.whole_plant import WholePlant
from rundgang.demo.ring_line import ring_line
from rundgang.formats.clock import clock, local_time
from rundgang.formats.documents import read_plan, read_scenario, schemas, write
from rundgang.formats.fault_words import LONGEST_SHOWN

DAY = ring_line(date(2026, 3, 11))
PLAN = plan_plant(DAY, stop=after_evaluations(1, 1))


def test_writing_is_stable() -> None:
    """The same document twice is the same text: a diff of two shows what changed and nothing else."""
    assert write(DAY) == write(read_scenario(write(DAY)))
    assert write(PLAN) == write(read_plan(write(PLAN)))
    assert write(DAY).endswith("}\n")


def test_a_whole_plant_is_read_for_its_scenario_and_a_library_is_told_apart() -> None:
    assert read_scenario(write(WholePlant(scenario=DAY))) == DAY
    with pytest.raises(MalformedError, match="The file is a library") as refused:
        read_scenario(write(library_of(DAY)))
    assert "allowed: a scenario, or a whole plant" in refused.value.faults[0]


def test_a_long_wrong_value_is_cut_in_the_message() -> None:
    data = json.loads(write(DAY))
    data["conditions"]["room_c"] = "w" * 5_000
    with pytest.raises(MalformedError) as refused:
        read_scenario(json.dumps(data))
    (line,) = refused.value.faults
    assert line.startswith("conditions.room_c: ")
    assert len(line) < LONGEST_SHOWN + 120
    assert line.endswith("w…; allowed: a number")


def test_what_is_missing_is_named_without_a_finding() -> None:
    data = json.loads(write(DAY))
    del data["products"][1]["baked_g"]
    with pytest.raises(MalformedError) as refused:
        read_scenario(json.dumps(data))
    assert refused.value.faults == ("products.1.baked_g: is missing",)


@pytest.mark.parametrize(("field", "value"), [("plans", {}), ("score", None), ("cost", "dear"), ("extra", 1)])
def test_a_plan_that_is_none_is_refused(field: str, value: object) -> None:
    data = json.loads(write(PLAN)) | {field: value}
    with pytest.raises(MalformedError, match="The plan cannot be read") as refused:
        read_plan(json.dumps(data))
    assert any(field in fault for fault in refused.value.faults)


def test_the_schema_accepts_what_is_written_and_names_the_stations_kinds() -> None:
    schema = json.loads(schemas())
    definitions = schema["scenario"]["$defs"]
    kinds = {name for name in definitions if name.endswith("Station")}
    assert kinds == {
        "BatchStation",
        "RateStation",
        "ConveyorStation",
        "ChamberStation",
        "BenchStation",
        "HeldStation",
        "LoadStation",
    }
    written = json.loads(write(DAY))
    assert set(written) == set(schema["scenario"]["properties"])
    assert set(json.loads(write(PLAN))) == set(schema["plan"]["properties"])
    assert definitions["RateStep"]["properties"]["yield"]["maximum"] == 1


def test_the_clock_rounds_to_the_minute_people_read() -> None:
    """20:00 plus 29 s is read 20:00, plus 31 s 20:01; the exact moment keeps its seconds."""
    assert [clock(DAY, minute) for minute in (0, 29 / 60, 31 / 60, 240)] == ["20:00", "20:00", "20:01", "00:00"]
    assert local_time(DAY, 0.5).second == 30
