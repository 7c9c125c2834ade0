"""How far a cutter's centre comes below what must not be cut, on a grid of heights that stays as it
is. Compiled.
"""
# mypy: disable-error-code="no-untyped-def,no-untyped-call"

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import distance_transform_cdt

from truing.programs.arcs import axes, box_of, is_known
from truing.programs.clip import a_walk, begin_arc, clip, cut_to, next_chord, pass_by
from truing.programs.compiled import compiled
from truing.programs.motions import Motions
from truing.programs.sweep import TILE, Grid, off_of, tiles_of


def trespass(motions: Motions, keep: Grid) -> NDArray[np.float32]:
    """How far each motion's centre comes below `keep.up` (mm; 0 where it stays clear of it)."""
    deep = np.zeros(len(motions.at), np.float32)
    tiles = tiles_of(keep.up)
    # of each tile, how many of them further on the next thing stands
    free = distance_transform_cdt(~np.isfinite(tiles), "chessboard").astype(np.float64)
    _trespass(
        motions.at,
        motions.how,
        keep.up,
        tiles,
        free,
        keep.x0_mm,
        keep.y0_mm,
        keep.cell_mm,
        deep,
    )
    return deep


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
def _free_at(x, y, free, x0, y0, wide):
    """How many tiles from a place on the next thing stands, at the least."""
    j = min(max(math.floor((y - y0) / wide), 0), free.shape[0] - 1)
    i = min(max(math.floor((x - x0) / wide), 0), free.shape[1] - 1)
    # less the one that it may be on the edge of, and half a cell
    return free[j, i] - 2.0


@compiled
def _along(c, worst, up, tiles, free, x0, y0, cell):
    """The most by which a chord comes below what is kept, or what was worst before: in strides of a
    tile, and closer only where one of the tiles that a stride touches stands higher."""
    wide = TILE * cell
    far = max(abs(c[3] - c[0]), abs(c[4] - c[1]))
    strides = math.ceil(far / wide) + 1
    k = -1
    while k < strides - 1:
        k += 1
        a, b = k / strides, (k + 1) / strides
        room = _free_at(c[0] + (c[3] - c[0]) * a, c[1] + (c[4] - c[1]) * a, free, x0, y0, wide)
        if room >= 1.0:
            # a stride is shorter than a tile
            k += int(room) - 1
            continue
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
def _round(row, ways, c, up, tiles, free, x0, y0, cell, box, most, walk, windows, ends):
    """As `_along`, of an arc: chord by chord, closer than a place can be told."""
    worst = 0.0
    box_of(row, ways, ends)
    if max(ends[1] - ends[0], ends[3] - ends[2]) < 3 * TILE * cell:
        near = _tallest(ends[0], ends[2], ends[1], ends[3], tiles, x0, y0, cell)
        if near <= ends[4]:
            return worst
    wide = TILE * cell
    level = axes(ways[2])[2] == 2
    # one that stands upright goes far down and hardly sideways
    step = wide if level else np.inf
    begin_arc(row, ways, box, most, off_of(row, ways, 0.5 * cell), step, walk, windows)
    while next_chord(row, ways, walk, windows, c):
        room = _free_at(c[3], c[4], free, x0, y0, wide)
        if room * wide > max(abs(c[3] - c[0]), abs(c[4] - c[1])):
            if level:
                pass_by(row, ways, walk, c, (room - 1.0) * wide)
            continue
        worst = _along(c, worst, up, tiles, free, x0, y0, cell)
    return worst


@compiled
def _trespass(at, how, up, tiles, free, x0, y0, cell, deep):
    c, span, ends = np.empty(6), np.empty(2), np.empty(6)
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
                deep[n] = _along(c, 0.0, up, tiles, free, x0, y0, cell)
        else:
            deep[n] = _round(
                row, how[n], c, up, tiles, free, x0, y0, cell, box, most, walk, windows, ends
            )
