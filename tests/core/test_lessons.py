"""Each figure that can be learnt stands in the library: it is read there, and said anew, and nothing else is."""

from datetime import UTC, datetime

import pytest
from pydantic import ValidationError

from rundgang.core.learning.facts import ASKED, TakenLesson, said_by, with_taken
from rundgang.core.learning.lessons import lessons_of
from rundgang.core.learning.observed import Kind, Observed
from rundgang.core.library import differences, library_of, with_library
from rundgang.core.scenario import Scenario
from rundgang.demo.ostermere import SOME_DAY, ostermere

LINE, PRODUCT = "bread-line", "quarry-loaf"
AT = datetime(2026, 3, 11, tzinfo=UTC)


@pytest.fixture(scope="module")
def demo() -> Scenario:
    return ostermere(SOME_DAY)


TAKEN = (
    TakenLesson(kind="friction", product=PRODUCT, mixer="Mixer Lime", value=24.04),
    TakenLesson(kind="cooling", product=PRODUCT, station="cooler", value=0.021),
    TakenLesson(kind="yield", product=PRODUCT, station="moulder", value=0.98765),
    TakenLesson(kind="bake loss", product=PRODUCT, value=0.1312),
    TakenLesson(kind="pace", product=PRODUCT, value=1_900),
    TakenLesson(kind="tool change", station="bagger", value=6.04),
    TakenLesson(kind="belt set", station="proofer", value=8.7),
    TakenLesson(kind="stops", station="oven", value=611.04),
    TakenLesson(kind="stands", station="oven", value=7.31, spread=0.84),
)


@pytest.mark.parametrize("taken", TAKEN, ids=lambda taken: taken.kind)
def test_what_is_taken_is_said_and_all_else_stays(demo: Scenario, taken: TakenLesson) -> None:
    """To what it is written in: tenths of degrees and minutes, hundredths of a per cent, whole pieces."""
    before = library_of(demo)
    after = with_taken(before, LINE, [taken])
    known = with_library(demo, after)
    said = said_by(known, LINE, taken.kind, taken.product, taken.station or taken.mixer)
    assert said == pytest.approx(taken.value, rel=0.01)
    assert said != said_by(demo, LINE, taken.kind, taken.product, taken.station or taken.mixer)
    assert {difference.path[0] for difference in differences(before, after)} == {
        "products" if taken.product else "plant"
    }
    assert with_taken(after, LINE, [taken]) == after, "said again it is the same"


def test_the_kinds_are_all_here() -> None:
    assert {taken.kind for taken in TAKEN} == set(ASKED)


def test_a_friction_factor_is_of_one_mixer(demo: Scenario) -> None:
    known = with_library(demo, with_taken(library_of(demo), LINE, TAKEN[:1]))
    mixing = known.product(PRODUCT).mixing
    others = [mixer for mixer in known.line(LINE).mixers(mixing.station).mixers if mixer != "Mixer Lime"]
    assert mixing.friction_in("Mixer Lime") == 24.0
    assert {mixing.friction_in(mixer) for mixer in others} == {demo.product(PRODUCT).mixing.friction_c}


def test_a_mixer_that_is_not_there_is_refused(demo: Scenario) -> None:
    strange = TakenLesson(kind="friction", product=PRODUCT, mixer="Nowhere", value=24)
    with pytest.raises(ValidationError, match="frictions has Nowhere; allowed: a mixer of"):
        with_library(demo, with_taken(library_of(demo), LINE, [strange]))


@pytest.mark.parametrize(
    "more",
    [
        {"kind": "friction", "product": PRODUCT},
        {"kind": "yield", "station": "oven"},
        {"kind": "stands", "station": "oven", "product": PRODUCT},
        {"kind": "pace", "product": PRODUCT, "value": 0},
    ],
)
def test_a_lesson_is_of_what_its_kind_is_of(more: dict[str, object]) -> None:
    with pytest.raises(ValidationError, match="allowed"):
        TakenLesson.model_validate({"value": 5, **more})


def observed(kind: Kind, values: list[float], product: str | None = PRODUCT, **more: object) -> list[Observed]:
    named = {"station": None, **more}
    return [Observed(kind=kind, product=product, at=AT, value=value, **named) for value in values]  # type: ignore[arg-type]


def test_a_lesson_tells_something_where_the_library_lies_outside(demo: Scenario) -> None:
    said = demo.product(PRODUCT).bake_loss
    near = observed("bake loss", [said - 0.002, said + 0.001, said + 0.002, said - 0.001])
    (lesson,) = lessons_of(demo, LINE, near)
    assert (lesson.tells, lesson.said, lesson.hint) == (False, said, "")
    far = [one._replace(value=one.value + 0.05) for one in near]
    assert lessons_of(demo, LINE, far)[0].tells
    assert lessons_of(demo, LINE, near[:3]) == (), "of three nothing is said"


def test_what_the_library_has_no_more_is_left_out(demo: Scenario) -> None:
    gone = observed("bake loss", [0.1] * 5, product="gone")
    nowhere = observed("stands", [5.0] * 5, product=None, station="nowhere")
    assert lessons_of(demo, LINE, [*gone, *nowhere]) == ()


def test_a_pace_beyond_the_bottleneck_points_there(demo: Scenario) -> None:
    """Raising what is wanted of the line would say nothing: a station is said to give less."""
    product = demo.product(PRODUCT)
    wants_more = product.model_copy(update={"target_per_hour": 100_000.0})
    made = tuple(wants_more if one.id == PRODUCT else one for one in demo.products)
    narrow = with_library(demo, library_of(demo).model_copy(update={"products": made}))
    planned = said_by(narrow, LINE, "pace", PRODUCT, None)
    assert planned
    assert planned < 100_000
    faster = observed("pace", [planned * share for share in (1.04, 1.05, 1.06, 1.05)])
    slower = observed("pace", [planned * share for share in (0.94, 0.95, 0.96, 0.95)])
    (fast,), (slow,) = lessons_of(narrow, LINE, faster), lessons_of(narrow, LINE, slower)
    assert fast.tells
    assert "bottleneck" in fast.hint
    assert slow.tells
    assert slow.hint == ""
    (wanted,) = lessons_of(demo, LINE, observed("pace", [3_000.0, 3_001.0, 3_002.0, 3_003.0]))
    assert bool(wanted.hint) == (said_by(demo, LINE, "pace", PRODUCT, None) != product.target_per_hour)


def test_lessons_come_kind_by_kind_in_walking_order(demo: Scenario) -> None:
    stations = [station.id for station in demo.line(LINE).stations if station.kind not in {"batch", "held"}]
    seen = [one for station in reversed(stations) for one in observed("stands", [4, 5, 6, 7], None, station=station)]
    seen += observed("bake loss", [0.1, 0.11, 0.12, 0.1])
    found = lessons_of(demo, LINE, seen)
    assert [lesson.kind for lesson in found] == ["bake loss", *["stands"] * len(stations)]
    assert [lesson.station for lesson in found[1:]] == stations
