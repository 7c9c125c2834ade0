"""How far a cutter's centre comes below what must not be cut, on a grid of heights that stays as it
is. Compiled.
"""
# mypy: disable-error-code="no-untyped-def,no-untyped-call"

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from truing.programs.arcs import arc_at, arc_extent, axes, is_known
from truing.programs.clip import (
    ANGLE,
    DONE,
    STEP,
    TOTAL,
    a_walk,
    begin_arc,
    clip,
    cut_to,
    next_chord,
)
from truing.programs.compiled import compiled
from truing.programs.motions import Motions
from truing.programs.sweep import TILE, Grid, tiles_of


def trespass(motions: Motions, keep: Grid) -> NDArray[np.float32]:
    """How far each motion's centre comes below `keep.up` (mm; 0 where it stays clear of it)."""
    deep = np.zeros(len(motions.at), np.float32)
    tiles = tiles_of(keep.up)
    _trespass(motions.at, motions.how, keep.up, tiles, keep.x0_mm, keep.y0_mm, keep.cell_mm, deep)
    return deep


CLOSER = 4
"""Into so many is a long chord divided where it matters."""


@compiled
def _below(x, y, z, up, x0, y0, cell):
    i, j = round((x - x0) / cell), round((y - y0) / cell)
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
def _along(c, worst, up, tiles, x0, y0, cell):
    """The most by which a chord comes below what is kept, or what was worst before: in strides of a
    tile, and closer only where one of the tiles that a stride touches stands higher."""
    far = max(abs(c[3] - c[0]), abs(c[4] - c[1]))
    strides = math.ceil(far / (TILE * cell)) + 1
    for k in range(strides):
        a, b = k / strides, (k + 1) / strides
        xa, xb = c[0] + (c[3] - c[0]) * a, c[0] + (c[3] - c[0]) * b
        ya, yb = c[1] + (c[4] - c[1]) * a, c[1] + (c[4] - c[1]) * b
        low = min(c[2] + (c[5] - c[2]) * a, c[2] + (c[5] - c[2]) * b)
        most = _tallest(min(xa, xb), min(ya, yb), max(xa, xb), max(ya, yb), tiles, x0, y0, cell)
        if most - low <= worst:
            continue
        steps = math.ceil(2 * max(abs(xb - xa), abs(yb - ya)) / cell) + 1
        for s in range(steps + 1):
            t = a + (b - a) * s / steps
            x, y = c[0] + (c[3] - c[0]) * t, c[1] + (c[4] - c[1]) * t
            worst = max(worst, _below(x, y, c[2] + (c[5] - c[2]) * t, up, x0, y0, cell))
    return worst


@compiled
def _round(row, ways, c, up, tiles, x0, y0, cell, box, most, walk, windows):
    """As `_along`, of an arc."""
    left, right = arc_extent(row, ways, 0)
    front, rear = arc_extent(row, ways, 1)
    low, _ = arc_extent(row, ways, 2)
    worst = 0.0
    if _tallest(left, front, right, rear, tiles, x0, y0, cell) <= low:
        return worst
    # by long chords, and closer only where something stands near: they leave the arc by less than
    # the cell that is counted about a tile
    begin_arc(row, ways, box, most, 0.5 * cell, walk, windows)
    arc = (walk[0], walk[1], walk[2], walk[ANGLE])
    while next_chord(row, ways, walk, windows, c):
        left, right = min(c[0], c[3]), max(c[0], c[3])
        front, rear = min(c[1], c[4]), max(c[1], c[4])
        near = _tallest(left, front, right, rear, tiles, x0, y0, cell)
        if near - min(c[2], c[5]) + cell <= worst:
            continue
        end = walk[DONE]
        begun = max(0.0, end - walk[STEP])
        for k in range(1, CLOSER + 1):
            arc_at(row, ways, arc, (begun + (end - begun) * k / CLOSER) / walk[TOTAL], c[3:])
            worst = _along(c, worst, up, tiles, x0, y0, cell)
            for i in range(3):
                c[i] = c[3 + i]
    return worst


@compiled
def _trespass(at, how, up, tiles, x0, y0, cell, deep):
    c, span = np.empty(6), np.empty(2)
    walk, windows = a_walk()
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
                deep[n] = _along(c, 0.0, up, tiles, x0, y0, cell)
        else:
            deep[n] = _round(row, how[n], c, up, tiles, x0, y0, cell, box, most, walk, windows)
