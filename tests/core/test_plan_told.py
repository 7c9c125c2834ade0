"""What a surfacing plan is told to begin with, and the small sums beside it, each worked out here
in its own way."""

from __future__ import annotations

import math
import re
from typing import Any

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from shapely.geometry import box

from truing.machine.board import Board, KeepOut
from truing.measure.problem import Problem
from truing.measure.words import plain, show_least, show_most
from truing.programs.report import ProgramFault
from truing.surfacing.area import board_area
from truing.surfacing.facts import Facts
from truing.surfacing.foreign import Stated, ground_for
from truing.surfacing.lines import even
from truing.surfacing.plan import make
from truing.surfacing.relief import Relief
from truing.surfacing.seat import corner_words
from truing.surfacing.speeds import speeds
from truing.surfacing.wish import Wish

WIDE, DEEP = 240.0, 160.0


def facts(**more: Any) -> Facts:
    at_x, at_y = np.linspace(-WIDE / 2, WIDE / 2, 4), np.linspace(-DEEP / 2, DEEP / 2, 3)
    given: dict[str, Any] = {
        "machine": "Heron",
        "table_x_mm": WIDE,
        "table_y_mm": DEEP,
        "board": Board(thickness_mm=18, least_mm=8),
        "map": [(float(x), float(y), 0.0) for x in at_x for y in at_y],
        "map_expanded_mm": 0.01,
        "day": "2026-05-02",
    }
    return Facts(**{**given, **more})


def wish(**more: Any) -> Wish:
    return Wish.model_validate({"diameter_mm": 22.0, "depth_mm": 0.5, "skim_mm": 0.2, **more})


def feeds(program: str) -> list[tuple[float, float]]:
    """Every place that the program names in X and Y."""
    found, x, y = [], 0.0, 0.0
    for line in program.splitlines():
        plainly = re.sub(r"\(.*?\)", "", line)
        words = dict(re.findall(r"([XY])(-?\d+\.?\d*)", plainly))
        if words:
            x, y = float(words.get("X", x)), float(words.get("Y", y))
            found.append((x, y))
    return found


@pytest.mark.parametrize(
    ("origin", "middle"),
    [("corner", (WIDE / 2, DEEP / 2)), ("middle", (0.0, 0.0)), ("bed", (0.0, 0.0))],
)
def test_a_program_is_written_about_its_own_zero(origin: str, middle: tuple[float, float]) -> None:
    """What it goes over lies about the middle of the board, as that is seen from its X0 Y0."""
    plan = make(wish(origin=origin), facts())
    places = np.array(feeds(plan.program))
    between = (places.max(axis=0) + places.min(axis=0)) / 2
    # runs in and out are longer on one side than on the other by less than the cutter
    assert np.abs(between - middle).max() < 22.0


def test_a_board_off_the_middle_of_its_bed_takes_its_zero_along() -> None:
    board = Board(thickness_mm=18, least_mm=8, across_mm=100, deep_mm=60, x_mm=40, y_mm=-30)
    assert board_area(board, WIDE, DEEP).bounds == (-10, -60, 90, 0)
    off = facts(board=board)
    middles = {}
    for origin in ("middle", "bed", "corner"):
        places = np.array(feeds(make(wish(origin=origin), off).program))
        middles[origin] = (places.max(axis=0) + places.min(axis=0)) / 2
    assert middles["bed"] - middles["middle"] == pytest.approx((40, -30), abs=0.01)
    assert middles["corner"] - middles["middle"] == pytest.approx((50, 30), abs=0.01)


@pytest.mark.parametrize(("zero", "told"), [("highest", True), ("spot", False)])
def test_where_the_tool_is_set_to_zero_is_told(zero: str, told: bool) -> None:
    plan = make(wish(zero=zero, zero_x_mm=12.0, zero_y_mm=-7.0), facts())
    text = plan.program
    assert ("highest place" in text) == told
    assert ("X 12 Y -7 from mid bed" in text) != told


@pytest.mark.parametrize(("across", "deep", "longer"), [(200, 90, "x"), (80, 150, "y")])
def test_left_to_themselves_passes_run_the_longer_way(
    across: float, deep: float, longer: str
) -> None:
    board = Board(thickness_mm=18, least_mm=8, across_mm=across, deep_mm=deep)
    plan = make(wish(pattern="raster", along="best"), facts(board=board))
    steps = np.abs(np.diff(np.array(feeds(plan.program)), axis=0))
    assert ("x" if steps[:, 0].max() > steps[:, 1].max() else "y") == longer


def test_what_a_leaning_cutter_cuts_below_its_centre() -> None:
    """Every place of its rim, turned about the spindle's foot."""
    a, b, r = (0.3, 0.1), (-0.2, 0.05), 30.0
    ground = Relief(wish(diameter_mm=2 * r), facts(lean_x=a, lean_y=b))
    worst = 0.0
    for sx in (-1, 1):
        for sy in (-1, 1):
            lean = np.array([a[0] + sx * a[1], b[0] + sy * b[1]]) / 1000
            rim = [r * np.array([math.cos(t), math.sin(t)]) for t in np.linspace(0, 7, 2000)]
            worst = max(worst, *(float(-lean @ p) for p in rim))
    assert ground.lean_mm == pytest.approx(worst, rel=1e-4)


