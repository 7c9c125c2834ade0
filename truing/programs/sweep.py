"""What a program's motions meet, one after the other, on a grid of heights.

A cutter is taken as a few discs, one over the other, each inside its outline. That is close enough
to tell what hits and how deep it bites, and quick; what it leaves to the last micrometre is
`relief`. Compiled.
"""
# mypy: disable-error-code="no-untyped-def,no-untyped-call"

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from truing.programs.arcs import arc_angle, axes, chords, is_known
from truing.programs.clip import a_walk, begin_arc, clip, cut_to, next_chord
from truing.programs.compiled import compiled
from truing.programs.face import Box
from truing.programs.motions import Motions
from truing.programs.spans import lowest

Heights = NDArray[np.float32]
STEPS = 5
"""Discs that stand for a round or pointed cutter."""
TILE = 16
"""Cells across of what is looked at as one where nothing in it can matter."""
UPRIGHT_MM = 0.005
"""By which the chords of an arc that dives may leave it."""
A_ROW, A_CHORD = 15.0, 70.0
"""What a row and a chord take by themselves, in cells."""
LOOKED_AT = 20_000
"""Motions that tell what all of them take."""
UPRIGHT_SHARE = 2e-5
"""Or so much of its radius, where that is more."""
DEEPEST_MM = 1000.0
"""Below the highest of a face; upright arcs are not followed further down, where they would go on
for kilometres: what they cut there they reach from above."""
MOST_BOXED = 1e8
SLIGHT_MM = 0.002
"""A bite that is none."""
AGAIN = 8192
"""Motions after which what stands is looked over again."""
SLICE = 50_000
"""Motions after which is told how far it is."""


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


@dataclass(frozen=True)
class Swept:
    """What motions met: the most that each took off any cell, or would have (n,), and the length
    along which it was in material (n,), both mm; what all took off (mm³)."""

    bites_mm: Heights
    inside_mm: Heights
    volume_mm3: float


def sweep(
    motions: Motions, tool: Tool, grid: Grid, progress: Callable[[int], None] = lambda done: None
) -> Swept:
    """Cut `grid.up` by every motion in turn, and return what each took off. A motion whose place is
    not known cuts nothing. `progress` is told how many are done, and may raise to stop.

    A rapid is taken to fill the box between its ends at its lower height, since a rapid need not be
    straight. It cuts nothing, and what it meets within three quarters of a cell of its rim is left
    out, so that the grid by itself raises no alarm. When `MOST_BOXED` cells were looked at for
    rapids, what further ones meet is not: each is below the face, and wrong for that alone.
    """
    bites, inside = np.zeros(len(motions.at), np.float32), np.zeros(len(motions.at), np.float32)
    off = np.zeros(1)
    shape = tool.discs(max(deepest_below(motions, grid), 0.0))
    discs = apart(shape, grid.cell_mm)
    tiles, spent = tiles_of(grid.up), np.zeros(1)
    for k in range(0, len(motions.at), SLICE):
        progress(k)
        _sweep(
            motions.at[k : k + SLICE],
            motions.how[k : k + SLICE],
            grid.up,
            tiles,
            grid.x0_mm,
            grid.y0_mm,
            grid.cell_mm,
            discs,
            bites[k : k + SLICE],
            inside[k : k + SLICE],
            off,
            spent,
        )
    return Swept(bites, inside, float(off[0]) * _mean_radius(shape) / _mean_radius(discs))


def _mean_radius(discs: NDArray[np.float64]) -> float:
    """Of a cutter over its height (mm)."""
    tall = float(discs[-1, 1] - discs[0, 1])
    return float(np.trapezoid(discs[:, 0], discs[:, 1])) / tall if tall else float(discs[-1, 0])


def together(parts: Sequence[Swept]) -> Swept:
    """Of several stretches, one after the other."""
    return Swept(
        np.concatenate([part.bites_mm for part in parts]),
        np.concatenate([part.inside_mm for part in parts]),
        sum(part.volume_mm3 for part in parts),
    )


