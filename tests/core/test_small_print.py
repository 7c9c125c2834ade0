"""Small print: the edges of what is asked, counted and told, where a slip would go unseen."""

from __future__ import annotations

from collections import Counter
from typing import Any

import numpy as np
import pytest
from pydantic import ValidationError

from tests.core.cases import STOCK
from tests.core.helpers import START, TRAM, about, answered, case_of, readings, setup
from tests.core.printed import sheets
from truing.checks.rail_straight.upgrades import UPGRADES
from truing.contract.history import History, MoveMade, PastRound
from truing.contract.logs import MOST_POINTS, read_log
from truing.contract.move import Act, Move
from truing.contract.readings import LogReading
from truing.course.guide import guide
from truing.course.plan import estimate
from truing.course.standing import Log, Result, Tilt, standings
from truing.course.step import next_step
from truing.drawing.pdf import to_pdf
from truing.drawing.shapes import Drawing, Line
from truing.kit.instruments import LeverDial, PlungerDial, ScaleTrigger
from truing.machine import Pad, starting_point
from truing.machine.subject import THE_MACHINE
from truing.measure.lengths import parse_length, parse_lengths
from truing.measure.problem import Problem
from truing.measure.verdict import verdict, way_out
from truing.measure.words import plain
from truing.moves.shims import MOST_SIZES, nearest_stacks, plan_pads, searched
from truing.registry import kind, registry
from truing.standin.hands import Hands
from truing.standin.kinds.spindle_tram import ANSWERS
from truing.standin.truth import FaceTruth, FootTruth, StandTruth, Truth


def test_a_lever_dials_target_is_what_its_needle_will_show() -> None:
    """At 60° a lever shows twice what the surface does."""
    dial = LeverDial(graduation_mm=0.002, range_mm=1, repeatability_mm=0.001, tip_angle_deg=60)
    mill = starting_point("column_mill")
    how = setup(passes=1)
    lean = 0.8
    shown = [(s.key, 2 * lean / 1000 * s.x_mm) for s in TRAM.stations(how)]
    case = TRAM.weigh(case_of(TRAM, how, readings(shown), dial, machine=mill))
    move = next(m for m in TRAM.advise(case).moves if m.mechanism == "head_pivot")
    [target] = [t for t in move.targets if t.station == "3"]
    assert target.from_mm == pytest.approx(0.16)
    assert target.to_mm == pytest.approx(0.0, abs=1e-6)


def test_what_tightening_did_to_a_face_is_told_to_a_tenth_of_it() -> None:
    vice = kind("face_alignment")
    how = vice.setup_type(face_mm=160.0, places_mm=[-75.0, 0.0, 75.0], passes=1)
    made = MoveMade(key="turn:vice", mechanism="vice", aimed={"face": 0.0}, shift={"face": 0.123})
    past = [
        PastRound(number=i, sitting="before", values={"face": about(0.5)}, move=made)
        for i in range(1, 5)
    ]
    seen = readings([("-75", 0.0), ("0", 0.075), ("75", 0.15)])
    dial = PlungerDial(graduation_mm=0.002, range_mm=10, repeatability_mm=0.001)
    case = vice.weigh(case_of(vice, how, seen, dial, History(sitting="now", past=past)))
    [move] = vice.advise(case).moves
    [note] = [n.metric for n in move.notes if "Tightening has moved it" in n.metric]
    assert "+0.12 mm/m" in note


def test_only_what_all_look_at_is_frozen() -> None:
    with pytest.raises(ValidationError):
        THE_MACHINE.sort = "part"  # type: ignore[misc]