def seat_words(corner: float, clearance: float) -> str:
    told = corner_words(
        wish(
            work="seat",
            diameter_mm=16.0,
            relieve=False,
            panel_corner_mm=corner,
            clearance_mm=clearance,
            across_mm=80,
            deep_mm=60,
            panel_mm=3,
        )
    )
    assert told is not None
    return told.metric


@pytest.mark.parametrize(("corner", "clearance"), [(2.0, 0.0), (1.0, 0.15), (3.0, 0.4)])
def test_the_corners_that_are_told_let_the_panel_into_its_seat(
    corner: float, clearance: float
) -> None:
    """Drawn with outlines: the panel, let into a seat whose corners keep the cutter's radius."""
    told = seat_words(corner, clearance)
    fits = re.search(r"a cutter of ([\d.]+) mm or less", told)
    rounds = re.search(r"round the panel’s corners to ([\d.]+) mm or more", told)
    assert fits
    assert rounds

    def lies_in(diameter: float, corner: float = corner) -> bool:
        def rounded(half: float, radius: float) -> Any:
            inner = half - radius
            return box(-inner, -inner, inner, inner).buffer(radius, quad_segs=256)

        seat = rounded(20 + clearance, diameter / 2)
        return bool(rounded(20, corner).difference(seat).area < 2e-3)

    assert lies_in(float(fits[1]) - 0.06)
    assert not lies_in(float(fits[1]) + 0.5)
    assert lies_in(16.0, float(rounds[1]))
    assert not lies_in(16.0, float(rounds[1]) - 0.5)


def test_no_cutter_is_told_that_nobody_has() -> None:
    assert "take a cutter of 0.8 mm or less" in seat_words(0.4, 0.0)
    assert "take a cutter" not in seat_words(0.2, 0.0)


@given(st.floats(-300, 300), st.floats(0.5, 400), st.floats(1, 60), st.floats(1, 60))
@example(low=0.0, size=11.0, step=8.0, flat=10.0)
def test_lines_over_a_face_leave_no_strip_and_are_no_more_than_it_takes(
    low: float, size: float, step: float, flat: float
) -> None:
    at = even(low, low + size, step, flat)
    gaps = np.diff(at)
    assert all(0 < g <= step + 1e-6 for g in gaps)
    # a flat on the first and on the last line covers both edges
    assert at[0] - flat / 2 <= low + 1e-9
    assert at[-1] + flat / 2 >= low + size - 1e-9
    assert low <= at[0] <= at[-1] <= low + size
    # one line less would leave a gap wider than the step, or an edge
    inset = min(step, flat) / 2
    assert len(at) == 1 or (len(at) - 1) * step < size - 2 * 0.98 * inset + step


def test_feeds_are_round_and_never_above_what_holds_them() -> None:
    fast = speeds("mdf", diameter_mm=22.0, teeth=2, spindle_rev=12_000, most_feed_mm_min=2_345)
    assert fast.feed_mm_min == 2_340
    slow = speeds("mdf", diameter_mm=22.0, teeth=2, spindle_rev=12_000, most_feed_mm_min=57.8)
    assert slow.feed_mm_min == 57
    least = speeds("mdf", diameter_mm=22.0, teeth=2, spindle_rev=12_000, most_feed_mm_min=0.4)
    assert least.feed_mm_min == 1
    assert least.feed_limit == "what the drives have proven"


def test_a_speed_is_that_of_the_rim_unless_cutter_or_spindle_hold_it() -> None:
    """Fibre board stands 2400 m a minute: once round a cutter of 40 mm is 0.1257 m."""
    free = speeds("mdf", diameter_mm=40.0, teeth=2)
    assert (free.rev_per_min, free.rev_limit) == (19_000, "fibre board")
    assert free.rim_m_s == pytest.approx(0.04 * math.pi * 19_000 / 60)
    # 0.15 mm to a tooth
    assert (free.feed_mm_min, free.feed_limit) == (5_700, "the chip")
    held = speeds("mdf", diameter_mm=40.0, teeth=2, rated_rev=18_500, spindle_rev=24_000)
    assert (held.rev_per_min, held.rev_limit) == (18_000, "the cutter’s rated speed")
    held = speeds("mdf", diameter_mm=40.0, teeth=2, rated_rev=18_500, spindle_rev=9_990)
    assert (held.rev_per_min, held.rev_limit) == (9_900, "the spindle")
    fine = speeds("mdf", diameter_mm=40.0, teeth=2, chip_mm=0.05)
    assert fine.feed_mm_min == 1_900


