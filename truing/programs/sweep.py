"""What a program's motions meet, one after the other, on a grid of heights.

A cutter is taken as a few discs, one over the other, each inside its outline; a slope as level
steps at the lower end of each. That is close enough to tell what hits and how deep it bites, and
quick; what it leaves to the last micrometre is `relief`. Compiled.
"""
# mypy: disable-error-code="no-untyped-def,no-untyped-call"

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from truing.programs.arcs import arc_angle, arc_at, arc_extent, axes, chords, is_known
from truing.programs.compiled import compiled
from truing.programs.motions import Motions

Heights = NDArray[np.float32]
STEPS = 5
"""Discs that stand for a round or pointed cutter."""
DIVE_RAD = 0.01
"""An arc that may dive is looked at so closely."""
LEVEL_MM = 0.05
"""Height of a step that stands for a slope."""


@dataclass(frozen=True)
class Tool:
    """A cutter, from below: flat out to `radius_mm` less `corner_mm` and round from there, or a V.

    `lean_x` and `lean_y` (mm per mm) are the spindle's, its top to the right and to the rear."""

    radius_mm: float
    corner_mm: float = 0.0
    slope: float = 0.0
    """Of a V: what it rises by for each mm from its tip; 0 for none."""
    tip_mm: float = 0.0
    """Radius of a V's flat tip."""
    lean_x: float = 0.0
    lean_y: float = 0.0

    def discs(self, depth_mm: float) -> NDArray[np.float64]:
        """(k, 2): radius and rise over the tip (mm) of discs inside its outline, the lowest first,
        up to a depth."""
        if self.slope > 0:
            out = min(self.radius_mm, self.tip_mm + depth_mm / self.slope)
            radii = np.linspace(self.tip_mm, out, STEPS + 1)
            rises = (radii - self.tip_mm) * self.slope
        elif self.corner_mm > 0:
            angle = np.linspace(0, math.pi / 2, STEPS + 1)
            radii = self.radius_mm - self.corner_mm * (1 - np.sin(angle))
            rises = self.corner_mm * (1 - np.cos(angle))
        else:
            return np.array([[self.radius_mm, 0.0]])
        # each as wide as the outline is where it begins
        return np.column_stack([radii, rises])


@dataclass
class Grid:
    """Heights over an area: `up[j, i]` at x0 + i·cell, y0 + j·cell (mm); −inf is air."""

    x0_mm: float
    y0_mm: float
    cell_mm: float
    up: Heights = field(repr=False)

    @classmethod
    def over(
        cls, box: tuple[float, float, float, float], cell_mm: float, up_mm: float = 0.0
    ) -> Grid:
        """Cells whose centres fill a box (left, front, right, rear), all at one height."""
        left, front, right, rear = box
        nx = max(1, round((right - left) / cell_mm))
        ny = max(1, round((rear - front) / cell_mm))
        up = np.full((ny, nx), up_mm, np.float32)
        return cls(left + cell_mm / 2, front + cell_mm / 2, cell_mm, up)

    @property
    def x(self) -> NDArray[np.float64]:
        return np.asarray(self.x0_mm + self.cell_mm * np.arange(self.up.shape[1]), np.float64)

    @property
    def y(self) -> NDArray[np.float64]:
        return np.asarray(self.y0_mm + self.cell_mm * np.arange(self.up.shape[0]), np.float64)


def sweep(motions: Motions, tool: Tool, grid: Grid) -> Heights:
    """Cut `grid.up` by every motion in turn, and return the most that each took off any cell, or
    would have (n,), mm. A motion whose place is not known cuts nothing.

    A rapid is taken to fill the box between its ends at its lower height, since a rapid need not be
    straight. It cuts nothing, and what it meets within three quarters of a cell of its rim is left
    out, so that the grid by itself raises no alarm.
    """
    bites = np.zeros(len(motions.at), np.float32)
    z, _ = extent(motions, 2)
    met = grid.up[np.isfinite(grid.up)]
    deep = float(met.max() - np.nanmin(z)) if len(met) and np.isfinite(z).any() else 0.0
    _sweep(
        motions.at,
        motions.how,
        grid.up,
        grid.x0_mm,
        grid.y0_mm,
        grid.cell_mm,
        tool.discs(max(deep, 0.0)),
        bites,
    )
    return bites


