"""Reading programs: what a machine would do with them, found by other means."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from truing.measure.problem import Problem
from truing.programs import read
from truing.programs.check import check
from truing.programs.ground import Cutter, Ground, Kept
from truing.programs.motions import KIND, LINE, X1, Y1, Z0, Z1, Kind
from truing.programs.relief import relief
from truing.programs.report import Report
from truing.programs.sweep import Grid, Tool, sweep, trespass
from truing.programs.timing import Drives, times
from truing.programs.width import line_width

GOOD = """%
(skim: one level)
G21 G17 G90 G94 G54
G0 Z5
S8000 M3
G4 P3
G0 X-20 Y10
G1 Z-0.5 F1200
X220
Y30
X-20
G0 Z5
M5
M30
%
"""
GROUND = Ground(
    board=(0, 0, 200, 150),
    floor_mm=-10,
    safe_mm=5,
    reach=(-30, -30, 230, 180),
    cutter=Cutter(diameter_mm=30, depth_mm=1, rated_rev_per_min=12000),
    most_feed_mm_min=3000,
    kept=[
        Kept(name="the clamp", outline=[(180, 120), (200, 120), (200, 150), (180, 150)], top_mm=20)
    ],
)


def checked(text: str, ground: Ground = GROUND) -> Report:
    return check(read(text.encode()), ground)


def test_a_good_program_raises_no_alarm_and_is_told_in_figures() -> None:
    report = checked(GOOD)
    assert (report.verdict, report.faults) == ("sound", [])
    assert report.units == "mm"
    assert report.deepest_mm == -0.5
    assert report.deepest_line == 8
    assert report.cutting == [-20, 10, -0.5, 220, 30, 5]
    assert [(level.z_mm, level.length_mm) for level in report.levels] == [(-0.5, 500)]
    assert report.feeds_mm_min == [1200]
    # its second stroke, outside the board at the right, cuts as far as its rim still reaches
    assert report.cutting_mm + report.air_mm == pytest.approx(500 + 5.5)
    assert "in the air first" in report.sentence.metric


@pytest.mark.parametrize(
    ("line", "code"),
    [
        ("G0 X{x} Y40\nG0 Y90\nG0 Z5", "rapid_blind"),
        ("G0 Z5\nG0 X{x} Y40\nG0 Z1\nG0 Y90\nG0 Z5", "rapid_low"),
    ],
)
def test_a_rapid_beside_the_board_is_too_near_within_the_cutters_radius(
    line: str, code: str
) -> None:
    """One of 30 mm, run along the board's left and its right side."""
    for beside, near in ((14.0, True), (11.0, True), (16.0, False)):
        for x in (-beside, 200 + beside):
            text = f"G21 G90 G94\n{line.format(x=x)}\nM30\n"
            codes = {f.code for f in checked(text).dangers}
            assert (code in codes) == near, (x, codes)


@pytest.mark.parametrize(
    ("said", "units", "deepest"),
    [("G20", "inch", -12.7), ("G21", "mm", -0.5), ("", "not stated", -0.5)],
)
def test_a_program_says_what_it_is_written_in(said: str, units: str, deepest: float) -> None:
    report = checked(GOOD.replace("G21", said))
    assert report.units == units
    assert report.deepest_mm == pytest.approx(deepest)


SMALL = GOOD.replace("X-20", "X-0.8").replace("X220", "X8.7").replace("Y30", "Y1.2")
SMALL = SMALL.replace("Y10", "Y0.4")
SHALLOW, SLOW = ("Z-0.5", "Z-0.02"), ("F1200", "F47")


@pytest.mark.parametrize(
    ("text", "asked"),
    [
        (SMALL.replace(*SHALLOW).replace(*SLOW), True),
        (GOOD.replace(*SHALLOW).replace(*SLOW), False),
        (SMALL.replace(*SLOW), False),
        (SMALL.replace(*SHALLOW), False),
    ],
    ids=["all of it", "of its full size", "deep", "fast"],
)
def test_inches_that_were_stated_as_mm_are_small_shallow_and_slow(text: str, asked: bool) -> None:
    assert ("units" in [f.code for f in checked(text).faults]) == asked


