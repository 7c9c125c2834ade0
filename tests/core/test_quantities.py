"""What people type, and what they are shown."""

from __future__ import annotations

import math
import re
from typing import Any

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from truing.measure.clock import angle_rad, clock_label, parse_clock, parse_clocks
from truing.measure.fields import rounded
from truing.measure.lengths import parse_length, parse_lengths
from truing.measure.problem import Problem
from truing.measure.sizes import parse_size
from truing.measure.words import (
    UNITS,
    Words,
    exact_slope,
    goes,
    plain,
    show,
    show_estimate,
    show_limits,
    span,
)


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("0.07", 0.07),
        ("+0,07 mm", 0.07),
        ("-.0005 in", -0.0127),
        ("\N{MINUS SIGN}3", -3),
        ("1.5 thou", 0.0381),
        ("4 tenths", 0.01016),
        ("12 µm", 0.012),
        ("12 \N{GREEK SMALL LETTER MU}m", 0.012),
        ("12um", 0.012),
        ("7 div", 0.07),
        ("1/64 in", 0.396875),
        ('1 1/2"', 38.1),
        ("-1-1/4 inch", -31.75),
        ("½ in", 12.7),
        ("1½ in", 38.1),
        ("18 cm", 180),
        ("1.2 m", 1200),
        ("5.", 5),
        (".002”", 0.0508),
        ("5e-4 in", 0.0127),
        ("5.0e-03", 0.005),
        ("0.001 ins", 0.0254),
        ("1⁄2 div", 0.005),
        ("⅓ div", 0.01 / 3),
        ("‐3 div", -0.03),
        ("—0.05", -0.05),
        ("－0.05", -0.05),
        ("-½ div", -0.005),
        ("half a thou", 0.0127),
        ("-three quarters of a division", -0.0075),
        ("a tenth", 0.00254),
        ("1.234,5", 1234.5),
        ("1,234.5", 1234.5),
        ("12,345,678 µm", 12345.678),
        ("0.5″", 12.7),
        ("1′′", 25.4),
    ],
)
def test_it_reads_what_people_type(text: str, mm: float) -> None:
    assert parse_length(text, division_mm=0.01).mm == pytest.approx(mm, abs=1e-9)


@pytest.mark.parametrize(
    ("text", "hint"),
    [
        ("2 mil", "thousandth of an inch"),
        ("3 mils", "thousandth of an inch"),
        ("1,250 mm", "could be"),
        ("", "Nothing"),
        ("seven", "not a length"),
        ("3 4", "not a length"),
        ("+-3", "not a length"),
        ("1/0 in", "zero"),
        ("3 furlongs", "not a unit"),
        ("900 m", "metres"),
        ("5e", "not a unit"),
        ("1.234.56", "not a length"),
        ("1,234,56", "not a length"),
        ("12,3456.7", "not a length"),
        ("half", "not a length"),
        ("1 turn", "Turns mean nothing"),
        ("0.5'", "not a unit"),
        ("9" * 61, "not a length"),
        ("nan", "not a length"),
        ("1.2.3", "not a length"),
    ],
)
def test_it_refuses_what_could_be_misread_and_says_what_would_do(text: str, hint: str) -> None:
    with pytest.raises(Problem, match=re.escape(hint)) as caught:
        parse_length(text)
    assert caught.value.expected


@pytest.mark.parametrize(
    ("text", "mm"),
    [("1 turn 5 div", 1.05), ("-2 turns and 3", -2.03), ("½ turn", 0.5), ("1 rev 0.2 mm", 1.2)],
)
def test_turns_of_the_needle_are_counted(text: str, mm: float) -> None:
    got = parse_length(text, division_mm=0.01, turn_mm=1.0)
    assert got.mm == pytest.approx(mm)
    assert got.signed, "which turn it is has been said"
    # a finer dial goes less far in a turn
    assert parse_length(text, division_mm=0.002, turn_mm=0.2).signed
    fine = parse_length("3 turns 5 div", division_mm=0.002, turn_mm=0.2)
    assert fine.mm == pytest.approx(0.61)


def test_divisions_need_a_dial() -> None:
    with pytest.raises(Problem, match="without a dial"):
        parse_length("7 div")


SIZES = {"mm": 1, "µm": 1e-3, "in": 25.4, "thou": 0.0254, "tenths": 0.00254, "div": 0.02}


@given(st.decimals(-900, 900, places=4), st.sampled_from(sorted(SIZES)), st.booleans())
def test_any_decimal_in_any_unit_comes_back(value: object, unit: str, comma: bool) -> None:
    text = str(value).replace(".", ",") if comma else str(value)
    got = parse_length(f"{text} {unit}", division_mm=0.02)
    assert got.mm == pytest.approx(float(str(value)) * SIZES[unit], rel=1e-12, abs=1e-15)
    assert parse_length(text, unit=unit, division_mm=0.02).mm == got.mm  # type: ignore[arg-type]