@pytest.mark.parametrize("places", [[-300.0, 300.0], [-380.0, -100.0]])
def test_the_level_to_be_expected_does_not_hang_on_where_the_places_lie(
    places: list[float],
) -> None:
    level, router = kind("gantry_level"), starting_point("gantry_router")
    assert router.lift
    scale = ScaleTrigger(resolution_mm=0.0001, repeatability_mm=0.004)
    how = level.setup_type(places_mm=places, passes=1)
    told = level.expect(case_of(level, how, (), scale, machine=router))
    span = router.lift.right_x_mm - router.lift.left_x_mm
    # two touches, each good to twice its scatter, over the lever to the motors
    lever = span / (places[1] - places[0])
    assert told.expanded == pytest.approx(2 * 0.004 * 2**0.5 * lever, rel=0.01)


def test_a_text_may_be_as_long_as_it_says_and_no_longer() -> None:
    assert parse_length(" " * 10 + "0.5 mm" + " " * 10).mm == 0.5
    with pytest.raises(Problem):
        parse_length("1" * 400 + " mm")


def test_a_list_with_one_unit_too_few_asks() -> None:
    assert parse_lengths("1, 2, 3 in") == pytest.approx([25.4, 50.8, 76.2])
    for text in ("1 in, 2, 3 in", "1 in, 2 in, 3", "1, 2 in, 3 in"):
        with pytest.raises(Problem, match="have a unit and some have none"):
            parse_lengths(text)


def test_a_base_without_four_feet_is_as_twisted_as_its_casting() -> None:
    stand = StandTruth(own_twist_mm_per_m2=2.0)
    assert stand.surface_mm(500, 400) == pytest.approx(0.4)
    three = StandTruth(
        feet=[
            FootTruth(name=n, x_mm=x, y_mm=y) for n, x, y in (("a", 0, 0), ("b", 9, 0), ("c", 0, 9))
        ],
        own_twist_mm_per_m2=-1.0,
    )
    assert three.surface_mm(1000, -1000) == pytest.approx(1.0)


def test_a_saddle_rises_along_one_axis_as_it_falls_along_the_other() -> None:
    truth = Truth(saddle_mm=0.01, bow_mm=0.002)
    assert truth.surface_mm(200, 0) == pytest.approx(0.04 + 0.008)
    assert truth.surface_mm(0, -200) == pytest.approx(-0.04)
    assert truth.surface_mm(50, 50) == pytest.approx(0.0005)


def test_a_face_turns_about_its_bolt_and_nowhere_else() -> None:
    face = FaceTruth(angle_rad=0.3, pivot_mm=40, near_mm=2, along_mm=-5)
    before = np.array([face.along_mm, face.near_mm])
    bolt = before + 40 * np.array([np.cos(0.3), np.sin(0.3)])
    turned = face.turned(-0.2)
    after = np.array([turned.along_mm, turned.near_mm])
    still = after + 40 * np.array([np.cos(0.1), np.sin(0.1)])
    assert still == pytest.approx(bolt)


# --- shims ----------------------------------------------------------------------------------------


def test_each_pad_gets_the_stack_nearest_to_what_it_wants() -> None:
    pieces = Counter({0.02: 1, 0.05: 2, 0.1: 2})
    assert nearest_stacks([0.3, 0.31, 0.41, 0.35], pieces, 2) == [[], [], [0.1], [0.05]]


def test_a_search_over_many_sizes_keeps_those_in_the_machine_and_spans_the_rest() -> None:
    many = Counter({round(0.01 * i, 2): 3 for i in range(1, 4 * MOST_SIZES)})
    few = searched(many, [[0.07], [0.11, 0.07]])
    assert len(few) <= MOST_SIZES + 2
    assert {0.07, 0.11, min(many), max(many)} <= set(few)
    assert searched(Counter({0.05: 1}), [[0.05]]) == [0.05]


# --- verdicts and plans ---------------------------------------------------------------------------


@pytest.mark.parametrize(("gap", "on_it"), [(0.0015, True), (0.0025, False)])
def test_what_lies_on_the_limit_itself_is_taken_as_out(gap: float, on_it: bool) -> None:
    """Within a tenth of its own doubt no further pass will tell on which side."""
    x = about(0.1 - gap, 0.02)
    assert verdict(x, 0.1) == "too_close"
    out = way_out(
        x,
        0.1,
        gain=1.0,
        s_mm=0.001,
        step_mm=0.0001,
        extended=False,
        passes=2,
        spread_dof=9,
        stations=4,
    )
    assert ("lies on the limit itself" in out.text.metric) == on_it