FAULTS = {
    "rapid_through": ("G0 X-20 Y10\nG1 Z-0.5 F1200\nX220", "G0 X-20 Y10\nG0 Z-0.5\nX220"),
    "rapid_into": ("G0 X-20 Y10", "G0 X60 Y60\nG0 Z-1\nG0 Z5\nG0 X-20 Y10"),
    "rapid_low": ("G0 X-20 Y10", "G0 Z1\nG0 X-20 Y10\nX100\nX-20"),
    "rapid_blind": ("G0 Z5\nS8000", "G0 X50\nG0 Z5\nS8000"),
    "bite": ("Z-0.5", "Z-5."),
    "plunge": ("X-20 Y10", "X60 Y10"),
    "keep_out": ("Y30\n", "Y30\nX190\nY110\nX220\n"),
    "floor": ("X220\n", "X220\nZ-10.5\nX-20\nG1 Z-0.5\n"),
    "reach": ("X220\n", "X240\n"),
    "spindle_off": ("S8000 M3", "S8000"),
    "spindle_backward": ("S8000 M3", "S8000 M4"),
    "spin_up": ("G4 P3\n", ""),
    "no_feed": (" F1200", ""),
    "feed": ("F1200", "F9000"),
    "speed": ("S8000", "S18000"),
    "arc_radii": ("Y30\n", "G3 X220 Y30 I0 J8\nG1\n"),
    "arc_small": ("Y30\n", "G3 X220 Y30 R4\nG1\n"),
    "arc_centre": ("Y30\n", "G3 X220 Y30\nG1\n"),
    "units": ("G21", "G20"),
    "no_retract": ("G0 Z5\nM5", "M5"),
    "no_stop": ("M5\nM30\n%", "%"),
    "first_motion": ("G0 Z5\nS8000", "G0 X0 Y0 Z5\nS8000"),
    "unreadable": ("Y30\n", "Y3,0\n"),
    "not_followed": ("Y30\n", "Y#101\n"),
    "unknown_g": ("Y30\n", "G68 R30\nY30\n"),
    "unknown_m": ("Y30\n", "M98 P1000\nY30\n"),
    "unknown_word": ("Y30\n", "Y30 A90\n"),
    "new_zero": ("Y30\n", "G92 X0\nY30\n"),
    "machine_place": ("Y30\n", "Y30\nG53 G0 Z0\n"),
    "length": ("G0 Z5\nS8000", "G43 H1\nG0 Z5\nS8000"),
    "probed": ("Y30\n", "G38.2 Z-5 F50\nY30\n"),
    "tool_change": ("Y30\n", "Y30\nT2 M6\n"),
    "compensated": ("Y30\n", "G41 D1\nY30\n"),
    "blended": ("G17", "G17 G64"),
    "another_offset": ("Y30\n", "G55\nY30\n"),
    "no_mode": ("G1 Z-0.5 F1200", "G80\nX0 Y0\nG1 Z-0.5 F1200"),
    "twice": ("X220", "X220 X221"),
    "two_of_group": ("G1 Z-0.5", "G0 G1 Z-0.5"),
    "cycle": ("Y30\n", "G83 X50 Z-2 R1 Q0\nG1\n"),
    "inverse": ("Y30\n", "G93\nG1 Y30\n"),
    "value": ("F1200", "F-1200"),
    "distance": ("G90 ", ""),
    "offset": (" G54", ""),
    "feed_mode": (" G94", ""),
    "after_end": ("M30\n", "M30\nG0 X0\n"),
}


@pytest.mark.parametrize("code", FAULTS)
def test_each_fault_is_found_in_its_line(code: str) -> None:
    old, new = FAULTS[code]
    assert GOOD.count(old) == 1
    text = GOOD.replace(old, new)
    report = checked(text)
    found = [f for f in report.faults if f.code == code]
    assert found, [f.code for f in report.faults]
    line = found[0].line
    if line:
        changed = [
            k
            for k, (a, b) in enumerate(
                zip([*GOOD.splitlines(), *[""] * 9], text.splitlines(), strict=False), 1
            )
            if a != b
        ]
        # what is missing at the end shows in the motion before it
        assert line >= min(changed) - (code == "no_retract")
    # worst first, and only what may be asked leaves it sound
    tones = [{"danger": 0, "wrong": 1, "ask": 2}[f.tone] for f in report.faults]
    assert tones == sorted(tones)
    assert report.verdict != "sound" or set(tones) == {2}


@pytest.mark.parametrize(
    "line",
    ["o100 sub", "#1 = 2", "[3]", "]", "= 2", "<depth>", "> 1", "X#1", "X [1+2]"],
)
def test_variables_and_sums_are_not_followed_and_never_taken_for_stray_signs(line: str) -> None:
    report = checked(GOOD.replace("Y30\n", f"{line}\nY30\n"))
    here = [f.code for f in report.faults if f.line == GOOD.splitlines().index("Y30") + 1]
    assert here == ["not_followed"]
    assert report.verdict != "sound"