@compiled
def _row(y, c, reach, span):
    """Where a row crosses the area that a disc covers along its chord; into `span`."""
    low, high = np.inf, -np.inf
    for e in range(2):
        dy = y - c[1 + 3 * e]
        if abs(dy) <= reach:
            w = math.sqrt(reach * reach - dy * dy)
            low, high = min(low, c[3 * e] - w), max(high, c[3 * e] + w)
    ex, ey = c[3] - c[0], c[4] - c[1]
    length = math.sqrt(ex * ex + ey * ey)
    if length > 0.0 and ey != 0.0:
        nx, ny = -ey / length * reach, ex / length * reach
        for side in range(-1, 2, 2):
            t = (y - c[1] - side * ny) / ey
            if 0.0 <= t <= 1.0:
                x = c[0] + side * nx + t * ex
                low, high = min(low, x), max(high, x)
    span[0], span[1] = low, high


@compiled
def _capsule(c, low, up, x0, y0, cell, reach, span):
    """Cut along a chord at one height; the deepest bite."""
    deepest = 0.0
    ny, nx = up.shape
    j0 = max(0, math.ceil((min(c[1], c[4]) - reach - y0) / cell))
    j1 = min(ny - 1, math.floor((max(c[1], c[4]) + reach - y0) / cell))
    for j in range(j0, j1 + 1):
        _row(y0 + j * cell, c, reach, span)
        if span[0] > span[1]:
            continue
        i0 = max(0, math.ceil((span[0] - x0) / cell))
        i1 = min(nx - 1, math.floor((span[1] - x0) / cell))
        for i in range(i0, i1 + 1):
            bite = up[j, i] - low
            if bite > 0.0:
                up[j, i] = low
                deepest = max(deepest, bite)
    return deepest


@compiled
def _chord(c, up, x0, y0, cell, discs, part, span):
    """Cut along one chord, a slope in level steps, by every disc; the deepest bite."""
    deepest = 0.0
    drop = abs(c[5] - c[2])
    far = math.hypot(c[3] - c[0], c[4] - c[1])
    steps = 1
    if drop > 0.0 and far > 0.0:
        steps = max(1, min(math.ceil(drop / LEVEL_MM), math.ceil(far / cell)))
    for k in range(steps):
        a, b = k / steps, (k + 1) / steps
        for i in range(3):
            part[i] = c[i] + (c[3 + i] - c[i]) * a
            part[3 + i] = c[i] + (c[3 + i] - c[i]) * b
        low = np.float32(min(part[2], part[5]))
        for d in range(len(discs)):
            rise = np.float32(discs[d, 1])
            bite = _capsule(part, low + rise, up, x0, y0, cell, discs[d, 0], span)
            deepest = max(deepest, bite)
    return deepest


@compiled
def _box(c, up, x0, y0, cell, reach):
    """The most that a rapid may meet between its ends, at its lower height."""
    deepest = 0.0
    ny, nx = up.shape
    left, right = min(c[0], c[3]), max(c[0], c[3])
    front, rear = min(c[1], c[4]), max(c[1], c[4])
    low = min(c[2], c[5])
    j0 = max(0, math.ceil((front - reach - y0) / cell))
    j1 = min(ny - 1, math.floor((rear + reach - y0) / cell))
    i0 = max(0, math.ceil((left - reach - x0) / cell))
    i1 = min(nx - 1, math.floor((right + reach - x0) / cell))
    for j in range(j0, j1 + 1):
        dy = max(front - (y0 + j * cell), y0 + j * cell - rear, 0.0)
        for i in range(i0, i1 + 1):
            dx = max(left - (x0 + i * cell), x0 + i * cell - right, 0.0)
            if dx * dx + dy * dy <= reach * reach:
                deepest = max(deepest, up[j, i] - low)
    return deepest


@compiled
def _swing(at, how, axis, low, high):
    for n in range(len(at)):
        if 2 <= how[n, 1] <= 3 and is_known(at[n], 8):
            low[n], high[n] = arc_extent(at[n], how[n], axis)