@compiled
def off_of(row, ways, cell):
    """By how much the chords of an arc may leave it: in height by less than it touches."""
    if axes(ways[2])[2] == 2:
        return 0.1 * cell
    radius = math.hypot(row[6] - row[axes(ways[2])[0]], row[7] - row[axes(ways[2])[1]])
    return max(min(0.1 * cell, UPRIGHT_MM), UPRIGHT_SHARE * radius)


@compiled
def _over(row, ways, box, top, c, span):
    """How far a cut goes over a box below a height, at the most; -1 where it does not."""
    if ways[1] < 1 or ways[1] > 3 or not is_known(row, 6):
        return -1.0
    if ways[1] == 1:
        for i in range(6):
            c[i] = row[i]
        if not clip(c, box, top, span):
            return -1.0
        return math.hypot(c[3] - c[0], c[4] - c[1]) * (span[1] - span[0])
    arc = arc_angle(row, ways)
    # of a wide one only so much lies within a box, on every turn
    around = 2 * (box[2] - box[0] + box[3] - box[1])
    return min(abs(arc[1]) * max(arc[2], arc[3]), around * ways[3])


@compiled
def _path(at, how, box, top):
    c, span = np.empty(6), np.empty(2)
    found = 0.0
    for n in range(len(at)):
        found += max(0.0, _over(at[n], how[n], box, top, c, span))
    return found


@compiled
def _work(at, how, box, top, radii, cell):
    c, span = np.empty(6), np.empty(2)
    found = 0.0
    for n in range(len(at)):
        far = _over(at[n], how[n], box, top, c, span)
        if far < 0.0:
            continue
        if how[n, 1] == 1:
            rows = abs(c[4] - c[1]) * (span[1] - span[0]) / cell
            parts = 1
        else:
            arc = arc_angle(at[n], how[n])
            whole = abs(arc[1]) * max(arc[2], arc[3])
            rows = far / cell
            parts = max(
                1, math.ceil(chords(arc, off_of(at[n], how[n], cell)) * far / max(whole, 1e-9))
            )
        for r in radii:
            found += far * (2 * r + cell) / cell**2
            found += parts * (math.pi * (r / cell) ** 2 + A_ROW * 2 * r / cell + A_CHORD)
            found += A_ROW * rows
    return found


def _some(motions: Motions) -> tuple[int, NDArray[np.float64], NDArray[np.int32]]:
    """Of very many some tell what all of them take, the others are like them: one of how many, and
    those. An odd step meets what goes by turns."""
    every = len(motions.at) // LOOKED_AT | 1
    return (
        every,
        np.ascontiguousarray(motions.at[::every]),
        np.ascontiguousarray(motions.how[::every]),
    )


def path_over(motions: Motions, box: Box) -> float:
    """How far all cuts together go over a box, about (mm)."""
    every, at, how = _some(motions)
    return every * float(_path(at, how, np.array(box, float), np.inf))


def work_over(
    motions: Motions, box: Box, top_mm: float, discs: NDArray[np.float64], cell_mm: float
) -> float:
    """How many cells of a grid over a box all cuts together touch, about: what a sweep costs."""
    discs = apart(discs, cell_mm)
    wide = float(discs[-1, 0])
    grown = np.array([box[0] - wide, box[1] - wide, box[2] + wide, box[3] + wide])
    every, at, how = _some(motions)
    return every * float(_work(at, how, grown, top_mm, discs[:, 0].copy(), cell_mm))


def apart(discs: NDArray[np.float64], cell_mm: float) -> NDArray[np.float64]:
    """Those of a cutter's discs that cells of this size can tell from one further in, which is
    lower; the widest always. Of one narrower than a cell its end, as wide as it takes to meet
    the nearest cell everywhere: nothing that it bites is missed."""
    if cell_mm > discs[-1, 0]:
        return np.array([[max(discs[-1, 0], 0.71 * cell_mm), discs[0, 1]]])
    kept = [discs[0]]
    for disc in discs[1:]:
        if disc[0] - kept[-1][0] > cell_mm / 3:
            kept.append(disc)
    return np.array(kept if kept[-1][0] == discs[-1, 0] else [*kept, discs[-1]])