@pytest.mark.parametrize(
    "code", ["not_followed", "unknown_g", "machine_place", "length", "probed", "compensated"]
)
def test_what_is_not_followed_makes_the_rest_unknown(code: str) -> None:
    old, new = FAULTS[code]
    report = checked(GOOD.replace(old, new))
    assert report.unknown_from > 0
    assert report.verdict in ("incomplete", "faults")
    if report.verdict == "incomplete":
        assert f"line {report.unknown_from}" in report.sentence.metric


def test_a_line_behind_a_slash_is_read_both_ways() -> None:
    report = checked(GOOD.replace("G0 Z5\nM5", "/G0 Z5\nM5"))
    assert [(f.code, f.slashed) for f in report.faults] == [("no_retract", True)]


def ends(text: str) -> list[tuple[float, ...]]:
    at = read(text.encode()).motions.at
    return [tuple(round(float(v), 6) for v in row) for row in at[:, [X1, Y1, Z1]]]


@pytest.mark.parametrize(
    ("written", "plainly"),
    [
        ("g21g90g0z5\nx1y2", "G21\nG90\nG0 Z5\nG0 X1 Y2"),
        ("N10 G21 G0 Z5 *51\nN20 X+1.0Y2.", "G21\nG0 Z5\nG0 X1 Y2"),
        ("G20\nG0 Z.1\nX- 1", "G21\nG0 Z2.54\nG0 X-25.4"),
        ("G21 G0 Z5 (up) X1 ; then\r\nG91 X1\rX1", "G21\nG0 Z5 X1\nX2\nX3"),
        ("G21 G0 Z5\nG28 X10\nX1 Y1", "G21\nG0 Z5\nX10\nX1 Y1"),
    ],
)
def test_ways_of_writing_mean_the_same(written: str, plainly: str) -> None:
    np.testing.assert_equal(ends(written), ends(plainly))


@settings(max_examples=60, deadline=None)
@given(
    st.floats(-50, 50),
    st.floats(-50, 50),
    st.floats(1, 40),
    st.floats(0, 6.28),
    st.floats(0.05, 6.2),
    st.booleans(),
    st.sampled_from([17, 18, 19]),
)
def test_an_arc_is_the_same_by_centre_and_by_radius(cx, cy, r, start, angle, ccw, plane) -> None:  # type: ignore[no-untyped-def]
    """Both forms have the length that the geometry says, in every plane."""
    p, q, i, j = {17: "XYIJ", 18: "ZXKI", 19: "YZJK"}[plane]
    end = start + angle if ccw else start - angle
    a = (cx + r * math.cos(start), cy + r * math.sin(start))
    b = (cx + r * math.cos(end), cy + r * math.sin(end))
    head = f"G21 G90 G94 G{plane} F600\nG0 X0 Y0 Z0\nG0 {p}{a[0]:.9f} {q}{a[1]:.9f}\n"
    code = "G3" if ccw else "G2"
    centre = f"{head}{code} {p}{b[0]:.9f} {q}{b[1]:.9f} {i}{cx - a[0]:.9f} {j}{cy - a[1]:.9f}\n"
    sign = -1 if angle > math.pi else 1
    radius = f"{head}{code} {p}{b[0]:.9f} {q}{b[1]:.9f} R{sign * r:.9f}\n"
    for text in (centre, radius):
        motions = read(text.encode()).motions
        length = times(motions, Drives()).length_mm[-1]
        assert length == pytest.approx(r * angle, rel=2e-3, abs=2e-3)
    whole = f"{head}{code} {i}{cx - a[0]:.9f} {j}{cy - a[1]:.9f}\n"
    found = times(read(whole.encode()).motions, Drives()).length_mm[-1]
    assert found == pytest.approx(2 * math.pi * r, rel=1e-4)


def test_a_drilling_cycle_goes_down_and_up_as_it_says() -> None:
    text = "G21 G90 G17 G94\nG0 Z10\nG0 X0 Y0\n{g}G83 X5 Y6 Z-5 R1 Q2 F100\nX9\nG80\nG0 X0"
    by_initial = read(text.format(g="G98 ").encode()).motions
    cuts = by_initial.at[by_initial.cuts]
    assert cuts[:3, Z1].tolist() == [-1, -3, -5]
    assert cuts[:, X1].tolist() == [5, 5, 5, 9, 9, 9]
    # a peck begins a little over where the last one ended, never below it
    assert (cuts[1:3, Z0] > cuts[:2, Z1]).all()
    over = [m[Z1] for m in by_initial.at if m[X1] == 0]
    assert over[-1] == 10
    to_r = read(text.format(g="G99 ").encode()).motions
    assert to_r.at[-1, Z1] == 1
    turned = read(b"G21 G91 G94 F100\nG0 Z10\nG90 G0 X0 Y0 Z5\nG91 G81 X5 Z-3 R-2 L3\n").motions
    drilled = turned.at[turned.how[:, KIND] == Kind.FEED]
    assert drilled[:, X1].tolist() == [5, 10, 15]
    assert drilled[:, Z1].tolist() == [0, 0, 0]