@given(st.text(max_size=20))
def test_any_text_is_a_length_or_a_problem(text: str) -> None:
    try:
        mm, expected = parse_length(text, division_mm=0.01).mm, "none needed"
    except Problem as problem:
        mm, expected = 0.0, problem.expected
    assert abs(mm) <= 100_000
    assert expected


@given(st.floats(-99, 99), st.sampled_from([0.001, 0.005, 0.01, 0.0005]))
def test_what_is_shown_can_be_typed_again(mm: float, step: float) -> None:
    words = show(mm, step, signed=True)
    assert parse_length(words.metric).mm == pytest.approx(mm, abs=0.51 * max(step, 1e-4) * 10)
    assert parse_length(words.inch).mm == pytest.approx(mm, abs=25.4e-3 if step > 0.001 else 0.026)


@given(st.floats(-5, 5), st.floats(1e-4, 2))
def test_no_more_digits_than_the_uncertainty_supports(value: float, expanded: float) -> None:
    text = show_estimate(value, expanded, "length").metric
    shown_value, shown_u = re.findall(r"\d+(?:\.\d+)?", text)[:2]
    decimals = [len(t.partition(".")[2]) for t in (shown_value, shown_u)]
    assert decimals[0] == decimals[1]
    assert float(shown_u) == pytest.approx(expanded, rel=0.34)
    assert len(shown_u.replace(".", "").lstrip("0")) <= 2


def test_a_list_takes_the_unit_of_its_last() -> None:
    assert parse_lengths("-12, 0, 12 in") == pytest.approx([-304.8, 0, 304.8])
    assert parse_lengths("\N{MINUS SIGN}300; 0 µm; 30 cm".replace(";", " mm;", 1)) == pytest.approx(
        [-300, 0, 300]
    )
    for text in ("3, left", "-300, 0 mm, 30 cm", "30 cm, 0 mm, 5", "0.5; x", "9, " * 2000):
        with pytest.raises(Problem):
            parse_lengths(text)


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("–12, 12 in", [-304.8, 304.8]),
        ("½, 1 in", [12.7, 25.4]),
        ("0,05; 0,1", [0.05, 0.1]),
        ("-300,0,300", [-300, 0, 300]),
        ("0.05,0.1", [0.05, 0.1]),
        ("-300 0 300", [-300, 0, 300]),
        ("1 1/2, 3 in", [38.1, 76.2]),
        ("100,200,300", [100, 200, 300]),
        ("", []),
    ],
)
def test_lists_are_read_in_the_one_way_they_can_be(text: str, mm: list[float]) -> None:
    assert parse_lengths(text) == pytest.approx(mm)


@pytest.mark.parametrize("text", ["0,05", "10,20", "0,05, 0,1", "1,250 mm", "0,05 in"])
def test_a_list_that_can_be_read_two_ways_asks(text: str) -> None:
    with pytest.raises(Problem, match="could be") as problem:
        parse_lengths(text)
    assert "point" in problem.value.expected


@given(st.lists(st.decimals(-99, 99, places=3), min_size=2, max_size=6), st.sampled_from(",; "))
def test_any_list_that_is_written_plainly_comes_back(values: list[object], mark: str) -> None:
    text = f"{mark} ".join(map(str, values)) + " in"
    assert parse_lengths(text) == pytest.approx([float(str(v)) * 25.4 for v in values])


@pytest.mark.parametrize(
    ("text", "hours"),
    [
        ("3", 3),
        ("12", 12),
        ("0", 12),
        ("4:30", 4.5),
        ("1:45", 1.75),
        ("10.5", 10.5),
        ("0:20", 1 / 3),
        ("12:20", 1 / 3),
        ("12.5", 0.5),
    ],
)
def test_places_on_a_clock(text: str, hours: float) -> None:
    assert parse_clock(text) == pytest.approx(hours)
    assert parse_clock(clock_label(hours)) == pytest.approx(hours)
    assert parse_clocks(f"{text}, 6") == pytest.approx([hours, 6])
    # counter-clockwise from the right, seen from above: 12 is the rear, 3 the right
    along, rear = math.cos(angle_rad(hours)), math.sin(angle_rad(hours))
    turned = math.radians(30 * hours)
    assert (along, rear) == pytest.approx((math.sin(turned), math.cos(turned)), abs=1e-9)


@given(st.floats(0.02, 12.0))
@example(0.997)
@example(11.997)
def test_any_place_on_a_clock_is_told_to_the_minute(hours: float) -> None:
    apart = abs(parse_clock(clock_label(hours)) - hours)
    assert min(apart, 12 - apart) <= 0.5 / 60 + 1e-9


@pytest.mark.parametrize("text", ["13", "4:60", "-1", "noon", "", "13.5", "3:5"])
def test_what_is_no_place_on_a_clock(text: str) -> None:
    with pytest.raises(Problem, match="no place on a clock"):
        parse_clock(text)


