"""Cutting on a grid against plain geometry: every cell by its distance from places along the path,
a hundred to the millimetre."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from truing.programs import read
from truing.programs.motions import FLAGS, KIND, TURNS, X0, X1, Y0, Y1, Z0, Z1, Kind
from truing.programs.relief import relief
from truing.programs.sweep import Grid, Tool, sweep
from truing.programs.trespass import trespass

CELL = 0.4
BOX = (0.0, 0.0, 16.0, 12.0)
across = st.integers(-20, 180).map(lambda v: v / 10)
deep = st.sampled_from([-0.9, -0.5, -0.4, -0.1, 0.3])


@st.composite
def lines(draw: Any) -> str:
    """Rapids and feeds, level and sloping, over the board and beside it; arcs of any length, level
    or a screw of one or two turns, and arcs that dip on edge."""
    told = ["G21 G90 G94 F600", "G0 Z2", "G0 X1 Y1", "G1 Z-0.1"]
    x, y, z = 1.0, 1.0, -0.1
    for _ in range(draw(st.integers(1, 5))):
        how = draw(st.sampled_from(["G0", "G1", "slope", "arc", "screw", "G18", "G19"]))
        r = draw(st.sampled_from([1.0, 2.5, 6.0]))
        if how in ("arc", "screw"):
            # from here about a middle beside it, to where an angle ends
            at, turn = draw(st.floats(0, 6.28)), draw(st.floats(0.2, 6.0))
            cx, cy = x + r * math.cos(at), y + r * math.sin(at)
            way = draw(st.sampled_from([-1, 1]))
            end = at + math.pi + way * turn
            i, j = cx - x, cy - y
            x, y = cx + r * math.cos(end), cy + r * math.sin(end)
            rest = ""
            if how == "screw":
                z = draw(deep)
                rest = f" Z{z} P{draw(st.integers(1, 2))}"
            word = "G3" if way > 0 else "G2"
            told.append(f"G17 {word} X{x:.5f} Y{y:.5f} I{i:.5f} J{j:.5f}{rest}")
        elif how in ("G18", "G19"):
            # about a middle above it: angles from straight down, to the right or to the rear
            begin, end = draw(st.floats(-0.7, 0.7)), draw(st.floats(-0.7, 0.7))
            if abs(begin - end) < 0.05:
                continue
            over, up = -r * math.sin(begin), r * math.cos(begin)
            far = over + r * math.sin(end)
            z = z + up - r * math.cos(end)
            if how == "G18":
                x += far
            else:
                y += far
            # forward along X it dips clockwise as seen from the rear; along Y seen from the left
            on = (end > begin) == (how == "G19")
            middle = f"{'I' if how == 'G18' else 'J'}{over:.5f} K{up:.5f}"
            told.append(f"{how} {'G3' if on else 'G2'} X{x:.5f} Y{y:.5f} Z{z:.5f} {middle}")
        else:
            x, y = draw(across), draw(across)
            z = draw(deep) if how == "slope" else z
            told.append(f"{'G0' if how == 'G0' else 'G1'} X{x} Y{y} Z{z:.5f}")
    return "\n".join(told)


def known(motions: Any) -> list[int]:
    """Motions of which both ends are known."""
    moves = motions.how[:, KIND] <= Kind.CCW
    return [int(n) for n in np.flatnonzero(moves & np.isfinite(motions.at[:, :6]).all(axis=1))]


def places(motions: Any, n: int) -> Any:
    """Where the centre comes on its way, a hundredth of a millimetre apart."""
    row = motions.at[n]
    begin, end = row[[X0, Y0, Z0]], row[[X1, Y1, Z1]]
    if motions.how[n, KIND] in (Kind.CW, Kind.CCW):
        # about Z from X to Y, about Y from Z to X, about X from Y to Z
        p, q, o = {0: (0, 1, 2), 1: (2, 0, 1), 2: (1, 2, 0)}[int(motions.how[n, FLAGS]) & 3]
        c = row[6], row[7]
        r = math.hypot(begin[p] - c[0], begin[q] - c[1])
        a0 = math.atan2(begin[q] - c[1], begin[p] - c[0])
        a1 = math.atan2(end[q] - c[1], end[p] - c[0])
        way = 1 if motions.how[n, KIND] == Kind.CCW else -1
        angle = (way * (a1 - a0)) % (2 * math.pi) or 2 * math.pi
        angle = way * (angle + 2 * math.pi * (motions.how[n, TURNS] - 1))
        far = math.hypot(angle * r, end[o] - begin[o])
        t = np.linspace(0, 1, max(2, math.ceil(far / 0.01)))
        found = np.empty((len(t), 3))
        found[:, p] = c[0] + r * np.cos(a0 + angle * t)
        found[:, q] = c[1] + r * np.sin(a0 + angle * t)
        found[:, o] = begin[o] + (end[o] - begin[o]) * t
        return found
    t = np.linspace(0, 1, max(2, math.ceil(math.dist(begin, end) / 0.01)))[:, None]
    return begin + (end - begin) * t


def least(grid: Grid, path: Any, radius: float) -> Any:
    """How low a disc comes over each cell; +inf where it does not come."""
    x, y = np.meshgrid(grid.x, grid.y)
    found = np.full(x.shape, np.inf)
    for px, py, pz in (*path[::4], path[-1]):
        near = (x - px) ** 2 + (y - py) ** 2 <= radius**2
        found[near] = np.minimum(found[near], pz)
    return found


@settings(max_examples=40, deadline=None)
@given(program=lines(), radius=st.sampled_from([0.9, 2.0, 3.3]))
def test_what_is_cut_is_what_the_disc_passes_over(program: str, radius: float) -> None:
    motions = read(program.encode()).motions
    cut, left = Grid.over(BOX, CELL), Grid.over(BOX, CELL)
    bites = sweep(motions, Tool(radius), cut).bites_mm
    relief(motions, Tool(radius), left)
    # what lies half a diagonal of a cell off the rim may be cut or not, and a slope is cut in steps
    surely = perhaps = np.zeros_like(cut.up, np.float64)
    gx, gy = np.meshgrid(cut.x, cut.y)
    for n in known(motions):
        path = places(motions, n)
        if motions.how[n, KIND] == Kind.RAPID:
            # it cuts nothing, and what it would meet on any way between its ends is told
            (left_, front, z0), (right, rear, _) = path.min(axis=0), path.max(axis=0)
            beside = np.hypot(
                np.maximum(0, np.maximum(left_ - gx, gx - right)),
                np.maximum(0, np.maximum(front - gy, gy - rear)),
            )
            met = [beside <= radius - 1.6 * CELL, beside <= radius]
            low = (perhaps - z0)[met[0]].max(initial=0.0)
            high = (surely - z0)[met[1]].max(initial=0.0)
        else:
            # a slope is cut in steps, each a cell long and at the lower of its ends
            slopes = bool(np.ptp(path[:, 2]))
            off = (1.1 if slopes else 0.75) * CELL
            before = surely, perhaps
            surely = np.minimum(surely, least(cut, path, radius - off))
            perhaps = np.minimum(perhaps, least(cut, path, radius + off))
            # and bites no deeper than one of them
            low = 0.0 if slopes else (before[1] - surely).max()
            high = (before[0] - perhaps).max()
        step = 0.06 + CELL * bool(np.ptp(path[:, 2]))
        assert low - step <= bites[n] <= high + step
    for grid in (cut, left):
        assert (grid.up <= surely + 0.06).all()
        assert (grid.up >= perhaps - 0.06).all()


ROUND = {
    "ball": (Tool(1.6, corner_mm=1.6), lambda d: 1.6 - np.sqrt(np.maximum(0, 1.6**2 - d**2))),
    "v": (Tool(3.0, slope=1.2, tip_mm=0.2), lambda d: np.maximum(0, d - 0.2) * 1.2),
    "leaning v": (
        Tool(3.0, slope=1.2, tip_mm=0.2, lean_x=0.01, lean_y=-0.02),
        lambda d: np.maximum(0, d - 0.2) * 1.2,
    ),
}


@pytest.mark.parametrize("name", ROUND)
@settings(max_examples=25, deadline=None)
@given(program=lines())
def test_what_is_round_or_pointed_leaves_its_own_underside(name: str, program: str) -> None:
    """The lowest that its outline comes over each cell, leaning as it leans."""
    tool, rises = ROUND[name]
    motions = read(program.encode()).motions
    grid = Grid.over(BOX, CELL)
    relief(motions, tool, grid)
    x, y = np.meshgrid(grid.x, grid.y)
    wanted = np.zeros_like(x)
    for n in known(motions):
        if motions.how[n, KIND] == Kind.RAPID:
            continue
        path = places(motions, n)
        for px, py, pz in (*path[::2], path[-1]):
            dx, dy = x - px, y - py
            d = np.hypot(dx, dy)
            up = pz + rises(d) - tool.lean_x * dx - tool.lean_y * dy
            wanted = np.where(d <= tool.radius_mm, np.minimum(wanted, up), wanted)
    assert np.abs(grid.up - wanted).max() < 0.03


@settings(max_examples=80, deadline=None)
@given(program=lines(), seed=st.integers(0, 99), share=st.sampled_from([0.02, 0.15, 0.75]))
def test_how_far_a_centre_comes_below_what_is_kept(program: str, seed: int, share: float) -> None:
    """A few things in the way, many, or nearly everywhere one. A rapid may come through any place
    of the box between its ends, at its lower height."""
    motions = read(program.encode()).motions
    keep = Grid.over(BOX, 1.0)
    heights, odds = [-np.inf, -0.3, 0.2, 4.0], [1 - share, *[share / 3] * 3]
    keep.up[:] = np.random.default_rng(seed).choice(heights, keep.up.shape, p=odds)
    found = trespass(motions, keep)
    for n in known(motions):
        path = places(motions, n)
        if motions.how[n, KIND] == Kind.RAPID:
            (x0, y0, z0), (x1, y1, z1) = path[0], path[-1]
            gx, gy = np.meshgrid(np.linspace(x0, x1, 80), np.linspace(y0, y1, 80))
            path = np.column_stack([gx.ravel(), gy.ravel(), np.full(gx.size, min(z0, z1))])
        at = (path[:, :2] - (keep.x0_mm, keep.y0_mm)) / keep.cell_mm
        # a chord passes a little beside its arc, and may come into the next cell
        beside = [(a, b) for a in (0, -0.07, 0.07) for b in (0, -0.07, 0.07)]
        path, at = np.tile(path, (9, 1)), np.vstack([at + b for b in beside])
        i, j = np.round(at).astype(int).T
        on = (i >= 0) & (i < keep.up.shape[1]) & (j >= 0) & (j < keep.up.shape[0])
        # a corner of a cell may be passed by unseen, what comes near its middle may not
        seen = on & (np.abs(at - np.round(at)).max(axis=1) < 0.25)
        steps = np.abs(np.diff(path[: len(path) // 9], axis=0))
        slope = (steps[:, 2] / np.maximum(1e-9, np.hypot(*steps[:, :2].T))).max()
        slack = 0.01 + keep.cell_mm * min(slope, 1.0)
        least_, most = (
            float((keep.up[j[k], i[k]] - path[k, 2]).max(initial=0.0)) for k in (seen, on)
        )
        assert least_ - slack <= found[n] <= most + slack