def test_inverse_time_and_feed_per_turn_are_feeds() -> None:
    text = b"G21 G90\nG0 Z5\nG0 X0 Y0\nG93 G1 X10 F6\nG95 S1000 M3\nX20 F0.1\nG94 F250\nX30\n"
    motions = read(text).motions
    assert motions.at[motions.cuts][:, 8].tolist() == [60, 100, 250]


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "no word"),
        (b"Dear Sir,\nthank you for the cutter, it is sharp.\n" * 30, "no word of a program"),
        ("G21\nG0 Z5\n".encode("utf-16"), "two bytes a letter"),
        (bytes(range(256)) * 40, "no word of a program"),
        (b"G,1 X,2 Y,3 Z4\n" * 60, "reads like no program"),
        # the first sign that cannot be read is told as it looks, where it looks like anything
        (b"G1 X2 ~1 ~2 ~3\n" * 60, "in line 1, column 7: “~”"),
        (b"G1\nX2 \x7f1 \x7f2 \x7f3\n" * 60, "in line 2, column 4: a byte of value 127"),
        (b"G1 X2 \xfc1 \xfc2 \xfc3\n" * 60, "in line 1, column 7: a byte of value 252"),
        (b"(a comment", "no word"),
    ],
)
def test_what_is_no_program_is_said_and_nothing_breaks(data: bytes, says: str) -> None:
    with pytest.raises(Problem, match=says) as refused:
        read(data)
    assert refused.value.field == "file"


@pytest.mark.parametrize(
    ("line", "at"),
    [
        ("G1 X2 (not closed", "("),
        ("G1 X Y2", "X"),
        ("G1 X2 @ Y3", "@"),
        ("  G1  7 X2", "7"),
        ("G1 X2,5", ","),
    ],
)
def test_what_cannot_be_read_is_found_where_the_editor_shows_it(line: str, at: str) -> None:
    text = f"G21 G90\nG0 Z5\n{line}\nG1 X1 Y1 F100\nM30\n"
    told = [f for f in checked(text).faults if "Column" in f.text.metric]
    assert [f.line for f in told] == [3]
    assert f"Column {line.index(at) + 1}: " in told[0].text.metric
    # behind a slash it spoils nothing that is run without it
    without = read(text.replace(line, f"/{line}").encode()).without
    assert without is not None
    assert without.at[-1, [X1, Y1]].tolist() == [1, 1]
    assert np.isfinite(without.at[-1, Z1])


def test_a_line_of_too_many_words_behind_a_slash_is_left_out_as_a_whole() -> None:
    text = b"G21 G90\nG0 X0 Y0 Z5\n/G1 " + b"X1 Y2 " * 200 + b"\nG1 X1 F100\nM30\n"
    without = read(text).without
    assert without is not None
    assert without.at[-1, [X1, Y1, Z1]].tolist() == [1, 0, 5]


def test_one_endless_line_is_named_and_not_followed() -> None:
    program = read(b"G21 G90\nG0 Z5\nG1 " + b"X1 Y2 " * 200_000 + b"\nM30\n")
    assert [int(v) for v in program.words.trouble[0][:1]] == [3]
    assert int(program.motions.how[-1, LINE]) == 2


@settings(max_examples=60, deadline=None)
@given(st.binary(max_size=400))
def test_no_bytes_break_the_reader(data: bytes) -> None:
    """Whatever is in a file: it is read, or refused with a reason."""
    try:
        program = read(data)
    except Problem as refused:
        assert refused.expected
        return
    report = check(program, GROUND)
    assert report.lines >= 1
    assert report.verdict in ("sound", "faults", "incomplete")


# --- time, against integration of the motion ------------------------------------------------------


def integrated(pieces: list[tuple[float, float]], accel: float) -> float:
    """Time over pieces (length, feed in mm/s), from a stop to a stop after each, in steps."""
    total = 0.0
    for length, v in pieces:
        s, u, dt, t = 0.0, 0.0, 1e-4, 0.0
        while s < length:
            left = length - s
            u = min(u + accel * dt, v, math.sqrt(max(2 * accel * left, 0)) + accel * dt)
            s += max(u, 1e-6) * dt
            t += dt
        total += t
    return total