@pytest.mark.parametrize(
    ("mm", "inch"),
    [(0, "0.00 in"), (-0.1, "0.00 in"), (-0.2, "\N{MINUS SIGN}0.01 in"), (254, "10.00 in")],
)
def test_a_part_is_as_long_as_it_is_and_never_minus_nothing(mm: float, inch: str) -> None:
    assert span(mm).inch == inch
    assert span(mm).metric == f"{round(mm)} mm"


@given(st.floats(1e-4, 2.5).map(lambda v: round(v, 6)))
def test_what_nobody_has_stated_is_round_in_inches_as_things_are_graduated(mm: float) -> None:
    """One, two or five of a tenth, a hundredth, a thou …: of all of them the nearest."""
    steps = [n * 10.0**k for k in range(-8, 0) for n in (1, 2, 5)]
    inch = mm / 25.4
    nearest = min(abs(s - inch) for s in steps)
    said = float(rounded(mm).inch.removesuffix(" in"))
    # told to a tenth of a thou, or to three digits where that is less
    assert abs(said - inch) <= nearest + max(0.00005, said * 0.005)
    assert rounded(-mm).inch == "\N{MINUS SIGN}" + rounded(mm).inch


def test_a_move_too_small_to_be_read_is_not_told_as_one() -> None:
    near, far = plain("+0.2 mm"), plain("+0.3 mm")
    assert goes("the needle", near, far).metric == "the needle goes from +0.2 mm to +0.3 mm"
    assert "from" not in goes("the needle", near, near).metric
    mixed = goes(
        "the gap", Words(metric="1 mm", inch="0.04 in"), Words(metric="1 mm", inch="0.05 in")
    )
    assert "stays" in mixed.metric
    assert "goes from 0.04 in" in mixed.inch


@pytest.mark.parametrize(
    ("told", "metric", "inch"),
    [
        (
            show_estimate(-0.1234, 0.0123, "slope"),
            "−0.123 ± 0.012 mm/m",
            "−0.00148 ± 0.00015 in/ft",
        ),
        (show_estimate(0.5, 0.03, "length", signed=True), "+0.50 ± 0.03 mm", "+0.0197 ± 0.0012 in"),
        (show_limits(0.011, 0.0234, "length"), "0.011 to 0.023 mm", "0.0004 to 0.0009 in"),
        (show_limits(0.0, 0.3, "twist"), "at most 0.3 mm/m per m", "at most 0.0011 in/ft per ft"),
        (exact_slope(0.05), "0.05 mm/m", "0.0006 in/ft"),
        (exact_slope(20.0), "20 mm/m", "0.24 in/ft"),
        (exact_slope(0.3), "0.3 mm/m", "0.0036 in/ft"),
        (show(1.5, 0.0, signed=True), "+1.5000 mm", "+0.0591 in"),
        (show(-2e-9, 1e-9, unit=False), "0.000000", "0.000000"),
        (show(254, 1, "feed"), "254 mm/min", "10.00 in/min"),
        (span(-355.6), "−356 mm", "−14.00 in"),
        (plain("AB and C").lower(), "aB and C", "aB and C"),
        (plain("from the nose").capital(), "From the nose", "From the nose"),
    ],
)
def test_a_figure_is_shown_in_its_unit_with_the_digits_it_has(
    told: Words, metric: str, inch: str
) -> None:
    assert (told.metric, told.inch) == (metric, inch)


@given(
    st.sampled_from(["length", "slope", "twist", "feed", "accel"]),
    st.floats(0.5, 100),
    st.booleans(),
)
def test_a_size_is_read_as_it_is_shown(measure: Any, value: float, inch: bool) -> None:
    shown = show(value, value / 1e5, measure)
    text = shown.inch if inch else shown.metric
    assert parse_size(text, measure) == pytest.approx(value, rel=1e-3)
    assert parse_size(text.replace("/", " / ").upper(), measure) == pytest.approx(value, rel=1e-3)


@pytest.mark.parametrize(
    ("text", "measure", "metric"),
    [
        ("1 1/2 in/ft", "slope", 125.0),
        ("1/2 mm / m", "slope", 0.5),
        ("0,0006in/ft", "slope", 0.05),
        ("2 MM/M per M", "twist", 2.0),
        ("10 in/s2", "accel", 254.0),
        ("0.3", "feed", 0.3),
        ("1 1/2 thou", "length", 0.0381),
    ],
)
def test_a_size_is_read_as_people_write_it(text: str, measure: Any, metric: float) -> None:
    assert parse_size(text, measure) == pytest.approx(metric)


@pytest.mark.parametrize(
    ("text", "measure"),
    [
        ("0.1 in", "slope"),
        ("0.1 mm/m", "feed"),
        ("a bit", "twist"),
        ("", "slope"),
        ("9 div", "feed"),
    ],
)
def test_a_size_in_the_unit_of_something_else_is_refused(text: str, measure: Any) -> None:
    with pytest.raises(Problem, match="not understood") as refused:
        parse_size(text, measure)
    assert UNITS[measure][0] in refused.value.expected
    assert UNITS[measure][1] in refused.value.expected
