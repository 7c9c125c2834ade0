"""What a program leaves, to the last micrometre: ridges, rim, islands, depth.

A leaning disc with a sharp rim is a plane z − a·x − b·y over its circle. What it leaves at a place
is the least of z + a·x' + b·y' over all its centres within one radius, less a·x + b·y: an erosion
of the path by a disc, row by row, however many motions there are. A corner radius is a few discs
more. Balls and points, which are small where they cut, go chord by chord: the height over a chord
is convex, and its least is reckoned. Compiled.
"""
# mypy: disable-error-code="no-untyped-def,no-untyped-call"

from __future__ import annotations

import math

import numpy as np

from truing.programs.arcs import axes, is_known
from truing.programs.clip import a_walk, begin_arc, clip, cut_to, next_chord
from truing.programs.compiled import compiled
from truing.programs.motions import Motions
from truing.programs.sweep import (
    AGAIN,
    DEEPEST_MM,
    SLIGHT_MM,
    Grid,
    Tool,
    deepest_below,
    flank,
    path_over,
    row_span,
)

CHORD_MM = 0.001
"""An arc is cut into chords that leave it by no more, unless there are very many."""
MANY = 200_000
"""Motions from which on a place for every cell is enough, since others pass there too."""
MOST_PLACES = 5e6
"""Of all motions together: of more of them, each cell has met many."""


def relief(motions: Motions, tool: Tool, grid: Grid, off_mm: float = CHORD_MM) -> None:
    """Cut `grid.up` down to what the motions at a feed leave of it; arcs of a ball or a point in
    chords that leave them by no more than `off_mm`."""
    if tool.slope > 0 or tool.corner_mm >= tool.radius_mm > 0:
        _small(motions, tool, grid, off_mm)
        return
    path = np.full(
        (
            grid.up.shape[0] + 2 * _margin(tool, grid),
            grid.up.shape[1] + 2 * _margin(tool, grid),
        ),
        np.inf,
        np.float32,
    )
    edge = _margin(tool, grid)
    x0, y0 = grid.x0_mm - edge * grid.cell_mm, grid.y0_mm - edge * grid.cell_mm
    stride = 0.5 if len(motions.at) < MANY else 1.0
    ny, nx = path.shape
    whole = path_over(motions, (x0, y0, x0 + nx * grid.cell_mm, y0 + ny * grid.cell_mm))
    stride = max(stride, whole / grid.cell_mm / MOST_PLACES)
    low = float(grid.up.max()) - DEEPEST_MM
    _trace(
        motions.at, motions.how, path, x0, y0, grid.cell_mm, tool.lean_x, tool.lean_y, stride, low
    )
    for radius, rise in tool.discs(tool.radius_mm):
        _erode(
            path,
            grid.up,
            edge,
            radius / grid.cell_mm,
            rise,
            grid.x0_mm,
            grid.y0_mm,
            grid.cell_mm,
            tool.lean_x,
            tool.lean_y,
        )


def _margin(tool: Tool, grid: Grid) -> int:
    return math.ceil(tool.radius_mm / grid.cell_mm) + 1


@compiled
def _mark(path, x, y, z, x0, y0, cell, a, b):
    i, j = round((x - x0) / cell), round((y - y0) / cell)
    if 0 <= j < path.shape[0] and 0 <= i < path.shape[1]:
        value = z + a * x + b * y
        path[j, i] = min(path[j, i], value)


@compiled
def _trace(at, how, path, x0, y0, cell, a, b, stride, low):
    """Lowest z + a·x + b·y of a centre in each cell."""
    c, span = np.empty(6), np.empty(2)
    walk, arc = a_walk()
    ny, nx = path.shape
    box = np.array([x0 - cell, y0 - cell, x0 + nx * cell, y0 + ny * cell])
    for n in range(len(at)):
        kind = how[n, 1]
        row = at[n]
        if kind < 1 or kind > 3 or not is_known(row, 6):
            continue
        if kind == 1:
            for i in range(6):
                c[i] = row[i]
            if not clip(c, box, np.inf, span):
                continue
            cut_to(c, span)
            far = max(abs(c[3] - c[0]), abs(c[4] - c[1]))
            steps = math.ceil(far / (stride * cell)) + 1
            for k in range(steps + 1):
                t = k / steps
                _mark(
                    path,
                    c[0] + (c[3] - c[0]) * t,
                    c[1] + (c[4] - c[1]) * t,
                    c[2] + (c[5] - c[2]) * t,
                    x0,
                    y0,
                    cell,
                    a,
                    b,
                )
        else:
            # a place for every stride, about
            radius = max(math.hypot(row[0] - row[6], row[1] - row[7]), cell)
            off = radius * (1 - math.cos(min(stride * cell / (2 * radius), 1.0)))
            begin_arc(row, how[n], box, low, np.inf, off, np.inf, walk)
            while next_chord(walk):
                _mark(path, arc[0], arc[1], arc[2], x0, y0, cell, a, b)
                _mark(path, arc[3], arc[4], arc[5], x0, y0, cell, a, b)


