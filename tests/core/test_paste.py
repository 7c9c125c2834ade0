"""Readings copied from elsewhere: what is understood of them, line by line."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from truing.contract.paste import read_pasted
from truing.kit.instruments import PlungerDial
from truing.machine import starting_point
from truing.measure.problem import Problem
from truing.measure.words import plain, stated
from truing.registry import kind

RAIL = kind("rail_straight")
HOW = RAIL.setup_type(places_mm=[0, 250, 500, 750])
PLAN = RAIL.stations(HOW)
DIAL = PlungerDial(graduation_mm=0.01, range_mm=5, repeatability_mm=0.003, unit="mm")


def pasted(text: str, plan: Any = PLAN, counts: dict[str, int] | None = None, **more: Any) -> Any:
    return read_pasted(text, plan, counts or {}, DIAL, **more)


def kept(text: str, **more: Any) -> list[tuple[str, str]]:
    told = pasted(text, **more)
    return [(x.station, x.text) for x in told.lines if x.station]


ALL = ["0", "250", "500", "750"]


@pytest.mark.parametrize(
    ("text", "values"),
    [
        ("0.01\n0.02\n-0.03\n0", ["0.01", "0.02", "-0.03", "0"]),
        ("height (mm)\n0.01\n0.02\n0.03\n0.04\n", ["0.01", "0.02", "0.03", "0.04"]),
        ("0,01\n0,02\n−0,03\n0,04", ["0,01", "0,02", "−0,03", "0,04"]),
        ("place;reading\n0;0,01\n250;0,02\n500;0,03\n750;0,04", ["0,01", "0,02", "0,03", "0,04"]),
        ("0,0.01\n250,0.02\n500,0.03\n750,0.04", ["0.01", "0.02", "0.03", "0.04"]),
        ("0\t1 div\n250\t2 div\n500\t3 div\n750\t4 div", ["1 div", "2 div", "3 div", "4 div"]),
        (
            '"0","0.01 mm"\n"250","0.02 mm"\n"500","0.03 mm"\n"750","0.04 mm"',
            ["0.01 mm", "0.02 mm", "0.03 mm", "0.04 mm"],
        ),
        (
            '0, "0.01 mm"\n250, "0.02 mm"\n500, "0.03 mm"\n750, "0.04 mm"',
            ["0.01 mm", "0.02 mm", "0.03 mm", "0.04 mm"],
        ),
        # a whole line in quotes is the line
        (
            '"0 0.01"\n"250 0.02"\n"500 0.03"\n"750 0.04"',
            ["0.01", "0.02", "0.03", "0.04"],
        ),
        ('"0.01"\n"0.02"\n"0.03"\n"0.04"', ["0.01", "0.02", "0.03", "0.04"]),
        # neither the clock of a line nor a word of its text is a reading
        (
            "12:03 station=0 value=0.01\n12:04 station=250 value=0.02\n"
            "12:05 station=500 value=0.03\n12:06 station=750 value=0.04",
            ["0.01", "0.02", "0.03", "0.04"],
        ),
        (
            "12:03:05 at 0: 0.01 mm\n12:04:05 at 250: 0.02 mm\n12:05:05 at 500: 0.03 mm\n"
            "12:06:05 at 750: 0.04 mm",
            ["0.01 mm", "0.02 mm", "0.03 mm", "0.04 mm"],
        ),
        ('.002"\n-.001”\n5.0e-03 in\n1/64 in', ['.002"', "-.001”", "5.0e-03 in", "1/64 in"]),
        ("-1/2 div\n⅓ div\n—0.05\nhalf a thou", ["-1/2 div", "⅓ div", "—0.05", "half a thou"]),
        ("1,0.01\n2,0.02\n3,-0.03\n4,0.04", ["0.01", "0.02", "-0.03", "0.04"]),
        ("0 0.01\n250 0.02\n500 0.03\n750 0.04", ["0.01", "0.02", "0.03", "0.04"]),
        # a row of a spreadsheet is a whole pass
        ("0.5 0.55 0.70 0.40", ["0.5", "0.55", "0.70", "0.40"]),
        ("0.5\t0.55\t0.70\t0.40", ["0.5", "0.55", "0.70", "0.40"]),
    ],
)
def test_columns_files_and_logs_are_understood(text: str, values: list[str]) -> None:
    assert kept(text) == list(zip(ALL, values, strict=True))


def test_lines_that_name_their_place_need_no_order() -> None:
    assert kept("750, 0.04\n0, 0.01") == [("750", "0.04"), ("0", "0.01")]
    assert pasted("750, 0.04\n0, 0.01").missing == [stated("250 mm"), stated("500 mm")]
    # after what has been read already the plan goes on where it stood
    assert kept("0.5", counts={"0": 1, "250": 1}) == [("500", "0.5")]


def test_numbers_that_are_places_of_the_plan_are_no_counting() -> None:
    plan = RAIL.stations(HOW.model_copy(update={"places_mm": [0, 1, 2, 3]}))
    assert kept("1, 0.01\n2, 0.02\n3, 0.03", plan=plan) == [
        ("1", "0.01"),
        ("2", "0.02"),
        ("3", "0.03"),
    ]
    # of another plan they only count the lines
    assert kept("1, 0.01\n2, 0.02\n3, 0.03") == [("0", "0.01"), ("250", "0.02"), ("500", "0.03")]


def test_several_figures_behind_a_place_are_its_passes() -> None:
    passes = [("250", "0.02"), ("250", "0.03"), ("500", "0.04")]
    assert kept("250\t0.02\t0.03\n500\t0.04") == passes
    named = [s.model_copy(update={"label": plain(f"foot {s.key}")}) for s in PLAN]
    assert kept("foot 250;0.02;0.03\nFoot 500;0.04", plan=named) == passes


@pytest.mark.parametrize("text", ["0,50", "0,12\n250,3"])
def test_what_can_be_read_two_ways_asks(text: str) -> None:
    with pytest.raises(Problem, match="could be") as problem:
        pasted(text)
    assert problem.value.field == "text"


def test_nothing_is_left_out_of_a_line_in_silence() -> None:
    told = pasted("0.01 0.02 0.03\n0.04 0.05 0.06")
    assert told.usable == 0
    assert all("3 figures stand in this line" in x.problem for x in told.lines)
    # nor is one line's open quote the end of the others
    assert [x.text for x in pasted('"0.01;x\n0.02;y').lines][-1] == "0.02"
    with pytest.raises(Problem, match="longer than"):
        pasted("1" * 2001)


@given(
    st.lists(st.decimals(-4, 4, places=2), min_size=4, max_size=4),
    st.sampled_from(["\n", "\t", " ", "; "]),
    st.sampled_from(["-", "−", "–", "‐"]),
    st.booleans(),
)
@example([Decimal("0.10")] * 4, " ", "-", True)
def test_any_column_or_row_comes_back(
    values: list[object], mark: str, minus: str, comma: bool
) -> None:
    texts = [str(v).replace("-", minus) for v in values]
    if comma:
        texts = [t.replace(".", ",") for t in texts]
    got = pasted(mark.join(texts))
    words = [x.words.metric.replace("−", "-").replace("+", "") for x in got.lines]
    assert [float(w.split()[0]) for w in words] == pytest.approx(
        [float(str(v)) for v in values], abs=6e-3
    )
    assert [x.station for x in got.lines] == ALL


def test_a_header_tells_the_unit_and_what_was_assumed_is_said() -> None:
    told = pasted("dial [µm]\n12\n-4")
    assert [(x.text, x.unit, x.words.metric) for x in told.lines if x.station] == [
        ("12", "µm", "+0.012 mm"),
        ("-4", "µm", "−0.004 mm"),
    ]
    assert told.lines[0].skipped
    assert told.assumed == ["The header says µm."]
    assert pasted("0,5\n0,6").assumed == ["Commas are taken as decimal commas."]


def test_a_figure_with_a_unit_of_its_own_keeps_it() -> None:
    told = pasted("dial [µm]\n0.01 in\n2 thou\n3 div\n4")
    assert [x.unit for x in told.lines if x.station] == ["in", "thou", "div", "µm"]


def test_nonsense_is_told_line_by_line_and_the_rest_can_be_kept() -> None:
    told = pasted("0.01\nrubbish\n0.02 furlong\n3 mil\n0.03")
    assert [bool(x.problem) for x in told.lines] == [False, True, True, True, False]
    assert "no number" in told.lines[1].problem
    assert "“furlong” in “0.02 furlong” is not a unit" in told.lines[2].problem
    assert "Type thou or mm" in told.lines[3].problem
    assert [x.station for x in told.lines] == ["0", None, None, None, "250"]
    assert told.usable == 2
    for empty in ("", "  \n \n"):
        with pytest.raises(Problem, match="nothing in it") as problem:
            pasted(empty)
        assert problem.value.field == "text"
    with pytest.raises(Problem, match="more than a round"):
        pasted("1\n" * 501)
    walk = kind("inspection")
    machine = starting_point("column_mill")
    seen = walk.stations(walk.propose(machine).model_copy(update={"travels": False}))
    with pytest.raises(Problem, match="takes a length"):
        pasted("1", plan=seen)


def test_rows_of_turns_go_round_seat_by_seat_as_they_are_read() -> None:
    core = kind("tool_runout")
    how = core.setup_type(way="index", seats=2, marks=4, passes=2)
    plan = core.stations(how)
    rows = "0 3 7 4\n0 3 7 5\n-1 -3 2 0\n-1 -3 2 1"
    told = read_pasted(rows, plan, {}, DIAL, "div", core.order(how))
    found = [(x.station, x.text) for x in told.lines if x.station]
    assert [key for key, _ in found] == [
        f"{seat}:25:{mark}" for seat in (0, 0, 1, 1) for mark in (1, 2, 3, 4)
    ]
    assert [text for _, text in found][4:8] == ["0", "3", "7", "5"]
    # half of it again goes on where it was left
    more = read_pasted("9 9 9 9", plan, {f"0:25:{m}": 2 for m in (1, 2, 3, 4)}, DIAL, "div")
    assert {x.station for x in more.lines} == {f"1:25:{m}" for m in (1, 2, 3, 4)}
    # a turn with a figure too few is not guessed at
    short = read_pasted("0 3 7 4\n0 3 7", plan, {}, DIAL, "div", core.order(how))
    assert "none is said to be the reading" in short.lines[-1].problem


def test_two_counted_rows_are_counted_and_one_is_a_place() -> None:
    assert kept("1,0.01\n2,0.02") == [("0", "0.01"), ("250", "0.02")]
    # by itself it may be a place that the plan lacks: nothing is put anywhere
    assert kept("1,0.01") != [("0", "0.01")]


@pytest.mark.parametrize("closes", [True, False])
@pytest.mark.parametrize("rows", [True, False])
def test_turns_that_come_back_to_their_first_mark_are_pasted_with_it_or_without(
    rows: bool, closes: bool
) -> None:
    core = kind("tool_runout")
    how = core.setup_type(way="index", seats=3, marks=4, passes=1)
    plan, order = core.stations(how), core.order(how)
    wanted = [s.key for s in (order if closes else plan)]
    size = len(wanted) // 3
    figures = [f"+0.{i:03}" for i in range(len(wanted))]
    lines = [" ".join(figures[i * size : (i + 1) * size]) for i in range(3)] if rows else figures
    found = read_pasted("\n".join(lines), plan, {}, DIAL, "mm", order)
    assert [line.station for line in found.lines] == wanted