def deepest_below(motions: Motions, grid: Grid) -> float:
    """How far the lowest motion comes below the highest of a grid (mm); 0 where none is known."""
    deepest = lowest(motions)
    met = grid.up[np.isfinite(grid.up)]
    return float(met.max()) - deepest if len(met) and deepest < math.inf else 0.0


@compiled
def flank(c, reach, side):
    """Of the area that a disc covers along its chord: how far its flanks lie beside the chord in X
    and in Y, and what of the chord passes for each mm in Y (0 where none does); into `side`."""
    ex, ey = c[3] - c[0], c[4] - c[1]
    side[0] = side[1] = side[2] = 0.0
    if ey != 0.0:
        share = reach / math.sqrt(ex * ex + ey * ey)
        side[0], side[1], side[2] = -ey * share, ex * share, 1.0 / ey


@compiled
def row_span(y, c, reach, side, span):
    """Where a row crosses the area that a disc covers along its chord; into `span`."""
    low, high = np.inf, -np.inf
    for e in range(2):
        dy = y - c[1 + 3 * e]
        if abs(dy) <= reach:
            w = math.sqrt(reach * reach - dy * dy)
            low, high = min(low, c[3 * e] - w), max(high, c[3 * e] + w)
    if side[2] != 0.0:
        t, dt = (y - c[1]) * side[2], side[1] * side[2]
        ex = c[3] - c[0]
        if 0.0 <= t - dt <= 1.0:
            x = c[0] + side[0] + (t - dt) * ex
            low, high = min(low, x), max(high, x)
        if 0.0 <= t + dt <= 1.0:
            x = c[0] - side[0] + (t + dt) * ex
            low, high = min(low, x), max(high, x)
    span[0], span[1] = low, high


@compiled
def _capsule(c, rise, up, x0, y0, cell, reach, side, span, met):
    """Cut along a chord by a disc that stands `rise` over it; the deepest bite. Of a slope each
    cell gets the lowest that the disc comes to over it."""
    deepest = np.float32(0.0)
    ny, nx = up.shape
    ex, ey, ez = c[3] - c[0], c[4] - c[1], c[5] - c[2]
    far2 = ex * ex + ey * ey
    low = np.float32(min(c[2], c[5]) + rise)
    slope = ez != 0.0 and far2 > 0.0
    per = 1.0 / cell
    flank(c, reach, side)
    j0 = max(0, math.ceil((min(c[1], c[4]) - reach - y0) / cell))
    j1 = min(ny - 1, math.floor((max(c[1], c[4]) + reach - y0) / cell))
    for j in range(j0, j1 + 1):
        y = y0 + j * cell
        row_span(y, c, reach, side, span)
        if span[0] > span[1]:
            continue
        i0 = max(0, math.ceil((span[0] - x0) * per))
        i1 = min(nx - 1, math.floor((span[1] - x0) * per))
        for i in range(i0, i1 + 1):
            here = up[j, i]
            if here <= low:
                continue
            dx, dy = x0 + i * cell - c[0], y - c[1]
            t0, t1 = 0.0, 1.0
            if far2 > 0.0:
                # from where to where along the chord the disc stands over this cell
                along = (dx * ex + dy * ey) / far2
                off2 = (dx * ey - dy * ex) ** 2 / far2
                half = math.sqrt(max(0.0, reach * reach - off2) / far2)
                t0 = min(max(along - half, 0.0), 1.0)
                t1 = min(max(along + half, 0.0), 1.0)
            z = np.float32(c[2] + ez * (t1 if ez < 0.0 else t0) + rise) if slope else low
            if here > z:
                up[j, i] = z
                deepest = max(deepest, here - z)
                met[0], met[1], met[2] = min(met[0], t0), max(met[1], t1), met[2] + here - z
    return deepest


@compiled
def _chord(c, up, x0, y0, cell, discs, side, span, met):
    """Cut along one chord by every disc; the deepest bite. Into `met`: from where to where it was
    in material (0 … 1), and the heights that it took off cells, all together."""
    deepest = 0.0
    met[0], met[1] = 1.0, 0.0
    for d in range(len(discs)):
        bite = _capsule(c, discs[d, 1], up, x0, y0, cell, discs[d, 0], side, span, met)
        deepest = max(deepest, bite)
    return deepest