@compiled
def _window(row, half, out, queue):
    """Least of a row within `half` cells either way, by a queue of candidates."""
    n = len(row)
    head = tail = 0
    for i in range(n + half):
        if i < n:
            while tail > head and row[queue[tail - 1]] >= row[i]:
                tail -= 1
            queue[tail] = i
            tail += 1
        j = i - half
        if j >= 0:
            while queue[head] < j - half:
                head += 1
            out[j] = row[queue[head]]


@compiled
def _erode(path, up, edge, radius, rise, x0, y0, cell, a, b):
    """Cut a plane by a disc of a radius (cells) about every centre that is marked."""
    ny, nx = up.shape
    rows, columns = path.shape
    used = np.zeros(rows, np.bool_)
    for j in range(rows):
        for i in range(columns):
            if path[j, i] < np.inf:
                used[j] = True
                break
    out, queue = np.empty(columns, np.float32), np.empty(columns, np.int64)
    whole = math.floor(radius)
    for source in range(rows):
        if not used[source]:
            continue
        last = -1
        for dy in range(whole, -1, -1):
            # widths grow toward the middle: rows of one width share their window
            half = math.floor(math.sqrt(radius * radius - dy * dy))
            if half != last:
                _window(path[source], half, out, queue)
                last = half
            for side in range(2):
                if side == 1 and dy == 0:
                    continue
                j = source - edge + (dy if side == 0 else -dy)
                if j < 0 or j >= ny:
                    continue
                base = rise - b * (y0 + j * cell) - a * x0
                slope = a * cell
                for i in range(nx):
                    z = out[i + edge] + np.float32(base - slope * i)
                    up[j, i] = min(up[j, i], z)


# --- balls and points -----------------------------------------------------------------------------


def _small(motions: Motions, tool: Tool, grid: Grid, off_mm: float) -> None:
    deep = deepest_below(motions, grid)
    if deep <= 0:
        return
    met = grid.up[np.isfinite(grid.up)]
    if tool.slope > 0:
        reach = min(tool.radius_mm, tool.tip_mm + deep / tool.slope)
    else:
        left = tool.radius_mm - min(deep, tool.radius_mm)
        reach = math.sqrt(tool.radius_mm**2 - left**2)
    shape = (
        tool.radius_mm,
        tool.corner_mm,
        tool.slope,
        tool.tip_mm,
        tool.lean_x,
        tool.lean_y,
        reach,
    )
    # a leaning one comes lower beside its middle
    leans = reach * (abs(tool.lean_x) + abs(tool.lean_y))
    _chords(
        motions.at,
        motions.how,
        grid.up,
        grid.x0_mm,
        grid.y0_mm,
        grid.cell_mm,
        np.array(shape),
        float(met.max()) + leans,
        leans,
        off_mm,
    )


@compiled
def _under(t, px, py, c, tool):
    """Height of the underside over a place when the cutter is `t` along its chord (0 … 1)."""
    dx, dy = px - (c[0] + t * (c[3] - c[0])), py - (c[1] + t * (c[4] - c[1]))
    d = math.sqrt(dx * dx + dy * dy)
    z = c[2] + t * (c[5] - c[2]) - tool[4] * dx - tool[5] * dy
    if tool[2] > 0.0:
        return z + max(0.0, d - tool[3]) * tool[2]
    out = d - (tool[0] - tool[1])
    if out <= 0.0:
        return z
    return z + tool[1] - math.sqrt(max(0.0, tool[1] * tool[1] - out * out))