@pytest.mark.parametrize("length", [0.5, 3, 20, 400])
def test_time_is_that_of_the_motion(length: float) -> None:
    text = f"G21 G90 G94\nG0 Z5\nG0 X0 Y0\nG1 X{length} F3000\nG1 X0\nG1 Y{length}\n"
    found = times(read(text.encode()).motions, Drives(accel_mm_s2=(200, 200, 200)))
    expected = integrated([(length, 50)] * 3, 200)
    assert found.seconds[-3:].sum() == pytest.approx(expected, rel=0.02)


def test_short_pieces_of_one_line_are_no_stops() -> None:
    """A circle of 360 chords takes as long as a line of its length, not 360 stops."""
    chords = [(50 * math.cos(math.radians(k)), 50 * math.sin(math.radians(k))) for k in range(361)]
    text = "G21 G90 G94\nG0 Z5\nG0 X50 Y0\nG1 F3000\n" + "".join(
        f"X{x:.5f} Y{y:.5f}\n" for x, y in chords[1:]
    )
    found = times(read(text.encode()).motions, Drives())
    assert found.seconds[2:].sum() == pytest.approx(integrated([(100 * math.pi, 50)], 200), rel=0.1)


@pytest.mark.parametrize("slope", [1.0, 2.0, 0.5])
def test_the_discs_of_a_v_lie_on_its_flank_and_go_no_deeper_than_it_cuts(slope: float) -> None:
    tool = Tool(6.0, slope=slope, tip_mm=0.1)
    radii, rises = tool.discs(2.0).T
    assert rises == pytest.approx((radii - 0.1) * slope)
    assert (rises[0], rises[-1]) == pytest.approx((0.0, 2.0))
    # of a cut deeper than it is wide its rim is the last
    radii, rises = tool.discs(1000.0).T
    assert radii[-1] == pytest.approx(6.0)
    assert rises[-1] == pytest.approx(5.9 * slope)


# --- relief, against the lowest that a cutter ever reached over each cell -------------------------


def brute(text: str, tool: Tool, grid: Grid) -> np.ndarray:
    """Every cell under the cutter at close steps: independent of `relief` but for the reader."""
    program = read(text.encode()).motions
    x, y = np.meshgrid(grid.x, grid.y)
    up = np.zeros(x.shape)
    for row in program.at[program.cuts]:
        steps = max(2, math.ceil(math.hypot(row[3] - row[0], row[4] - row[1]) / 0.05))
        for t in np.linspace(0, 1, steps):
            cx, cy, cz = (row[i] + (row[3 + i] - row[i]) * t for i in range(3))
            dx, dy = x - cx, y - cy
            d = np.hypot(dx, dy)
            z = cz - tool.lean_x * dx - tool.lean_y * dy
            if tool.slope:
                z = z + np.maximum(0, d - tool.tip_mm) * tool.slope
            else:
                out = np.maximum(0, d - (tool.radius_mm - tool.corner_mm))
                z = z + tool.corner_mm - np.sqrt(np.maximum(tool.corner_mm**2 - out**2, 0))
            up = np.where(d <= tool.radius_mm, np.minimum(up, z), up)
    return up


PATH = "G21 G90 G94 F1000\nG0 Z5\nG0 X-3 Y4\nG1 Z-0.4\nG1 X22\nG1 Y9 Z-0.6\nG1 X4 Y12\nG0 Z5\n"


@pytest.mark.parametrize(
    ("tool", "within"),
    [
        (Tool(4.0), 1e-6),
        (Tool(4.0, lean_x=0.002, lean_y=-0.003), 0.002),
        (Tool(4.0, corner_mm=1.0), 0.12),
        (Tool(2.0, corner_mm=2.0), 0.01),
        (Tool(3.0, slope=1.0, tip_mm=0.05), 0.02),
    ],
    ids=["flat", "leaning", "corner", "ball", "v"],
)
def test_relief_is_the_lowest_that_the_cutter_reached(tool: Tool, within: float) -> None:
    grid = Grid.over((0, 0, 20, 15), 0.25)
    relief(read(PATH.encode()).motions, tool, grid)
    expected = brute(PATH, tool, grid)
    off = np.abs(grid.up - expected)
    # a cell on the very rim may be in or out
    assert np.mean(off > within + 1e-4) < 0.04
    assert off[expected < -0.3].mean() < within + 0.01