@compiled
def _look_over(up, tiles):
    """The highest of every `TILE` by `TILE` cells, into `tiles`; and of all of them."""
    ny, nx = up.shape
    highest = np.float32(-np.inf)
    for tj in range(tiles.shape[0]):
        for ti in range(tiles.shape[1]):
            most = np.float32(-np.inf)
            for j in range(tj * TILE, min((tj + 1) * TILE, ny)):
                for i in range(ti * TILE, min((ti + 1) * TILE, nx)):
                    most = max(most, up[j, i])
            tiles[tj, ti] = most
            highest = max(highest, most)
    return highest


@compiled
def tiles_of(up):
    """The highest of every `TILE` by `TILE` cells."""
    ny, nx = up.shape
    found = np.empty(((ny + TILE - 1) // TILE, (nx + TILE - 1) // TILE), np.float32)
    _look_over(up, found)
    return found


@compiled
def _box(c, up, tiles, x0, y0, cell, reach, spent):
    """The most that a rapid may meet between its ends, at its lower height. `tiles` bounds what
    stands in each tile, and is kept up; `spent[0]` counts the cells that were looked at."""
    deepest = 0.0
    ny, nx = up.shape
    left, right = min(c[0], c[3]), max(c[0], c[3])
    front, rear = min(c[1], c[4]), max(c[1], c[4])
    low = min(c[2], c[5])
    j0 = max(0, math.ceil((front - reach - y0) / cell))
    j1 = min(ny - 1, math.floor((rear + reach - y0) / cell))
    i0 = max(0, math.ceil((left - reach - x0) / cell))
    i1 = min(nx - 1, math.floor((right + reach - x0) / cell))
    if j0 > j1 or i0 > i1:
        return 0.0
    for tj in range(j0 // TILE, j1 // TILE + 1):
        for ti in range(i0 // TILE, i1 // TILE + 1):
            if tiles[tj, ti] - low <= deepest:
                continue
            whole = True
            most = np.float32(-np.inf)
            for j in range(tj * TILE, min((tj + 1) * TILE, ny)):
                dy = max(front - (y0 + j * cell), y0 + j * cell - rear, 0.0)
                for i in range(ti * TILE, min((ti + 1) * TILE, nx)):
                    dx = max(left - (x0 + i * cell), x0 + i * cell - right, 0.0)
                    if dx * dx + dy * dy > reach * reach:
                        whole = False
                    else:
                        most = max(most, up[j, i])
            spent[0] += TILE * TILE
            if whole:
                # what was cut since it was looked at last has made it lower
                tiles[tj, ti] = most
            deepest = max(deepest, most - low)
    return deepest


@compiled
def _fall(a0, a1, row, p, q, radius, top):
    """By how much a circle comes down below a height between two angles, over which its height only
    falls or only rises; `p` or `q` is the axis that stands upright."""
    if p == 2:
        z0, z1 = row[6] + radius * math.cos(a0), row[6] + radius * math.cos(a1)
    else:
        z0, z1 = row[7] + radius * math.sin(a0), row[7] + radius * math.sin(a1)
    return max(0.0, min(z0, top) - min(z1, top))


@compiled
def _steep_drop(at, how, ramp, top, drop):
    for n in range(len(at)):
        p, q, o = axes(how[n, 2])
        if how[n, 1] < 2 or how[n, 1] > 3 or o == 2 or not is_known(at[n], 8):
            continue
        row = at[n]
        a0, angle, r0, r1 = arc_angle(row, how[n])
        radius = max(r0, r1)
        if radius <= 0.0 or angle == 0.0:
            continue
        # it is steeper than the ramp where |sin| of the angle from the height's own axis is more
        # than this; what goes across meanwhile makes it less steep
        k = (row[3 + o] - row[o]) / angle
        share = ramp * ramp * (radius * radius + k * k) / (radius * radius * (1 + ramp * ramp))
        if share >= 1.0:
            continue
        steep = math.asin(math.sqrt(share))
        base = 0.0 if p == 2 else math.pi / 2
        low, high = min(a0, a0 + angle), max(a0, a0 + angle)
        turns = 1
        if high - low > 4 * math.pi:
            # every whole turn falls alike
            turns = int((high - low) / (2 * math.pi)) - 1
        first = math.floor((low - base) / math.pi) - 1
        last = math.ceil((min(high, low + 2 * math.pi * turns) - base) / math.pi) + 1
        if turns > 1:
            last = first + 4
        for m in range(first, last + 1):
            b0, b1 = base + m * math.pi + steep, base + (m + 1) * math.pi - steep
            if turns == 1:
                b0, b1 = max(b0, low), min(b1, high)
            if b0 >= b1:
                continue
            fell = (
                _fall(b0, b1, row, p, q, radius, top)
                if angle > 0
                else _fall(b1, b0, row, p, q, radius, top)
            )
            drop[n] += fell * turns


def steep_drop(motions: Motions, ramp: float, top_mm: float) -> NDArray[np.float64]:
    """How far each arc outside the XY plane comes down below a height where it is steeper than a
    ramp (mm per mm): such an arc may dive and rise again between two ends of one height."""
    drop = np.zeros(len(motions.at))
    _steep_drop(motions.at, motions.how, ramp, top_mm, drop)
    return drop


@compiled
def _count(c, met, cell, n, inside, off):
    """Add what a chord cut to its motion: its length in material, the volume."""
    if met[1] > met[0]:
        far = math.sqrt((c[3] - c[0]) ** 2 + (c[4] - c[1]) ** 2 + (c[5] - c[2]) ** 2)
        inside[n] += far * (met[1] - met[0])
        off[0] += met[2] * cell * cell


@compiled
def _sweep(at, how, up, tiles, x0, y0, cell, discs, deep, inside, off, spent):
    c, span, side, met = np.empty(6), np.empty(2), np.empty(3), np.empty(3)
    walk, arc = a_walk()
    most = _look_over(up, tiles)
    low = most - DEEPEST_MM
    # what a rapid meets with its lowest part, and how far the widest reaches
    reach, wide = discs[0, 0], discs[-1, 0]
    ny, nx = up.shape
    box = np.array(
        [
            x0 - cell - wide,
            y0 - cell - wide,
            x0 + nx * cell + wide,
            y0 + ny * cell + wide,
        ]
    )
    for n in range(len(at)):
        kind = how[n, 1]
        if n % AGAIN == AGAIN - 1:
            # what is cut down to one depth meets nothing at it any more
            most = _look_over(up, tiles)
        if kind > 3 or not is_known(at[n], 6):
            continue
        for i in range(6):
            c[i] = at[n, i]
        if min(c[2], c[5]) >= most - SLIGHT_MM and (kind < 2 or axes(how[n, 2])[2] == 2):
            continue
        if kind == 0:
            # a rapid that goes sideways so low is wrong whatever it meets
            if spent[0] < MOST_BOXED or (c[0] == c[3] and c[1] == c[4]):
                near = max(reach - 0.75 * cell, 0.71 * cell)
                deep[n] = _box(c, up, tiles, x0, y0, cell, near, spent)
        elif kind == 1:
            if clip(c, box, most, span):
                cut_to(c, span)
                met[2] = 0.0
                deep[n] = _chord(c, up, x0, y0, cell, discs, side, span, met)
                _count(c, met, cell, n, inside, off)
        else:
            leaves = off_of(at[n], how[n], cell)
            begin_arc(at[n], how[n], box, low, most, leaves, np.inf, walk)
            while next_chord(walk):
                for i in range(6):
                    c[i] = arc[i]
                if clip(c, box, most, span):
                    cut_to(c, span)
                    met[2] = 0.0
                    bite = _chord(c, up, x0, y0, cell, discs, side, span, met)
                    deep[n] = max(deep[n], bite)
                    _count(c, met, cell, n, inside, off)
