"""How far a cutter's centre comes below what must not be cut, on a grid of heights that stays as it
is. Compiled.
"""
# mypy: disable-error-code="no-untyped-def,no-untyped-call"

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import distance_transform_edt, find_objects, label

from truing.programs.arcs import axes, box_of, is_known
from truing.programs.clip import a_walk, begin_arc, clip, cut_to, next_chord, pass_by
from truing.programs.compiled import compiled
from truing.programs.motions import Motions
from truing.programs.sweep import TILE, Grid, off_of, tiles_of

MOST_BOXES = 16
"""Things in the way that an arc is held against one by one; more are taken together."""


def trespass(motions: Motions, keep: Grid) -> NDArray[np.float32]:
    """How far each motion's centre comes below `keep.up` (mm; 0 where it stays clear of it)."""
    deep = np.zeros(len(motions.at), np.float32)
    tiles = tiles_of(keep.up)
    # how far from each cell the next thing stands
    free = distance_transform_edt(~np.isfinite(keep.up), keep.cell_mm).astype(np.float32)
    _trespass(
        motions.at,
        motions.how,
        keep.up,
        tiles,
        free,
        keep.x0_mm,
        keep.y0_mm,
        keep.cell_mm,
        _boxes(keep),
        deep,
    )
    return deep


def _boxes(keep: Grid) -> NDArray[np.float64]:
    """(m, 4): left, front, right and rear of everything that stands by itself, a cell about it."""
    found = find_objects(label(np.isfinite(keep.up), np.ones((3, 3)))[0])
    if len(found) > MOST_BOXES:
        found = [(slice(0, keep.up.shape[0]), slice(0, keep.up.shape[1]))]
    cells = [(i.start - 1.0, j.start - 1.0, float(i.stop), float(j.stop)) for j, i in found]
    zero = [keep.x0_mm, keep.y0_mm, keep.x0_mm, keep.y0_mm]
    return np.array(cells).reshape(-1, 4) * keep.cell_mm + zero


@compiled
def _below(x, y, z, up, x0, y0, cell):
    i, j = math.floor((x - x0) / cell + 0.5), math.floor((y - y0) / cell + 0.5)
    if 0 <= j < up.shape[0] and 0 <= i < up.shape[1]:
        return up[j, i] - z
    return 0.0