# --- arcs in every plane, against many short lines along the same circle --------------------------

ARCS = {
    # the block of the arc, and where it is at a share of it
    "XY, against the clock": (
        "G17 G3 X4 Y10 Z-0.6 I-8 J0",
        lambda t: (12 + 8 * math.cos(math.pi * t), 10 + 8 * math.sin(math.pi * t), -0.2 - 0.4 * t),
    ),
    "XY, with the clock": (
        "G17 G2 X12 Y2 Z-0.6 I-8 J0",
        lambda t: (
            12 + 8 * math.cos(math.pi / 2 * t),
            10 - 8 * math.sin(math.pi / 2 * t),
            -0.2 - 0.4 * t,
        ),
    ),
    # through the bottom of a circle over the board, as it is seen from its own axis
    "ZX, with the clock": ("G18 G2 X20 Z-0.2 I8 K20", lambda t: dip(4, 20, t, 20, 10)),
    "YZ, against the clock": ("G19 G3 Y13 Z-0.2 J5 K15", lambda t: turned(dip(3, 13, t, 15, 18))),
}


def dip(start: float, end: float, t: float, high: float, beside: float) -> tuple[float, ...]:
    """Along, beside and up, on a circle whose centre is `high` over both ends."""
    half = (end - start) / 2
    angle = math.atan2(half, high) * (2 * t - 1)
    r = math.hypot(half, high)
    return start + half + r * math.sin(angle), beside, -0.2 + high - r * math.cos(angle)


def turned(place: tuple[float, ...]) -> tuple[float, ...]:
    return place[1], place[0], place[2]


def moving(name: str, *, chords: int = 0) -> Any:
    """The motions of a cut along an arc, or along so many lines in its place."""
    arc, at = ARCS[name]
    x, y, z = at(0.0)
    along = [arc]
    if chords:
        places = (at((k + 1) / chords) for k in range(chords))
        along = [f"G1 X{x:.6f} Y{y:.6f} Z{z:.6f}" for x, y, z in places]
    begun = f"G21 G90 G94 F1000\nG0 Z5\nG0 X{x:.6f} Y{y:.6f}\nG1 Z{z:.6f}\n"
    return read((begun + "\n".join(along) + "\nG0 Z5\n").encode()).motions


@pytest.mark.parametrize("name", ARCS)
def test_an_arc_takes_as_long_as_short_lines_along_it(name: str) -> None:
    arc, lines = (times(moving(name, chords=c), Drives()) for c in (0, 200))
    assert arc.length_mm[:-1].sum() == pytest.approx(lines.length_mm[:-1].sum(), rel=1e-4)
    assert arc.seconds[:-1].sum() == pytest.approx(lines.seconds[:-1].sum(), rel=0.03)


def test_a_path_takes_the_time_of_its_length_however_it_is_cut_up() -> None:
    """Fed at 600 mm/min in pieces of 1 mm, of half of one, and at once."""
    took = []
    for piece in (1.0, 0.5, 40.0):
        places = np.arange(piece, 40 + piece / 2, piece)
        text = "G21 G90 G94 F600\nG0 Z5\nG0 X0 Y0\n" + "\n".join(f"G1 X{x:g}" for x in places)
        motions = read(text.encode()).motions
        seconds = times(motions, Drives()).seconds
        took.append(float(seconds[motions.cuts].sum()))
    assert took == pytest.approx([took[2]] * 3, rel=1e-6)
    assert took[0] == pytest.approx(4.0, abs=0.5)


@pytest.mark.parametrize("name", ARCS)
def test_an_arc_in_inverse_time_takes_the_time_that_it_says(name: str) -> None:
    """G93 F6 is six such moves a minute, however long the arc is."""
    arc, at = ARCS[name]
    x, y, z = at(0.0)
    text = f"G21 G90 G94 F1000\nG0 Z5\nG0 X{x:.6f} Y{y:.6f}\nG1 Z{z:.6f}\nG93 {arc} F6\n"
    motions = read(text.encode()).motions
    ways = np.array([at(t) for t in np.linspace(0, 1, 4000)])
    long = float(np.linalg.norm(np.diff(ways, axis=0), axis=1).sum())
    assert motions.at[-1, 8] == pytest.approx(6 * long, rel=1e-4)


