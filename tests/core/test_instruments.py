"""Doubtful readings are questioned, needles become lengths."""

from __future__ import annotations

import math
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from truing.kit.instruments import (
    Caliper,
    DialPosition,
    DigitalIndicator,
    FeelerBlades,
    Level,
    LeverDial,
    PlungerDial,
    Rule,
    dial_reading,
    needle_at,
)
from truing.measure.problem import Problem

DIAL = PlungerDial(graduation_mm=0.01, range_mm=10, unit="div")


def test_an_unsigned_reading_past_a_quarter_turn_asks_for_the_turn() -> None:
    asked = DIAL.question(DIAL.read("60"))
    assert asked
    assert asked.about == "turns"
    assert asked.choices == pytest.approx([-0.4, 1.6])
    assert DIAL.question(DIAL.read("+60")) is None
    assert DIAL.question(DIAL.read("20")) is None


@given(st.integers(-300, 300), st.integers(-37, 37), st.sampled_from([-1, 0, 1]))
def test_the_turn_is_asked_for_only_where_the_neighbours_leave_it_open(
    before: int, moved: int, turns: int
) -> None:
    """The needle has moved by less than three eighths of a turn since the reading before: typed as
    it is, nothing is asked; typed by a whole turn off, it always is, where the dial reaches that
    far."""
    steps = before + moved + 100 * turns
    typed = abs(steps)  # unsigned, as somebody types who does not think of turns
    near = [before / 100 if steps >= 0 else -before / 100]
    asked = DIAL.question(DIAL.read(str(typed)), near)
    assert (asked is not None) == (turns != 0 and typed > 25), (before, moved, turns)


def test_what_is_read_between_two_turns_is_asked_all_the_same() -> None:
    # half a turn from what was read before: it may be either
    for typed, near, doubtful in (
        ("42", [0.20], False),
        ("42", [0.0], True),
        ("70", [0.0, 0.35], True),
        ("95", [0.02, -0.04], True),
        ("95", [0.90, 0.02], True),
        ("95", [0.90], False),
        ("42", [], True),
    ):
        asked = DIAL.question(DIAL.read(typed), near)
        assert (asked is not None and asked.about == "turns") == doubtful, (typed, near)


def test_out_of_range_and_between_steps_are_questioned_not_refused() -> None:
    lever = LeverDial(graduation_mm=0.002, range_mm=0.2, unit="div")
    outside = lever.question(lever.read("+250"))
    assert outside
    assert outside.about == "range"
    between = lever.question(lever.read("+3.25"))
    assert between
    assert between.about == "steps"
    assert between.choices == pytest.approx([0.006, 0.007])
    # converted from another unit it need not fall on a step
    assert lever.question(lever.read("+0.3 thou")) is None
    assert FeelerBlades().question(FeelerBlades().read("-0.1")) is not None


def test_a_tilted_lever_shows_too_much() -> None:
    lever = LeverDial(tip_angle_deg=30)
    shown = 0.1 / math.cos(math.radians(30))
    assert lever.true_mm(shown) == pytest.approx(0.1)


@given(st.integers(-900, 900))
def test_a_needle_dragged_to_where_a_reading_stands_is_that_reading(half_divisions: int) -> None:
    mm = half_divisions * DIAL.step_mm
    at = needle_at(DIAL, mm)
    assert at is not None
    length = dial_reading(DIAL, at)
    assert length.mm == pytest.approx(mm, abs=1e-9)
    assert DIAL.read(length.text, "div").mm == pytest.approx(mm, abs=1e-9)
    assert length.signed


def test_what_has_no_needle_says_so() -> None:
    assert needle_at(DigitalIndicator(), 0.2) is None
    # a slip of the finger that no dial could show
    assert needle_at(DIAL, 1e6) is None
    assert needle_at(DIAL, -1e6) is None
    with pytest.raises(Problem, match="no needle"):
        dial_reading(DigitalIndicator(), DialPosition(angle_deg=10, turns=0))
    with pytest.raises(ValidationError):
        DialPosition(angle_deg=400, turns=0)
    with pytest.raises(ValidationError, match="no divisions"):
        DigitalIndicator(unit="div")


def test_a_target_is_told_in_the_dials_own_unit() -> None:
    assert DIAL.as_read(-0.095).metric == DIAL.as_read(-0.095).inch == "\N{MINUS SIGN}9.5 div"
    inch = PlungerDial(graduation_mm=0.0254, range_mm=25.4, unit="thou")
    assert inch.as_read(0.0381).metric == "+1.5 thou"


def test_a_level_reads_in_its_own_divisions_and_shows_them() -> None:
    level = Level(sensitivity_mm_per_m=0.02, base_mm=200, divisions_each_way=5)
    read = level.read("-2.5")
    assert (read.mm, read.unit) == (pytest.approx(-2.5 * 0.02 * 0.2), "div")
    assert level.reading_words(read.mm).metric == "−2.5 div"
    assert level.reading_words(read.mm).inch == "−2.5 div"
    assert level.reads_words.metric == "0.01 mm/m"
    assert level.question(level.read("3.5")) is None
    doubt = level.question(level.read("8"))
    assert doubt
    assert doubt.about == "range"
    between = level.question(level.read("1.3"))
    assert between
    assert between.choice_words[0].metric == "+1 div"
    assert level.level_base_mm == 200
    with pytest.raises(Problem, match="no level"):
        _ = PlungerDial().level_sensitivity_mm_per_m


@pytest.mark.parametrize("instrument", [Caliper(), Rule()])
def test_a_size_below_nothing_is_questioned(instrument: Any) -> None:
    doubt = instrument.question(instrument.read("-6 mm"))
    assert doubt
    assert "less than nothing" in doubt.text.metric
    assert instrument.question(instrument.read("6 mm")) is None
    beyond = instrument.question(instrument.read("40 m"))
    assert beyond
    assert beyond.about == "range"


@pytest.mark.parametrize(
    ("instrument", "unit", "typed", "meant"),
    [
        # a figure in mm in a field that stood in divisions, of every size up to half a division
        (DIAL, "div", "0.018", 0.018),
        (DIAL, "div", "-0.02", -0.02),
        (PlungerDial(graduation_mm=0.01), "div", "+0.12", 0.12),
        (PlungerDial(graduation_mm=0.002), "div", "0.004", 0.004),
        # and one in inches in a field that stood in mm
        (PlungerDial(graduation_mm=0.01), "mm", "0.0005", 0.0127),
        (DigitalIndicator(resolution_mm=0.01), "mm", "-0.0008", -0.02032),
    ],
)
def test_a_slip_of_the_unit_never_passes(
    instrument: Any, unit: Any, typed: str, meant: float
) -> None:
    """Kept as typed it would be nothing at all, and the machine the truest there is."""
    read = instrument.read(typed, unit)
    assert 0 < abs(read.mm) < instrument.step_mm / 4
    asked = instrument.question(read)
    assert asked is not None
    assert asked.about == "unit"
    assert len(asked.choices) == len(asked.choice_words)
    assert any(c == pytest.approx(meant) for c in asked.choices)
    # what is meant is asked nothing more, but for which turn it was
    again = instrument.question(instrument.read(f"{meant:+} mm"))
    assert again is None or again.about == "steps"


@given(st.integers(-40, 40))
def test_what_can_be_read_off_is_no_slip(steps: int) -> None:
    for instrument in (DIAL, DigitalIndicator(), FeelerBlades(), LeverDial()):
        asked = instrument.question(instrument.read(f"{steps * instrument.step_mm:+.6f} mm"))
        assert asked is None or asked.about != "unit"
