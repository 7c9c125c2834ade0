"""A recess for a panel: rings from the middle outward, its corners, and the cutter that fits."""

from __future__ import annotations

import math

from shapely.geometry import Polygon, box

from truing.measure.problem import Problem
from truing.measure.words import Words, plain, say, show, show_least, show_most
from truing.surfacing.lines import Pass
from truing.surfacing.wish import Wish


def pocket(wish: Wish) -> Polygon:
    """Its outline from mid bed: the panel and its clearance. Problem where the cutter is wider."""
    w = wish.across_mm / 2 + wish.clearance_mm
    d = wish.deep_mm / 2 + wish.clearance_mm
    if wish.diameter_mm > 2 * min(w, d):
        raise Problem(
            f"A cutter of {wish.diameter_mm:g} mm does not fit into a seat of {2 * w:g} by "
            f"{2 * d:g} mm.",
            expected=f"Take one of {2 * min(w, d):g} mm or less.",
            field="diameter_mm",
        )
    return box(wish.x_mm - w, wish.y_mm - d, wish.x_mm + w, wish.y_mm + d)


def pocket_rings(outline: Polygon, wish: Wish, stepover_mm: float) -> list[Pass]:
    """Rings for a cutter's centre, the innermost first, the last one along the walls."""
    radius = wish.radius_mm
    left, front, right, rear = outline.bounds
    half = min(right - left, rear - front) / 2
    room = half - radius
    flat = wish.flat_mm / 2
    step = min(stepover_mm, flat * (1 + math.sin(math.pi / 4)) * 0.99)
    n = max(1, math.ceil(room / step - 1e-9)) if room > 1e-9 else 0
    found: list[Pass] = []
    for k in range(n, -1, -1):
        at = radius + (room * k / n if n else 0.0)
        x0, y0, x1, y1 = left + at, front + at, right - at, rear - at
        if x1 - x0 < 1e-6 and y1 - y0 < 1e-6:
            # a square one ends in a point: a little circle of two moves stands for it
            found.append([(x0, y0), (x0 + 0.5, y0), (x0, y0)])
        elif x1 - x0 < 1e-6 or y1 - y0 < 1e-6:
            found.append([(x0, y0), (x1, y1), (x0, y0)])
        else:
            found.append([(x0, y0), (x1, y0), (x1, y1), (x0, y1), (x0, y0)])
    if wish.relieve and len(found[-1]) == 5:
        found[-1] = _relieved(found[-1], radius)
    return [_within(p, outline, radius) for p in found]


def _within(p: Pass, outline: Polygon, radius: float) -> Pass:
    """A pass kept off the walls, where half a millimetre stood for a point."""
    left, _, right, _ = outline.bounds
    if left + radius > right - radius - 0.5 and len(p) == 3:
        return [(min(x, max(right - radius, left + radius)), y) for x, y in p]
    return p


def _relieved(ring: Pass, radius: float) -> Pass:
    """The ring along the walls, running on into each corner until the rim passes through it."""
    into = radius * (1 - 1 / math.sqrt(2))
    (x0, y0), (x1, y1) = ring[0], ring[2]
    found: Pass = []
    for x, y in ring:
        found += [
            (x, y),
            (x - into if x == x0 else x + into, y - into if y == y0 else y + into),
            (x, y),
        ]
    assert x1 > x0
    assert y1 > y0
    return found


def corner_words(wish: Wish) -> Words | None:
    """What the corners want where a panel's would not go into them; None where they do."""
    if wish.relieve:
        return None
    # a corner of radius R takes one of radius r with clearance c where √2·(R − c − r) + r ≤ R
    root = math.sqrt(2)
    least = wish.radius_mm - wish.clearance_mm * root / (root - 1)
    if wish.panel_corner_mm >= least - 1e-9:
        return None
    fits = 2 * (wish.panel_corner_mm + wish.clearance_mm * root / (root - 1))
    smaller = (
        say(", or take a cutter of {d} or less", d=show_least(fits, 0.1))
        if fits > 0.5
        else plain("")
    )
    return say(
        "Its inner corners keep the cutter’s radius, {r}: relieve them, round the panel’s corners "
        "to {least} or more{smaller}.",
        r=show(wish.radius_mm, 0.1),
        least=show_most(least, 0.1),
        smaller=smaller,
    )