@compiled
def _highest(left, front, right, rear, low, up, tiles, x0, y0, cell):
    """The most that stands over a height within a box."""
    ny, nx = up.shape
    i0, i1 = max(0, round((left - x0) / cell)), min(nx - 1, round((right - x0) / cell))
    j0, j1 = max(0, round((front - y0) / cell)), min(ny - 1, round((rear - y0) / cell))
    worst = 0.0
    if i0 > i1 or j0 > j1:
        return worst
    for tj in range(j0 // TILE, j1 // TILE + 1):
        for ti in range(i0 // TILE, i1 // TILE + 1):
            if tiles[tj, ti] - low <= worst:
                continue
            for j in range(max(j0, tj * TILE), min(j1 + 1, (tj + 1) * TILE)):
                for i in range(max(i0, ti * TILE), min(i1 + 1, (ti + 1) * TILE)):
                    worst = max(worst, up[j, i] - low)
    return worst


@compiled
def _tallest(left, front, right, rear, tiles, x0, y0, cell):
    """The most that may stand in a box: of every tile that it touches, and half a cell about it,
    since a place is that of the nearest cell."""
    ny, nx = tiles.shape
    wide = TILE * cell
    i0, i1 = math.floor((left - x0 - cell) / wide), math.floor((right - x0 + cell) / wide)
    j0, j1 = math.floor((front - y0 - cell) / wide), math.floor((rear - y0 + cell) / wide)
    most = -np.inf
    for j in range(max(0, j0), min(ny - 1, j1) + 1):
        for i in range(max(0, i0), min(nx - 1, i1) + 1):
            most = max(most, tiles[j, i])
    return most


@compiled
def _free_at(x, y, free, x0, y0, cell):
    """How far it is from a place to the next cell in which something stands, at the least (mm):
    none of the places within that is told to be in such a cell."""
    j = min(max(math.floor((y - y0) / cell + 0.5), 0), free.shape[0] - 1)
    i = min(max(math.floor((x - x0) / cell + 0.5), 0), free.shape[1] - 1)
    # less half a cell's diagonal for this place, and for the other
    return free[j, i] - 1.5 * cell


@compiled
def _is_free(xa, ya, xb, yb, beside, free, x0, y0, cell):
    """Whether nothing stands within `beside` of a straight way, seen from above."""
    far = math.hypot(xb - xa, yb - ya)
    t = 0.0
    while t <= far:
        share = t / far if far > 0.0 else 0.0
        room = _free_at(xa + (xb - xa) * share, ya + (yb - ya) * share, free, x0, y0, cell)
        if room - beside < cell:
            return False
        t += room - beside
    return True


@compiled
def _along(c, worst, up, tiles, free, x0, y0, cell):
    """The most by which a chord comes below what is kept, or what was worst before: past all that
    is free in one stride, elsewhere in strides of a tile, and closer only where one of the tiles
    that a stride touches stands higher."""
    ex, ey, ez = c[3] - c[0], c[4] - c[1], c[5] - c[2]
    far = math.hypot(ex, ey)
    b = 0.0
    while b < 1.0:
        a = b
        xa, ya = c[0] + ex * a, c[1] + ey * a
        room = _free_at(xa, ya, free, x0, y0, cell)
        if room >= cell:
            b = a + room / far if far > 0.0 else 1.0
            continue
        b = min(1.0, a + TILE * cell / far) if far > 0.0 else 1.0
        xb, yb = c[0] + ex * b, c[1] + ey * b
        low = min(c[2] + ez * a, c[2] + ez * b)
        most = _tallest(min(xa, xb), min(ya, yb), max(xa, xb), max(ya, yb), tiles, x0, y0, cell)
        if most - low <= worst:
            continue
        steps = math.ceil(2 * max(abs(xb - xa), abs(yb - ya)) / cell) + 1
        for s in range(steps + 1):
            t = a + (b - a) * s / steps
            worst = max(
                worst, _below(c[0] + ex * t, c[1] + ey * t, c[2] + ez * t, up, x0, y0, cell)
            )
    return worst


@compiled
def _meets(row, box, more):
    """Whether the ring of a level arc comes over a box, or near it."""
    from2 = (row[0] - row[6]) ** 2 + (row[1] - row[7]) ** 2
    to2 = (row[3] - row[6]) ** 2 + (row[4] - row[7]) ** 2
    near2, far2 = 0.0, 0.0
    for axis in range(2):
        a, b = box[axis] - row[6 + axis], box[2 + axis] - row[6 + axis]
        near2 += max(a, -b, 0.0) ** 2
        far2 += max(-a, b) ** 2
    return (
        math.sqrt(near2) <= math.sqrt(max(from2, to2)) + more
        and math.sqrt(far2) >= math.sqrt(min(from2, to2)) - more
    )


@compiled
def _round(row, ways, ends, worst, up, tiles, free, x0, y0, cell, box, most, walk, c):
    """As `_along`, of an arc over one box: chord by chord, closer than a place can be told. `ends`
    is what it spans."""
    left, right = max(ends[0], box[0]), min(ends[1], box[2])
    front, rear = max(ends[2], box[1]), min(ends[3], box[3])
    if left > right or front > rear:
        return worst
    if max(right - left, rear - front) < 3 * TILE * cell:
        near = _tallest(left, front, right, rear, tiles, x0, y0, cell)
        if near <= ends[4]:
            return worst
    level = axes(ways[2])[2] == 2
    if level:
        if not _meets(row, box, cell):
            return worst
    else:
        # seen from above one that stands upright is a straight way, a little wide if it winds
        across, along = (right - left) / 2, (rear - front) / 2
        x, y = (left + right) / 2, (front + rear) / 2
        if across > along:
            if _is_free(left, y, right, y, along, free, x0, y0, cell):
                return worst
        elif _is_free(x, front, x, rear, across, free, x0, y0, cell):
            return worst
    # one that stands upright goes far down and hardly sideways
    step = TILE * cell if level else np.inf
    begin_arc(row, ways, box, -np.inf, most, off_of(row, ways, 0.5 * cell), step, walk)
    while next_chord(walk):
        room = _free_at(c[3], c[4], free, x0, y0, cell)
        if room > math.hypot(c[3] - c[0], c[4] - c[1]):
            while level and pass_by(walk, room):
                room = _free_at(c[3], c[4], free, x0, y0, cell)
            continue
        worst = _along(c, worst, up, tiles, free, x0, y0, cell)
    return worst


@compiled
def _trespass(at, how, up, tiles, free, x0, y0, cell, boxes, deep):
    c, span, ends = np.empty(6), np.empty(2), np.empty(6)
    walk, arc = a_walk()
    ny, nx = up.shape
    box = np.array([x0 - cell, y0 - cell, x0 + nx * cell, y0 + ny * cell])
    most = -np.inf
    for j in range(tiles.shape[0]):
        for i in range(tiles.shape[1]):
            most = max(most, tiles[j, i])
    for n in range(len(at)):
        kind = how[n, 1]
        row = at[n]
        if kind > 3 or not is_known(row, 6):
            continue
        if min(row[2], row[5]) >= most and (kind < 2 or axes(how[n, 2])[2] == 2):
            continue
        for i in range(6):
            c[i] = row[i]
        if kind == 0:
            deep[n] = _highest(
                min(c[0], c[3]),
                min(c[1], c[4]),
                max(c[0], c[3]),
                max(c[1], c[4]),
                min(c[2], c[5]),
                up,
                tiles,
                x0,
                y0,
                cell,
            )
        elif kind == 1:
            if clip(c, box, most, span):
                cut_to(c, span)
                deep[n] = _along(c, 0.0, up, tiles, free, x0, y0, cell)
        else:
            box_of(row, how[n], ends)
            for b in range(len(boxes)):
                deep[n] = _round(
                    row,
                    how[n],
                    ends,
                    deep[n],
                    up,
                    tiles,
                    free,
                    x0,
                    y0,
                    cell,
                    boxes[b],
                    most,
                    walk,
                    arc,
                )