def extent(motions: Motions, axis: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """The least and the most of X, Y or Z (0, 1, 2) that each motion comes to (mm): an arc may
    swing out further than its ends. NaN where neither end is known."""
    at = motions.at
    low, high = np.fmin(at[:, axis], at[:, 3 + axis]), np.fmax(at[:, axis], at[:, 3 + axis])
    _swing(at, motions.how, axis, low, high)
    return low, high


@compiled
def _steep_drop(at, how, ramp, top, drop):
    to, was = np.empty(3), np.empty(3)
    for n in range(len(at)):
        flat = axes(how[n, 2])[2] == 2
        if how[n, 1] < 2 or how[n, 1] > 3 or flat or not is_known(at[n], 8):
            continue
        arc = arc_angle(at[n], how[n])
        # of a wide arc closer than that, since it may pass the height on its way
        steps = max(64, min(100_000, math.ceil(abs(arc[1]) / DIVE_RAD)))
        for k in range(steps + 1):
            arc_at(at[n], how[n], arc, k / steps, to)
            if k > 0:
                down = min(was[2], top) - min(to[2], top)
                if down > ramp * math.hypot(to[0] - was[0], to[1] - was[1]):
                    drop[n] += down
            for i in range(3):
                was[i] = to[i]


def steep_drop(motions: Motions, ramp: float, top_mm: float) -> NDArray[np.float64]:
    """How far each arc outside the XY plane comes down below a height where it is steeper than a
    ramp (mm per mm): such an arc may dive and rise again between two ends of one height."""
    drop = np.zeros(len(motions.at))
    _steep_drop(motions.at, motions.how, ramp, top_mm, drop)
    return drop


@compiled
def _sweep(at, how, up, x0, y0, cell, discs, deep):
    c, part, span, to = np.empty(6), np.empty(6), np.empty(2), np.empty(3)
    most = -np.inf
    for j in range(up.shape[0]):
        for i in range(up.shape[1]):
            most = max(most, up[j, i])
    # what a rapid meets with its lowest part
    reach = discs[0, 0]
    for n in range(len(at)):
        kind = how[n, 1]
        if kind > 3 or not is_known(at[n], 6):
            continue
        for i in range(6):
            c[i] = at[n, i]
        if min(c[2], c[5]) >= most and kind < 2:
            continue
        if kind == 0:
            deep[n] = _box(c, up, x0, y0, cell, max(reach - 0.75 * cell, 0.71 * cell))
        elif kind == 1:
            deep[n] = _chord(c, up, x0, y0, cell, discs, part, span)
        else:
            arc = arc_angle(at[n], how[n])
            parts = chords(arc, 0.1 * cell)
            for k in range(1, parts + 1):
                arc_at(at[n], how[n], arc, k / parts, to)
                for i in range(3):
                    c[3 + i] = to[i]
                deep[n] = max(deep[n], _chord(c, up, x0, y0, cell, discs, part, span))
                for i in range(3):
                    c[i] = to[i]


def trespass(motions: Motions, keep: Grid) -> NDArray[np.float32]:
    """How far each motion's centre comes below `keep.up` (mm; 0 where it stays clear of it)."""
    deep = np.zeros(len(motions.at), np.float32)
    _trespass(motions.at, motions.how, keep.up, keep.x0_mm, keep.y0_mm, keep.cell_mm, deep)
    return deep


@compiled
def _below(x, y, z, up, x0, y0, cell):
    i, j = round((x - x0) / cell), round((y - y0) / cell)
    if 0 <= j < up.shape[0] and 0 <= i < up.shape[1]:
        return up[j, i] - z
    return 0.0


@compiled
def _trespass(at, how, up, x0, y0, cell, deep):
    to = np.empty(3)
    for n in range(len(at)):
        kind = how[n, 1]
        row = at[n]
        if kind > 3 or not is_known(row, 6):
            continue
        worst = 0.0
        if kind == 0:
            low = min(row[2], row[5])
            nx = math.ceil(abs(row[3] - row[0]) / cell) + 1
            ny = math.ceil(abs(row[4] - row[1]) / cell) + 1
            for j in range(ny + 1):
                for i in range(nx + 1):
                    x = row[0] + (row[3] - row[0]) * i / nx
                    y = row[1] + (row[4] - row[1]) * j / ny
                    worst = max(worst, _below(x, y, low, up, x0, y0, cell))
        elif kind == 1:
            far = max(abs(row[3] - row[0]), abs(row[4] - row[1]))
            steps = math.ceil(2 * far / cell) + 1
            for k in range(steps + 1):
                t = k / steps
                x, y = row[0] + (row[3] - row[0]) * t, row[1] + (row[4] - row[1]) * t
                worst = max(worst, _below(x, y, row[2] + (row[5] - row[2]) * t, up, x0, y0, cell))
        else:
            arc = arc_angle(row, how[n])
            steps = math.ceil(2 * abs(arc[1]) * max(arc[2], arc[3]) / cell) + 1
            for k in range(steps + 1):
                arc_at(row, how[n], arc, k / steps, to)
                worst = max(worst, _below(to[0], to[1], to[2], up, x0, y0, cell))
        deep[n] = worst
