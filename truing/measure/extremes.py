"""Worst of several places, and highest less lowest: sizes that noise makes larger than they are.

An unbiased symmetric ±U does not exist for them near nothing, so that they come with limits: the
lower one takes off what noise alone would reach, the upper one what a single place may hide.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache

import numpy as np
from numpy.typing import NDArray
from scipy import optimize, special

from truing.measure.estimate import Estimate
from truing.measure.words import Measure

TAIL = 0.0228
"""Of each side, at twice the standard deviation."""


@cache
def worst_quantile(n: int) -> float:
    """What the largest size among n standard normal values stays below, but for the tail: sizes
    reach it on either side."""
    return float(special.ndtri(1 - TAIL / (2 * n)))


@cache
def range_quantile(n: int) -> float:
    """What highest less lowest of n standard normal values stays below, but for the tail.

    P(range ≤ r) = n ∫ φ(x) (Φ(x + r) − Φ(x))ⁿ⁻¹ dx, x the lowest of them.
    """
    x = np.linspace(-9, 9, 3601)
    density = np.exp(-(x**2) / 2) / np.sqrt(2 * np.pi)

    def below(r: float) -> float:
        inside = special.ndtr(x + r) - special.ndtr(x)
        return float(np.trapezoid(n * density * inside ** (n - 1), x))

    return float(optimize.brentq(lambda r: below(r) - (1 - TAIL), 0.1, 12))


def worst_of(places: Sequence[Estimate]) -> tuple[int, Estimate]:
    """(which, how large) the largest of several sizes is. ValueError when there is none."""
    at = max(range(len(places)), key=lambda i: abs(places[i].value))
    found = places[at]
    u = max(p.expanded for p in places) / 2
    size = abs(found.value)
    low = size - worst_quantile(len(places)) * u
    return at, found.between(low, size + found.expanded)


def peak_to_valley(
    deviations: Sequence[float] | NDArray[np.float64],
    expanded: float,
    measure: Measure = "length",
    *,
    bound: float = 0.0,
) -> Estimate:
    """Highest less lowest of values that are each known to ±`expanded` (95 %), and may beside that
    each be wrong by up to `bound`."""
    size = float(np.ptp(deviations)) if len(deviations) else 0.0
    n, u = max(2, len(deviations)), expanded / 2
    found = Estimate.within(measure, size, 2**0.5 * expanded)
    return found.between(size - range_quantile(n) * u, size + found.expanded).widened(2 * bound)