def stands(form: Any, *results: Result) -> list[Any]:
    return standings(starting_point(form), Log(results=results), built=list(registry()), now=START)


def test_what_was_never_measured_says_what_it_is_for() -> None:
    step = next_step(stands("column_mill"))
    assert step
    assert step.reason.metric == f"Not measured yet. {guide(step.kind).purpose.metric}"


def test_a_check_that_is_far_out_is_given_more_rounds() -> None:
    def minutes(times: float | None) -> tuple[int, int]:
        result = Result(kind="spindle_tram", at=START, verdict="out", times_limit=times)
        return estimate(next(s for s in stands("column_mill", result) if s.kind == "spindle_tram"))

    tram = guide("spindle_tram")
    for times, rounds in ((None, 1), (1.5, 1), (3.5, 2), (100.0, 4)):
        assert minutes(times) == (tram.minutes + rounds * tram.round_minutes, rounds)


def test_a_tram_begins_on_the_board_where_there_is_one() -> None:
    surface = {
        form: TRAM.form(starting_point(form))["properties"]["surface"]["default"]
        for form in ("gantry_router", "column_mill")
    }
    assert surface == {"gantry_router": "board", "column_mill": "table"}


# --- reading and printing -------------------------------------------------------------------------


def test_a_reading_near_a_step_is_no_question() -> None:
    dial = PlungerDial(graduation_mm=0.01, range_mm=10, repeatability_mm=0.003)
    # it is read to half a graduation
    for typed, asked in (("0.0152", False), ("0.01546", True), ("0.0175", True)):
        question = dial.question(parse_length(f"{typed} mm"))
        assert (question is not None) == asked, typed
    assert question
    assert question.choices == pytest.approx([0.015, 0.02])


def test_a_log_has_a_largest_size_and_says_so() -> None:
    assert len(read_log("1 2\n" * MOST_POINTS)["a"]) == 200_000
    with pytest.raises(Problem, match="200001 points") as refused:
        read_log("1 2\n" * (MOST_POINTS + 1))
    assert "200000" in refused.value.expected


def test_blank_lines_and_remarks_of_a_log_are_passed_over() -> None:
    told = read_log("# by hand\n\nx z\n1 2\n   \n  % again\n3 4\n\n")
    assert told == {"x": [1.0, 3.0], "z": [2.0, 4.0]}


def test_what_is_dangerous_stands_out_of_a_walk() -> None:
    """And an oil point that stays dry; what is only on the list is noted."""
    walk = kind("inspection")
    how = walk.propose(starting_point("column_mill")).model_copy(update={"oil_points": 2})
    one, other = how.places[:2]
    said = {one: "danger", other: "list", "oil:1": "dry", "oil:2": "flows"}
    notes = walk.evaluate(case_of(walk, how, answered(walk, how, said))).notes
    tones = {n.station: n.tone for n in notes if n.station in said}
    assert tones == {one: "look", other: "info", "oil:1": "look"}


@pytest.mark.parametrize(("high", "count"), [(100.0, 1), (400.0, 2)])
def test_a_drawing_over_two_sheets_numbers_them(high: float, count: int) -> None:
    line = Line(points=[(0, 0), (10, high)])
    made = to_pdf(Drawing(title="Gib", width_mm=100, height_mm=high, shapes=[line]))
    pages = sheets(made)
    assert len(pages) == count
    assert any("sheet 2 of 2" in t for t in pages[-1].texts) == (count == 2)