@pytest.mark.parametrize("name", ARCS)
@pytest.mark.parametrize(
    "tool",
    [Tool(4.0), Tool(4.0, lean_x=0.002, lean_y=-0.003), Tool(2.0, corner_mm=2.0),
     Tool(3.0, slope=1.0, tip_mm=0.05)],
    ids=["flat", "leaning", "ball", "v"],
)  # fmt: skip
def test_an_arc_leaves_what_short_lines_along_it_leave(name: str, tool: Tool) -> None:
    left = []
    for chords in (0, 400):
        grid = Grid.over((0, 0, 24, 20), 0.25)
        relief(moving(name, chords=chords), tool, grid)
        left.append(grid.up.copy())
    assert left[1].min() < -0.55
    off = np.abs(left[0] - left[1])
    # half a cell along what rises by 0.4 mm/mm
    assert np.mean(off > 0.06) < 0.02
    assert off[left[1] < -0.3].mean() < 0.03


@pytest.mark.parametrize("name", ARCS)
def test_an_arc_bites_and_comes_as_low_as_short_lines_along_it(name: str) -> None:
    deep, up, low = [], [], []
    for chords in (0, 400):
        motions = moving(name, chords=chords)
        grid = Grid.over((0, 0, 24, 20), 0.25)
        deep.append(float(sweep(motions, Tool(4.0), grid).deep_mm.max()))
        up.append(grid.up.copy())
        keep = Grid.over((0, 0, 24, 20), 0.25)
        # what must not be cut stands over a part of it only
        keep.up[:, :50] = -np.inf
        low.append(float(trespass(motions, keep).max()))
    assert deep[0] == pytest.approx(deep[1], abs=0.02)
    assert deep[0] > 0.3
    assert low[0] == pytest.approx(low[1], abs=0.02)
    assert low[0] > 0.15
    assert np.mean(np.abs(up[0] - up[1]) > 0.06) < 0.02


ENDS = {
    # beyond what both of its ends reach: (block, from … to), but for the 5 mm that it begins at
    "down, seen from the rear": ("G18 G2 X20 Z-0.2 I8 K20", (4, 10, -1.741, 20, 10)),
    "down, seen from the right": ("G19 G3 Y16 Z-0.2 J3 K15", (4, 10, -0.497, 4, 16)),
    "to the right": ("G18 G3 X4 Z-0.3 I0 K-0.05", (4, 10, -0.3, 4.05, 10)),
    "to the left": ("G17 G2 X4 Y20 I0 J5", (-1, 10, -0.2, 4, 20)),
    "all round": ("G17 G3 X4 Y10 I3 J0", (4, 7, -0.2, 10, 13)),
}


@pytest.mark.parametrize("name", ENDS)
def test_what_an_arc_comes_to_between_its_ends_counts(name: str) -> None:
    block, box = ENDS[name]
    text = f"G21 G17 G90 G94 G54\nG0 Z5\nS8000 M3\nG4 P3\nG0 X4 Y10\nG1 Z-0.2 F600\n{block}\n"
    ground = Ground(
        board=(-50, -50, 50, 50),
        safe_mm=4,
        cutter=Cutter(diameter_mm=6, depth_mm=2, plunges=True),
        reach=(-40, -40, 40, 40),
        floor_mm=-3,
    )

    def codes(**more: Any) -> set[str]:
        narrow = ground.model_copy(update=more)
        report = check(read(f"{text}G0 Z5\nM5\nM30\n".encode()), narrow)
        assert report.cutting == pytest.approx((*box, 5.0), abs=0.001)
        assert report.deepest_mm == pytest.approx(box[2], abs=0.001)
        said.update({f.code: f.text.metric for f in report.faults})
        return {f.code for f in report.faults}

    said: dict[str, str] = {}
    assert not codes() & {"floor", "reach"}
    assert "floor" in codes(floor_mm=box[2] + 0.01)
    assert "floor" not in codes(floor_mm=box[2] - 0.01)
    left, front, _, right, rear = box
    for i, end in enumerate((left, front, right, rear)):
        inner = list(ground.reach or ())
        inner[i] = end + (0.03 if i < 2 else -0.03)
        assert "reach" in codes(reach=tuple(inner)), i
        # where it is too far is told, not where the arc ends
        assert f"{end:.2f}".replace("-", "\N{MINUS SIGN}") in said["reach"]


