"""Lines through points along a rail, and how far the points stand off them."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations
from typing import Literal

import numpy as np
from pydantic import BaseModel

LineKind = Literal["ends", "least_squares", "min_zone"]

LINES: dict[LineKind, str] = {
    "ends": "through its two ends",
    "least_squares": "that fits best (least squares)",
    "min_zone": "that needs the narrowest zone (minimum zone)",
}


class Line(BaseModel):
    """y = offset + slope·x, in the units of what went in, and what is left at each point."""

    slope: float
    offset: float
    left: list[float]

    @property
    def peak_to_valley(self) -> float:
        """Highest less lowest of what is left."""
        return max(self.left) - min(self.left)


def line_through(x: Sequence[float], y: Sequence[float], kind: LineKind) -> Line:
    """The line of this kind through two or more points at different places.

    The minimum zone is exact: its line runs along an edge of the points' hull, so that every pair
    of points is tried. ValueError with fewer than two places.
    """
    if len({round(v, 9) for v in x}) < 2:
        raise ValueError("A line needs two places.")
    if kind == "ends":
        first, last = int(np.argmin(x)), int(np.argmax(x))
        return _line(x, y, (y[last] - y[first]) / (x[last] - x[first]), first)
    if kind == "least_squares":
        slope, offset = np.polyfit(np.asarray(x, dtype=float), np.asarray(y, dtype=float), 1)
        left = [b - slope * a - offset for a, b in zip(x, y, strict=True)]
        return Line(slope=float(slope), offset=float(offset), left=[float(v) for v in left])
    lines = [
        _line(x, y, (y[j] - y[i]) / (x[j] - x[i]), i)
        for i, j in combinations(range(len(x)), 2)
        if abs(x[j] - x[i]) > 1e-9
    ]
    best = min(lines, key=lambda line: line.peak_to_valley)
    # half of the zone to each side
    mid = (max(best.left) + min(best.left)) / 2
    return Line(slope=best.slope, offset=best.offset + mid, left=[v - mid for v in best.left])


def _line(x: Sequence[float], y: Sequence[float], slope: float, through: int) -> Line:
    offset = y[through] - slope * x[through]
    left = [b - slope * a - offset for a, b in zip(x, y, strict=True)]
    return Line(slope=slope, offset=offset, left=left)
