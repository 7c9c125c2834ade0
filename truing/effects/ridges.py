"""What a leaning cutter leaves of a plane, pass beside pass, and the widest step that hides it.

A disc of diameter D = 2R whose axis leans cuts a plane by its lower rim, an ellipse in section. A
is the lean along the feed, B across it, L = √(A² + B²), all in mm per mm.
"""

from __future__ import annotations

import itertools
import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

from truing.measure.problem import Problem

Feed = Literal["x", "y"]
Doubtful = tuple[float, float]
"""A lean and its U, both in mm per m."""


class Ridge(BaseModel):
    """What stays between two passes (mm)."""

    model_config = ConfigDict(frozen=True)

    height_mm: float
    """Highest less lowest: what a dial that is dragged across shows."""
    step_mm: float
    """Up which a fingernail catches; 0 for a cusp."""
    cusp: bool


def ridge(diameter_mm: float, stepover_mm: float, along: float, across: float) -> Ridge:
    """Ridge of a flat disc; `along` and `across` are leans in mm per mm, of either sign.

    Problem where the stepover is wider than the cutter: a strip stays between the passes.
    """
    d, s = diameter_mm, stepover_mm
    if not 0 < s <= d:
        raise Problem(
            f"A step of {s:g} mm leaves a strip beside a cutter that is flat for {d:g} mm.",
            expected=f"Step by {d:g} mm or less.",
            field="stepover_mm",
        )
    a, b, r = abs(along), abs(across), d / 2
    lean = math.hypot(a, b)
    if lean == 0:
        return Ridge(height_mm=0.0, step_mm=0.0, cusp=True)
    if s <= d * (a / lean) ** 2:
        inner = max(0.0, r * r - (lean * s / (2 * a)) ** 2)
        return Ridge(height_mm=lean * (r - math.sqrt(inner)), step_mm=0.0, cusp=True)
    root = math.sqrt(max(0.0, s * (d - s)))
    return Ridge(
        height_mm=lean * r - a * root - b * (r - s),
        step_mm=max(0.0, b * s - a * root),
        cusp=False,
    )


def dish(diameter_mm: float, along: float, across: float) -> float:
    """How hollow one pass is over its width, and its lowest below the programmed depth at most
    L·R (mm)."""
    return diameter_mm / 2 * (math.hypot(along, across) + abs(across))


def hollow(diameter_mm: float, width_mm: float, along: float, across: float) -> float:
    """Highest less lowest (mm) across a face that one pass covers, `width_mm` ≤ the diameter wide
    and in the middle of the cutter; leans as in `ridge`."""
    a, b, r = abs(along), abs(across), diameter_mm / 2
    half = min(width_mm, diameter_mm) / 2
    lean = math.hypot(a, b)
    if lean == 0:
        return 0.0

    def rim(v: float) -> float:
        return -b * v - a * math.sqrt(max(0.0, r * r - v * v))

    ends = (rim(-half), rim(half))
    # the rim is lowest where its slope across is nothing
    lowest = rim(b * r / lean) if b * r / lean < half else min(ends)
    return max(ends) - lowest


def section(
    diameter_mm: float, stepover_mm: float, along: float, across: float, passes: int = 3
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """A section across so many passes, as (places across the feed, heights over the lowest), both
    in mm; leans as in `ridge`, `across` plus toward the plus side of the section."""
    r = diameter_mm / 2
    at = np.linspace(-(passes - 1) * stepover_mm / 2, (passes - 1) * stepover_mm / 2, 240 * passes)
    first = -(passes + 1) * stepover_mm / 2
    v = at[:, None] - (first + stepover_mm * np.arange(passes + 2))
    within = np.abs(v) <= r * (1 + 1e-12)
    chord = np.sqrt(np.clip(r * r - v * v, 0.0, None))
    # the lower rim of each pass: the front or the back half of the disc, whichever digs deeper
    left = np.where(within, -across * v - abs(along) * chord, np.inf).min(axis=1)
    return at, left - left.min()


def corners(lean: Doubtful) -> list[float]:
    """The values that a lean may have and that a ridge can be highest at: both ends of its
    interval, and none at all where it may be that."""
    value, expanded = lean
    ends = [value - expanded, value + expanded]
    return [*ends, 0.0] if ends[0] < 0 < ends[1] else ends


def worst_ridge(
    diameter_mm: float, stepover_mm: float, lean_x: Doubtful, lean_y: Doubtful, feed: Feed
) -> Ridge:
    """The highest ridge that leans within their U can leave, feeding along X or Y."""
    a, b = worst_leans(diameter_mm, stepover_mm, lean_x, lean_y, feed)
    return ridge(diameter_mm, stepover_mm, *_about(a, b, feed))


def worst_leans(
    diameter_mm: float, stepover_mm: float, lean_x: Doubtful, lean_y: Doubtful, feed: Feed
) -> tuple[float, float]:
    """The leans (mm per m) within their U that leave the highest ridge."""

    def height(leans: tuple[float, float]) -> float:
        return ridge(diameter_mm, stepover_mm, *_about(*leans, feed)).height_mm

    return max(itertools.product(corners(lean_x), corners(lean_y)), key=height)


def worst_dish(diameter_mm: float, lean_x: Doubtful, lean_y: Doubtful, feed: Feed) -> float:
    """The deepest hollow of one pass that leans within their U can leave (mm)."""
    pairs = itertools.product(corners(lean_x), corners(lean_y))
    return max(dish(diameter_mm, *_about(a, b, feed)) for a, b in pairs)


def _about(lean_x: float, lean_y: float, feed: Feed) -> tuple[float, float]:
    """(along, across) the feed, in mm per mm."""
    a, b = lean_x / 1000, lean_y / 1000
    return (a, b) if feed == "x" else (b, a)


def widest(
    diameter_mm: float,
    wanted_mm: float,
    lean_x: Doubtful,
    lean_y: Doubtful,
    feed: Feed,
    most_mm: float | None = None,
) -> float:
    """The widest stepover (mm) whose highest ridge stays within `wanted_mm`; 0 where none does
    that is worth its time (a fiftieth of the diameter)."""
    high = min(diameter_mm, most_mm or diameter_mm)

    def fits(s: float) -> bool:
        return worst_ridge(diameter_mm, s, lean_x, lean_y, feed).height_mm <= wanted_mm

    # a ridge grows with the step whatever the lean, so halving finds the widest
    low = diameter_mm / 50
    if fits(high):
        return high
    if not fits(low):
        return 0.0
    for _ in range(40):
        middle = (low + high) / 2
        low, high = (middle, high) if fits(middle) else (low, middle)
    return low