@pytest.mark.parametrize(
    ("block", "dives"),
    [
        # half a circle, straight down where it begins
        ("G18 G2 X8 Z0 I2 K0", True),
        ("G19 G3 Y14 Z0 J2 K0", True),
        # begins at 8 in 100, for a cutter that takes 5.2 in 100
        ("G18 G2 X20 Z0 I8 K100", True),
        ("G18 G2 X20 Z0 I8 K200", False),
        # a helix that goes down by as much as it should
        ("G17 G3 X4 Y10 Z-0.9 I3 J0", False),
        ("G17 G3 X4 Y10 Z-1.1 I3 J0", True),
    ],
)
def test_an_arc_that_dives_is_a_plunge_wherever_it_ends(block: str, dives: bool) -> None:
    text = f"G21 G17 G90 G94 G54\nG0 Z5\nS8000 M3\nG4 P3\nG0 X4 Y10\nG1 Z0 F600\n{block}\nG0 Z5\n"
    for plunges in (True, False):
        cutter = Cutter(diameter_mm=6, depth_mm=3, plunges=plunges)
        ground = Ground(board=(-50, -50, 50, 50), safe_mm=4, cutter=cutter)
        found = {f.code for f in check(read(f"{text}M5\nM30\n".encode()), ground).faults}
        assert ("plunge" in found) == (dives and not plunges)


# --- how wide a point's line is -------------------------------------------------------------------


@pytest.mark.parametrize("tilt", [0.0, 0.002, -0.006])
def test_the_width_of_a_line_follows_the_face_under_it(tilt: float) -> None:
    """Against a cone and a plane, place by place."""
    face = [(x, y, min(tilt * x, tilt * (x - 200))) for x in (0.0, 200.0) for y in (0.0, 150.0)]
    ground = Ground(
        board=(0, 0, 200, 150),
        map=face,
        tir_mm=0.02,
        cutter=Cutter(diameter_mm=6, included_deg=60, tip_mm=0.1, plunges=True),
    )
    text = "G21 G90 G94 F500\nG0 Z5\nG0 X10 Y75\nG1 Z-0.3\nG1 X190\nG0 Z5\n"
    found = line_width(read(text.encode()).motions, ground)
    assert found
    # a cone of 60° at depth d is 2·d·tan 30° across; the cutter touches where the face is higher
    across = []
    for x in np.linspace(10, 190, 500):
        deep = min(tilt * x, tilt * (x - 200)) + 0.3
        across.append(0.12 + 2 * deep * math.tan(math.radians(30)) if deep > 0 else 0.0)
    assert found.most_mm == pytest.approx(max(across), abs=0.015)
    assert found.least_mm == pytest.approx(min(across), abs=0.015)
    assert ("vanishes" in found.words.metric) == (min(across) == 0)


@pytest.mark.parametrize(("over", "clear"), [(-0.6, False), (0.6, True)])
def test_a_rapid_goes_over_what_stands_there_or_meets_it(over: float, clear: bool) -> None:
    """The clamp is 20 mm high."""
    passing = GOOD.replace("G0 Z5\nM5", f"G0 Z5\nG0 Z{20 + over}\nG0 X190 Y135\nG0 Z25\nM5")
    codes = {f.code for f in checked(passing).dangers}
    assert ("keep_out" not in codes) == clear


@pytest.mark.parametrize(("included", "tip"), [(60.0, 0.0), (90.0, 0.4), (30.0, 0.2)])
def test_a_point_cuts_a_hole_as_wide_as_its_cone_is_at_that_depth(
    included: float, tip: float
) -> None:
    tool = Cutter(diameter_mm=8, included_deg=included, tip_mm=tip).tool()
    grid = Grid.over((0, 0, 10, 10), 0.05)
    relief(read(b"G21 G90 G94 F100\nG0 Z5\nG0 X5 Y5\nG1 Z-2\nG0 Z5\n").motions, tool, grid)
    across = np.count_nonzero(grid.up[100] < 0) * 0.05
    assert across == pytest.approx(tip + 2 * 2 * math.tan(math.radians(included / 2)), abs=0.11)
    assert grid.up.min() == pytest.approx(-2, abs=0.1)


def test_a_nut_wider_than_the_cutter_keeps_clear_of_tall_things() -> None:
    """The cutter passes the clamp; the nut over it does not."""
    passing = GOOD.replace("Y30\n", "Y30\nX170 F3000\nY104\n")
    narrow = GROUND.model_copy(update={"cutter": Cutter(diameter_mm=20, depth_mm=1)})
    assert [f.code for f in checked(passing, narrow).dangers] == []
    wide = narrow.model_copy(update={"body_mm": 60, "below_mm": 15})
    assert [f.code for f in checked(passing, wide).dangers] == ["keep_out"]
    # one that stands out far enough has it pass over the clamp
    over = narrow.model_copy(update={"body_mm": 60, "below_mm": 21})
    assert [f.code for f in checked(passing, over).dangers] == []
