"""How long programs take and what they leave, found by other means: integration of the motion,
every cell under the cutter, short lines in place of arcs."""

from __future__ import annotations

import math
import random
from typing import Any

import numpy as np
import pytest

from truing.programs import read
from truing.programs.check import check
from truing.programs.cutters import Cutter
from truing.programs.ground import Ground
from truing.programs.relief import relief
from truing.programs.sweep import Grid, Tool, steep_drop, sweep
from truing.programs.timing import Drives, times
from truing.programs.trespass import trespass

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


@pytest.mark.parametrize("seed", range(12))
def test_feeds_that_change_on_one_line_take_what_its_speeds_allow(seed: int) -> None:
    """Pieces with feeds of their own, straight on: speed by place in steps of a hundredth of a
    millimetre, slowed down in time for whatever is slower, against the clock."""
    rng = random.Random(seed)
    pieces = [(rng.uniform(0.3, 40), rng.choice([300, 900, 2400, 6000])) for _ in range(12)]
    places = np.cumsum([length for length, _ in pieces])
    text = "G21 G90 G94\nG0 Z5\nG0 X0 Y0\n" + "\n".join(
        f"G1 X{x:.5f} F{feed}" for x, (_, feed) in zip(places, pieces, strict=True)
    )
    drives = Drives(rapid_mm_min=(5000, 5000, 5000), accel_mm_s2=(200, 200, 200))
    found = times(read(text.encode()).motions, drives)
    step = 0.005
    at = np.arange(0, places[-1], step)
    which = np.minimum(np.searchsorted(places, at, side="right"), len(pieces) - 1)
    limit = np.array([min(feed, 5000) / 60 for _, feed in pieces])[which]
    speed = limit**2
    for order in (range(len(at)), range(len(at) - 1, -1, -1)):
        free = 0.0
        for k in order:
            free = speed[k] = min(speed[k], free + 2 * 200 * step)
    expected = float((step / np.sqrt(speed)).sum())
    assert found.seconds[2:].sum() == pytest.approx(expected, rel=0.01)


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


PLACES = [(-3, 4), (22, 4), (22, 9), (4, 12)]


def along(x: float, y: float) -> str:
    """A cut whose origin lies there."""
    a, b, c, d = [f"X{x + px:g} Y{y + py:g}" for px, py in PLACES]
    return f"G21 G90 G94 F1000\nG0 Z5\nG0 {a}\nG1 Z-0.4\nG1 {b}\nG1 {c} Z-0.6\nG1 {d}\nG0 Z5\n"


@pytest.mark.parametrize("origin", [(0, 0), (-40, -30), (30, -60)])
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
def test_relief_is_the_lowest_that_the_cutter_reached(
    tool: Tool, within: float, origin: tuple[float, float]
) -> None:
    x, y = origin
    grid, path = Grid.over((x, y, x + 20, y + 15), 0.25), along(x, y)
    relief(read(path.encode()).motions, tool, grid)
    expected = brute(path, tool, grid)
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
    "ZX, with the clock and along the board": (
        "G18 G2 X20 Y16 Z-0.2 I8 K20",
        lambda t: (dip(4, 20, t, 20, 10)[0], 6 + 10 * t, dip(4, 20, t, 20, 10)[2]),
    ),
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
        deep.append(float(sweep(motions, Tool(4.0), grid).bites_mm.max()))
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


@pytest.mark.parametrize("ramp", [0.05, 0.5, 2.0])
def test_a_dive_is_as_deep_as_its_circle_is_steeper_than_a_ramp(ramp: float) -> None:
    """A quarter of a circle that begins straight down: z = -r·sin θ, x = r·(1 - cos θ), steeper
    than the ramp while cot θ > ramp."""
    motions = read(b"G21 G90 G94 F600\nG0 Z0\nG0 X4 Y10\nG18 G2 X12 Z-8 I8 K0\n").motions
    found = steep_drop(motions, ramp, 10.0)
    assert found[-1] == pytest.approx(8 * math.sin(math.atan(1 / ramp)), rel=0.01)
    # counted from a height only what lies below it
    below = steep_drop(motions, ramp, -1.0)
    assert below[-1] == pytest.approx(found[-1] - 1, abs=0.1)


def test_a_dive_is_counted_from_the_face_on_along_a_wide_arc_too() -> None:
    """Four degrees down with a radius of two metres: fifteen hundredths are below the face."""
    r, steep = 2000.0, math.radians(4)
    x, z = r * math.sin(steep), -r * math.cos(steep)
    # down the left side of the arc, from 0.3 above the face
    begin = math.acos((-z - 0.45) / r)
    from_x, to_x = -r * math.sin(begin), -x
    middle = f"I{-from_x:.6f} K{r * math.cos(begin):.6f}"
    text = f"G21 G90 G94 F600\nG0 Z0.3\nG0 X{from_x:.6f} Y0\nG18 G2 X{to_x:.6f} Z-0.15 {middle}\n"
    found = steep_drop(read(text.encode()).motions, math.tan(math.radians(3)), 0.0)
    assert found[-1] == pytest.approx(0.15, abs=0.01)


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