def test_places_of_an_old_reversal_find_their_stations_again() -> None:
    """In a pass the station was the place; in a reversal it began with the pass."""
    empty = {"edge_mm": {}, "slope": {}, "straightness": {}}
    [up] = [steps["finding"] for steps in UPGRADES.values()]
    for station, told in (("120", "120"), ("A120", "A120")):
        old = {"stations": [{"station": station}], "off_mm": {"120": 0.01}, **empty}
        assert up(old)["bolts"] == [{"at_mm": 120.0, "off_mm": 0.01, "station": told}]


def test_touches_without_a_feed_all_count() -> None:
    level, router = kind("gantry_level"), starting_point("gantry_router")
    how = level.setup_type(way="log", passes=1)
    log = LogReading(
        id="l",
        station=level.stations(how)[0].key,
        read_at=START,
        columns={"x": [-300.0, 300.0, -300.0, 300.0], "z": [0.0, 0.2, 0.01, 0.21]},
    )
    scale = ScaleTrigger(resolution_mm=0.001, repeatability_mm=0.004)
    found = level.evaluate(case_of(level, how, [log], scale, machine=router))
    # two places, each touched twice
    assert sum(s.dof for s in found.spreads.values()) == 2


def test_pads_of_a_rectangle_come_to_lie_on_one_plane() -> None:
    pads = [
        Pad(name=n, x_mm=x, y_mm=y)
        for n, x, y in (("a", -80, -60), ("b", 80, -60), ("c", -80, 60), ("d", 80, 60))
    ]
    found = plan_pads(pads, STOCK, take_x_mm_per_m=0.5, take_y_mm_per_m=0.0, most_pieces=3)
    heights = [sum(s) for s in found.stacks_mm]
    # right pads up by slope times width, on one plane
    assert heights[1] - heights[0] == pytest.approx(0.5 * 0.16, abs=0.006)
    assert heights[0] + heights[3] == pytest.approx(heights[1] + heights[2], abs=0.006)


# --- a head that stands tilted --------------------------------------------------------------------


def test_only_what_needs_its_lean_is_not_known_while_a_head_stands_tilted() -> None:
    mill = starting_point("column_mill").model_copy(update={"quill": True})
    quill, head = "part:quill_left_right", "part:head_left_right"
    read = [
        Result(kind="spindle_tram", at=START, verdict="true"),
        Result(kind="base_level", at=START, verdict="true"),
        *(Result(kind="travel_square", subject=s, at=START, verdict="true") for s in (quill, head)),
    ]
    tilt = Tilt(at=START, said="the head was tilted by 30°")
    found = {
        s.kind: s
        for s in standings(mill, Log(results=read, tilt=tilt), built=list(registry()), now=START)
    }
    assert found["spindle_tram"].withheld
    assert not found["spindle_tram"].amiss
    assert not found["base_level"].withheld
    assert found["base_level"].status == "true"
    # the quill runs in the head and leans with it; the head's own travel does not
    square = {p.key: (p.status, p.needed) for p in found["travel_square"].parts}
    assert not found["travel_square"].withheld
    assert square[quill] == ("unmeasured", False)
    assert square[head] == ("true", True)


@pytest.mark.parametrize("sort", ["lean_x", "nod"])
def test_a_tightened_head_goes_the_way_it_always_goes(sort: str) -> None:
    """Tightening adds its own to whatever the tap did, on either axis."""
    mill = starting_point("knee_mill")
    hands = Hands(machine=mill, rng=np.random.default_rng(1))
    act = Act(end="the top", way="left" if sort == "lean_x" else "front", over_mm=100.0)
    move = Move(
        key="t",
        mechanism="head_pivot",
        title=plain("t"),
        steps=[act.words],
        acts=[act],
        predicted=[],
        takes=[],
    )
    still = Truth(tighten_about_x_mrad=0.02, tighten_about_y_mrad=0.03)
    after = ANSWERS["head_pivot"](move, still, hands)
    turned = (after.head_about_x_mrad, after.head_about_y_mrad)
    assert turned == pytest.approx((0.0, 0.03) if sort == "lean_x" else (0.02, 0.0))