def test_the_ground_of_a_foreign_program_is_the_bed_seen_from_its_zero() -> None:
    """The same places of the bed, whichever of them is called X0 Y0, and the same heights."""
    tall = KeepOut(name="clamp", what="clamp", shape="rectangle", x_mm=80, y_mm=50, across_mm=20,
                   deep_mm=10, top_mm=12.0)  # fmt: skip
    board = Board(thickness_mm=18, least_mm=8, keep_outs=[tall])
    bed = facts(board=board, map=[(x, y, 0.001 * x - 0.002 * y) for x, y, _ in facts().map])
    tops: list[float] = []
    reach = {"reach_left_mm": -130, "reach_right_mm": 140, "reach_front_mm": -90}
    for x, y, top, thick in ((0, 0, 0, 0), (-70, 30, 0, 0), (25, -40, 3.5, 6), (60, 60, 0, 12)):
        ground = ground_for(Stated(x_mm=x, y_mm=y, top_mm=top, thickness_mm=thick, **reach), bed)
        here = 0.001 * x - 0.002 * y
        assert ground.board == pytest.approx(
            (-WIDE / 2 - x, -DEEP / 2 - y, WIDE / 2 - x, DEEP / 2 - y)
        )
        assert ground.reach == pytest.approx((-130 - x, -90 - y, 140 - x, 150 - y))
        told = {(round(a + x, 6), round(b + y, 6)): z for a, b, z in ground.map}
        assert told == pytest.approx({(a, b): z - here + top for a, b, z in bed.map}, abs=1e-9)
        assert ground.highest_mm == pytest.approx(max(z for _, _, z in bed.map) - here + top)
        assert ground.safe == pytest.approx(ground.highest_mm + 2.0)
        # the clamp stands on the board; the work lies on it, and Z is zeroed on the work
        [kept] = ground.kept
        at = np.array(kept.outline) + np.array([x, y])
        assert at.min(axis=0) == pytest.approx([70, 45], abs=3)
        assert at.max(axis=0) == pytest.approx([90, 55], abs=3)
        tops.append(kept.top_mm + here - top + thick)
        assert 12 <= tops[-1] == pytest.approx(tops[0])
        # through the work by half a millimetre, or down to where the board is too thin
        assert ground.floor_mm == pytest.approx(top - thick - (0.5 if thick else 10.0))


@given(st.floats(0.2, 40))
def test_what_something_has_to_stay_below_is_never_told_as_more(size: float) -> None:
    told = show_least(size, 0.1)
    metric, inch = (float(text.split()[0]) for text in (told.metric, told.inch))
    assert size - 0.1 - 1e-8 <= metric <= size + 1e-8
    assert size - 0.26 <= inch * 25.4 <= size + 1e-6


@given(st.floats(1e-6, 3))
def test_what_stays_below_a_height_is_never_told_as_less(height: float) -> None:
    told = show_most(height, 0.001)
    metric, inch = (float(text.split()[0]) for text in (told.metric, told.inch))
    assert height - 1e-8 <= metric <= height + 0.001 + 1e-8
    assert height - 1e-6 <= inch * 25.4 <= height + 0.0001 * 25.4 + 1e-6


def test_a_board_that_gets_too_thin_is_told_how_much_can_come_off() -> None:
    facts = Facts(
        machine="A", table_x_mm=200, table_y_mm=150, board=Board(thickness_mm=10, least_mm=8)
    )
    wish = Wish(heights="range", range_mm=3, depth_mm=1, reach_left_mm=-150, reach_right_mm=150)
    with pytest.raises(Problem) as refused:
        make(wish, facts)
    assert "2.00 mm can still come off" in refused.value.expected


def test_zeros_and_lengths_are_read_as_they_are_typed() -> None:
    stated = Stated(zeros="g55 x120 Y-.5 Z-2\nmachine Z60", lengths="T1 0; t2 L7.5")
    frames = ground_for(
        stated, Facts(machine="A", table_x_mm=200, table_y_mm=150, board=Board())
    ).frames
    assert frames.zeros == {"G55": (120.0, -0.5, -2.0), "machine": (None, None, 60.0)}
    assert frames.lengths_mm == {1: 0.0, 2: 7.5}
    for wrong in (
        {"zeros": "G60 X1"},
        {"zeros": "G55"},
        {"zeros": "G55 X1 left"},
        {"lengths": "7"},
    ):
        with pytest.raises(ValueError, match="Write such as"):
            Stated(**wrong)
    with pytest.raises(ValueError, match="further up than down"):
        Stated(top_reach_mm=-5, low_reach_mm=5)


def test_a_program_that_its_own_check_faults_is_not_handed_out(monkeypatch: Any) -> None:
    """Whatever went wrong while it was written."""
    sound = make(wish(), facts())
    assert sound.program
    assert sound.air_program
    fault = ProgramFault(code="deep", tone="danger", line=9, text=plain("Line 9 cuts the bed."))
    found = sound.report.model_copy(update={"faults": [fault]})
    monkeypatch.setattr("truing.surfacing.plan.check", lambda *_: found)
    plan = make(wish(), facts())
    assert plan.report.faults == [fault]
    assert plan.program == plan.air_program == ""