@compiled
def _least(t0, t1, along, off2, length2, px, py, c, tool):
    """Least height of the underside over a place from `t0` to `t1` of a chord that passes it at
    `along`, the square of its distance `off2`: what is convex has its least where it neither rises
    nor falls, or at the end that is nearest to that."""
    length = math.sqrt(length2)
    # what all of it rises by along the chord, the lean with it
    rise = c[5] - c[2] + tool[4] * (c[3] - c[0]) + tool[5] * (c[4] - c[1])
    if tool[2] > 0.0:
        k = -rise / (tool[2] * length)
        if abs(k) < 1.0:
            t = along + k * math.sqrt(off2 / (1 - k * k)) / length
        else:
            t = t0 if rise > 0.0 else t1
        z = _under(min(max(t, t0), t1), px, py, c, tool)
        if off2 < tool[3] * tool[3]:
            # under the flat of its tip it only follows the slope: to where that ends
            edge = math.sqrt(tool[3] * tool[3] - off2) / length
            for side in range(-1, 2, 2):
                t = min(max(along + side * edge, t0), t1)
                z = min(z, _under(t, px, py, c, tool))
        return z
    t = along - rise * math.sqrt(
        max(0.0, tool[1] * tool[1] - off2) / (length2 * (length2 + rise * rise))
    )
    return _under(min(max(t, t0), t1), px, py, c, tool)


@compiled
def _chord_exact(c, up, x0, y0, cell, tool, side, span):
    ny, nx = up.shape
    reach = tool[6]
    ex, ey, ez = c[3] - c[0], c[4] - c[1], c[5] - c[2]
    length2 = ex * ex + ey * ey
    level = ez == 0.0 and tool[4] == 0.0 and tool[5] == 0.0
    flank(c, reach, side)
    j0 = max(0, math.ceil((min(c[1], c[4]) - reach - y0) / cell))
    j1 = min(ny - 1, math.floor((max(c[1], c[4]) + reach - y0) / cell))
    for j in range(j0, j1 + 1):
        y = y0 + j * cell
        row_span(y, c, reach, side, span)
        if span[0] > span[1]:
            continue
        i0 = max(0, math.ceil((span[0] - x0) / cell))
        i1 = min(nx - 1, math.floor((span[1] - x0) / cell))
        for i in range(i0, i1 + 1):
            x = x0 + i * cell
            if length2 == 0.0:
                z = min(_under(0.0, x, y, c, tool), _under(1.0, x, y, c, tool))
            else:
                along = ((x - c[0]) * ex + (y - c[1]) * ey) / length2
                qx, qy = x - c[0] - along * ex, y - c[1] - along * ey
                half = math.sqrt(max(0.0, reach * reach - qx * qx - qy * qy) / length2)
                t0, t1 = min(max(0.0, along - half), 1.0), max(min(1.0, along + half), 0.0)
                off2 = qx * qx + qy * qy
                if level:
                    z = _under(min(max(along, t0), t1), x, y, c, tool)
                else:
                    z = _least(t0, t1, along, off2, length2, x, y, c, tool)
            up[j, i] = min(up[j, i], z)


@compiled
def _chords(at, how, up, x0, y0, cell, tool, most, leans, off_mm):
    c, span, side = np.empty(6), np.empty(2), np.empty(3)
    walk, arc = a_walk()
    ny, nx = up.shape
    reach, low = tool[6], most - DEEPEST_MM
    box = np.array([x0 - reach, y0 - reach, x0 + nx * cell + reach, y0 + ny * cell + reach])
    for n in range(len(at)):
        kind = how[n, 1]
        if n % AGAIN == AGAIN - 1:
            # what is cut down to one depth meets nothing at it any more
            most = min(most, up.max() + leans)
        if kind < 1 or kind > 3 or not is_known(at[n], 6):
            continue
        for i in range(6):
            c[i] = at[n, i]
        if min(c[2], c[5]) >= most - SLIGHT_MM and (kind < 2 or axes(how[n, 2])[2] == 2):
            continue
        if kind == 1:
            if clip(c, box, most, span):
                cut_to(c, span)
                _chord_exact(c, up, x0, y0, cell, tool, side, span)
            continue
        begin_arc(at[n], how[n], box, low, most, off_mm, np.inf, walk)
        while next_chord(walk):
            for i in range(6):
                c[i] = arc[i]
            if clip(c, box, most, span):
                cut_to(c, span)
                _chord_exact(c, up, x0, y0, cell, tool, side, span)
