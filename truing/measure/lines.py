"""Lines through points along a rail, and how far the points stand off them."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from itertools import combinations
from typing import Literal

import numpy as np
from pydantic import BaseModel

from truing.measure.estimate import Estimate
from truing.measure.extremes import TAIL

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
    xs, ys = np.asarray(x, dtype=float), np.asarray(y, dtype=float)
    one, other = np.triu_indices(len(xs), 1)
    apart = np.abs(xs[other] - xs[one]) > 1e-9
    one, other = one[apart], other[apart]
    slopes = (ys[other] - ys[one]) / (xs[other] - xs[one])
    left_of = ys - slopes[:, None] * xs
    k = int(np.argmin(np.ptp(left_of, axis=1)))
    best = _line(x, y, float(slopes[k]), int(one[k]))
    # half of the zone to each side
    mid = (max(best.left) + min(best.left)) / 2
    return Line(slope=best.slope, offset=best.offset + mid, left=[v - mid for v in best.left])


def _line(x: Sequence[float], y: Sequence[float], slope: float, through: int) -> Line:
    offset = y[through] - slope * x[through]
    left = [b - slope * a - offset for a, b in zip(x, y, strict=True)]
    return Line(slope=slope, offset=offset, left=left)


DRAWS = 20_000
"""Of noise, for what it alone makes of a zone: a quantile to about two in a hundred."""


def zone(
    x: Sequence[float],
    y: Sequence[float],
    expanded: float,
    kind: LineKind,
    *,
    bound: float = 0.0,
) -> Estimate:
    """Highest less lowest off the line of this kind, of points that are each known to ±`expanded`
    (95 %) and may beside that each be wrong by up to `bound`, with the limits of its size.
    ValueError as in `line_through`."""
    left = line_through(x, y, kind).left
    u = expanded / 2
    rows, quantile, share = noise_of(tuple(round(v, 6) for v in x), kind)
    apart = rows[int(np.argmax(left))] - rows[int(np.argmin(left))]
    # the line itself moves with the points that it hangs on
    big = max(float(np.linalg.norm(apart)), 2**0.5) * expanded
    size = max(left) - min(left)
    found = Estimate.within("length", size, big)
    return found.between(size - quantile * u, size + big).widened(bound * share)


def _share(rows: np.ndarray, kind: LineKind) -> float:
    """How far highest less lowest can move when each point moves by one at most."""
    if kind == "min_zone":
        # the line that was narrowest before still holds all points, one further to each side
        return 2.0
    return max(float(np.abs(a - b).sum()) for a, b in combinations(rows, 2))


@lru_cache(maxsize=256)
def noise_of(x: tuple[float, ...], kind: LineKind) -> tuple[np.ndarray, float, float]:
    """(what the line leaves of a unit at each point, what noise of one unit at each makes of the
    zone but for its tail, how far the zone can move when each point moves by one at most). A
    minimum zone is never wider than what least squares leave."""
    fit: LineKind = "ends" if kind == "ends" else "least_squares"
    units = [line_through(x, list(row), fit).left for row in np.eye(len(x))]
    rows = np.array(units).T
    noise = np.random.default_rng(0).standard_normal((DRAWS, len(x))) @ rows.T
    return rows, float(np.quantile(np.ptp(noise, axis=1), 1 - TAIL)), _share(rows, kind)
