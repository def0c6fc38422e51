"""The bench: every entry answers its own first question, and its ranges hold."""

import re
from math import exp, log

import pytest
from hypothesis import event, given
from hypothesis import strategies as st
from pydantic import ValidationError

from rundgang.core.calculators.catalogue import CALCULATORS, asked_for, entry
from rundgang.core.calculators.heat import FitQuestion, fit_answer
from rundgang.core.calculators.parts import Answer, Entry
from rundgang.core.errors import OutOfRangeError, RundgangError, UnknownItemError
from rundgang.core.units import TABLE

QUANTITIES = {unit.quantity for unit in TABLE} | {""}
ENTRIES = pytest.mark.parametrize("found", CALCULATORS, ids=[found.id for found in CALCULATORS])


@ENTRIES
def test_every_entry_answers_what_it_begins_with(found: Entry) -> None:
    answer: Answer = found.answer(found.question())
    assert answer.figures
    assert answer.working
    assert all(figure.quantity in QUANTITIES for figure in answer.figures)


@ENTRIES
def test_no_letter_of_an_equation_stands_where_a_unit_would(found: Entry) -> None:
    """“0.06 t” would read as tonnes, and be converted as such: an equation writes 0.06 × t."""
    answer: Answer = found.answer(found.question())
    tonnes = "yearly mass" in {figure.quantity for figure in answer.figures}
    assert tonnes or not [line for line in answer.working if re.search(r"\d t\b", line)]


@ENTRIES
def test_every_field_says_its_title_unit_and_range(found: Entry) -> None:
    for field in asked_for(found.question):
        assert field.title
        assert field.quantity in QUANTITIES
        if not field.many and not field.choices:
            assert field.least is not None
            assert field.most is not None
            assert field.least <= float(field.first) <= field.most
    typed = {field.name: field.first for field in asked_for(found.question)}
    assert found.question.model_validate(typed) == found.question(), "what a form begins with is the default"


@ENTRIES
@given(data=st.data())
def test_figures_within_the_ranges_are_answered_or_refused_in_words(found: Entry, data: st.DataObject) -> None:
    asked = {
        field.name: data.draw(st.floats(field.least, field.most))
        for field in asked_for(found.question)
        if field.least is not None and field.name not in {"places", "size"}
    }
    try:
        answer = found.answer(found.question.model_validate(asked))
    except RundgangError as refused:
        event(f"refused: {type(refused).__name__}")
        return
    assert all(abs(figure.value) < 1e15 for figure in answer.figures)


@ENTRIES
def test_figures_beyond_the_ranges_are_refused(found: Entry) -> None:
    for field in asked_for(found.question):
        if field.most is not None:
            with pytest.raises(ValidationError, match="less than or equal"):
                found.question.model_validate({field.name: field.most * 2 + 1})


def test_weights_are_read_as_they_are_pasted() -> None:
    question = entry("weights").question.model_validate({"weights_g": "421,5 \n 424.0;419\t426,5"})
    assert question.model_dump()["weights_g"] == (421.5, 424.0, 419.0, 426.5)
    with pytest.raises(ValidationError):
        entry("weights").question.model_validate({"weights_g": "421 heavy"})


def test_unknown_entries_are_named() -> None:
    with pytest.raises(UnknownItemError, match=r"no calculation “taste”.*cooling"):
        entry("taste")


def test_cooling_on_the_bench_is_the_known_case() -> None:
    """96 to 37 °C in 50 min at 20 °C takes 61.8 min at 26 °C (common practice, no published source)."""
    known = {"known_start_c": 96, "known_end_c": 37, "known_air_c": 20, "known_min": 50}
    asked = {**known, "start_c": 96, "bag_c": 37, "air_c": 26}
    answer = entry("cooling").answer(entry("cooling").question.model_validate(asked))
    assert answer.figures[0].value == pytest.approx(61.8, abs=0.05)
    assert answer.working[-1].endswith("= 61.8 min")


def test_a_control_chart_sees_a_stray_and_a_drift() -> None:
    """A sample far off lies outside; seven rising means are a drift (common rules of control charts)."""
    chart = entry("control")
    steady = [100, 101, 99, 100] * 8
    assert chart.answer(chart.question.model_validate({"size": 4, "weights_g": steady})).good
    stray = chart.answer(chart.question.model_validate({"size": 4, "weights_g": [*steady, 108, 109, 107, 108]}))
    assert stray.verdict == "Sample 9 lies outside."
    rising = [value for step in range(7) for value in (100 + 0.1 * step, 103 + 0.1 * step)]
    assert "drift" in chart.answer(chart.question.model_validate({"size": 2, "weights_g": rising})).verdict
    with pytest.raises(RundgangError, match="33; allowed: whole samples of 4"):
        chart.answer(chart.question.model_validate({"size": 4, "weights_g": [*steady, 100]}))


def test_the_rate_from_readings_of_a_known_curve() -> None:
    """96 to 37 °C in 50 min at 20 °C has k = 0.02995 (common practice); readings on that curve give it back."""
    rate = log(76 / 17) / 50
    minutes = (8.0, 19.0, 33.0, 50.0)
    cores = tuple(20 + 76 * exp(-rate * at) for at in minutes)
    answer = fit_answer(FitQuestion(start_c=96, air_c=20, minutes=minutes, cores_c=cores, bag_c=37))
    found = {figure.name: figure.value for figure in answer.figures}
    assert found["Rate k"] == pytest.approx(0.02995, abs=1e-5)
    assert found["give or take"] == pytest.approx(0, abs=1e-9)
    assert found["Cooling time"] == pytest.approx(50)
    with pytest.raises(OutOfRangeError, match="one for each of the 4 times"):
        fit_answer(FitQuestion(minutes=minutes, cores_c=(40.0,)))
