"""Where a cutter's centre runs: lines beside each other, or rings one inside the other.

Even steps at most as wide as asked for, edges covered with no sliver left, run out past them by
the cutter's radius and a margin where the spindle reaches; where it does not, one contour pass.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Literal

import numpy as np
import shapely
from shapely.geometry import LineString, Polygon

Pass = list[tuple[float, float]]
RUN_OUT_MM = 3.0
SHORT_MM = 0.5
"""A piece shorter than that is the rounding of an outline."""


def raster(
    work: Polygon,
    allowed: shapely.Geometry,
    along: Literal["x", "y"],
    stepover_mm: float,
    radius_mm: float,
    flat_mm: float,
    both_ways: bool,
) -> list[Pass]:
    """Passes over an area, in their order; every other one backward when both ways are cut."""
    left, front, right, rear = work.bounds
    low, high = (front, rear) if along == "x" else (left, right)
    start, end = (left, right) if along == "x" else (front, rear)
    found: list[Pass] = []
    turn = False
    for at in even(low, high, stepover_mm, flat_mm):
        line = [(start - radius_mm - RUN_OUT_MM, at), (end + radius_mm + RUN_OUT_MM, at)]
        if along == "y":
            line = [(y, x) for x, y in line]
        pieces = _pieces(LineString(line).intersection(allowed))
        pieces.sort(key=lambda p: p[0], reverse=turn)
        found += [p[::-1] if turn else p for p in pieces]
        turn = turn != both_ways
    return found + contour(work, allowed, radius_mm, flat_mm)


def even(low: float, high: float, stepover_mm: float, flat_mm: float) -> list[float]:
    """Places of lines that cover from `low` to `high`: as few as the step allows, evenly spread."""
    size = high - low
    # the outermost lines overlap their edge by half a flat at the most
    inset = min(stepover_mm, flat_mm) / 2 * 0.98
    if size <= 2 * inset:
        return [(low + high) / 2]
    room = size - 2 * inset
    n = math.ceil(room / stepover_mm - 1e-9)
    return [low + inset + room * k / n for k in range(n + 1)]


def contour(
    work: Polygon, allowed: shapely.Geometry, radius_mm: float, flat_mm: float
) -> list[Pass]:
    """Along every edge of what is allowed at which a cutter would stop over the work."""
    near = work.buffer(flat_mm / 2 * 0.98)
    edges = allowed.boundary.intersection(near)
    merged = shapely.line_merge(edges) if not edges.is_empty else edges
    return _pieces(merged)


def rings(
    work: Polygon,
    allowed: shapely.Geometry,
    stepover_mm: float,
    radius_mm: float,
    flat_mm: float,
    outward: bool,
) -> list[Pass]:
    """Rings about an area, each closed; the first runs in from outside where it can.

    A ring's corners reach less far than its sides: at a corner of 90° the step may be at most
    R·(1 + sin 45°) or islands stay, and the outermost corner at most 0.7 R from the area's own.
    """
    flat = flat_mm / 2
    step = min(stepover_mm, flat * (1 + math.sin(math.pi / 4)) * 0.99)
    left, front, right, rear = work.bounds
    half = min(right - left, rear - front) / 2
    inset = min(step / 2, flat * 0.69)
    room = max(0.0, half - inset)
    n = max(0, math.ceil(room / step - 1e-9))
    found: list[Pass] = []
    for k in range(n + 1):
        at = inset + room * k / n if n else min(inset, half)
        inner = work.buffer(-at, join_style="mitre")
        path: shapely.Geometry
        if inner.is_empty or inner.area < 1e-6:
            # what is left of it is a line through the middle
            dx, dy = right - left, rear - front
            x, y = (left + right) / 2, (front + rear) / 2
            over = max(abs(dx - dy) / 2, 0.01)
            ends = [(x - over, y), (x + over, y)] if dx >= dy else [(x, y - over), (x, y + over)]
            path = LineString(ends)
        else:
            path = LineString(inner.exterior.coords)
        found += _pieces(path.intersection(allowed))
    if outward:
        found = [p[::-1] for p in found[::-1]]
    elif found:
        x, y = found[0][0]
        out = radius_mm + RUN_OUT_MM
        lead = (left - out, y) if x <= (left + right) / 2 else (right + out, y)
        if allowed.covers(LineString([lead, (x, y)])):
            found[0] = [lead, *found[0]]
    return found + contour(work, allowed, radius_mm, flat_mm)


def trimmed(passes: Iterable[Pass], needed: shapely.Geometry | None) -> list[Pass]:
    """Only those parts of passes whose centre has to be there; None for all of them."""
    if needed is None:
        return list(passes)
    found: list[Pass] = []
    for p in passes:
        parts = _pieces(LineString(p).intersection(needed))
        along = np.subtract(p[-1], p[0])
        # the pieces of a line go the way that the line goes
        parts.sort(key=lambda q: float(np.dot(np.subtract(q[0], p[0]), along)))
        for q in parts:
            backward = float(np.dot(np.subtract(q[-1], q[0]), along)) < 0
            found.append(q[::-1] if backward and len(p) == 2 else q)
    return found


def _pieces(geometry: shapely.Geometry) -> list[Pass]:
    """Its lines, as lists of corners."""
    if geometry.is_empty:
        return []
    merged = shapely.line_merge(geometry) if geometry.geom_type != "LineString" else geometry
    parts = getattr(merged, "geoms", [merged])
    return [
        [(float(x), float(y)) for x, y in g.coords]
        for g in parts
        if g.geom_type == "LineString" and g.length > SHORT_MM
    ]
