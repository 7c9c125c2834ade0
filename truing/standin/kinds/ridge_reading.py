"""Two patches cut by a disc that leans: its rim, point by point, and what the passes leave."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from truing.checks.cutting import NAIL
from truing.checks.ridge_reading.setup import FINGER, RidgeReadingSetup, RidgeStation
from truing.contract.readings import Reading
from truing.kit.instruments import Instrument
from truing.standin.hands import Answers
from truing.standin.heads import turned
from truing.standin.seen import Seen, measured
from truing.standin.truth import Truth

BESIDE_MM = 1e-6
"""How far to each side of the rim of a pass one looks for the step that it leaves."""


def read(
    truth: Truth,
    setup: RidgeReadingSetup,
    station: RidgeStation,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """The size of a ridge, which edge of the bands is high, or how the marks lie."""
    along, across = (0, 1) if station.patch == "x" else (1, 0)
    axis = truth.axis()
    lean = axis[[along, across]] / axis[2]
    if station.what == "marks":
        # what the trailing edge comes round lower by, where the marks are looked at
        behind = 2 * np.sqrt((setup.flat_mm / 2) ** 2 - setup.beside_mm**2)
        lower = float(lean[0]) * float(behind)
        if abs(lower) <= setup.seen_mm:
            return Seen(grade="crossed")
        return Seen(grade="leading" if lower > 0 else "trailing")
    height, step, high = _bands(
        float(lean[0]), float(lean[1]), setup.flat_mm / 2, setup.step_of(station.patch)
    )
    if station.what == "edge":
        if step <= 0.004:
            return Seen(grade="level")
        low, up = ("front", "rear") if station.patch == "x" else ("left", "right")
        return Seen(grade=low if high < 0 else up)
    size = step if setup.steps else height
    if setup.measured:
        return Seen(shown_mm=abs(measured(size, instrument, rng, truth.noise_share).shown_mm or 0))
    grades = NAIL if setup.steps else FINGER
    fits = [key for key, (_, low, most) in grades.items() if low <= size <= most]
    return Seen(grade=fits[-1] if fits else list(grades)[-1])


@lru_cache(maxsize=256)
def _bands(ahead: float, aside: float, radius: float, stepover: float) -> tuple[float, float, int]:
    """(height, step in mm, −1 or +1 for the edge of a band that stands high) of passes beside one
    another, by the lowest of all points of a rim at each place across them."""
    turn = np.linspace(0, 2 * np.pi, 20_001)
    v, z = radius * np.sin(turn), -radius * (ahead * np.cos(turn) + aside * np.sin(turn))
    order = np.argsort(v)
    # narrow where the rim turns
    edges = radius * np.sin(np.linspace(-np.pi / 2, np.pi / 2, 4001))
    which = np.clip(np.searchsorted(edges, v[order]) - 1, 0, 3999)
    lowest = np.full(4000, np.inf)
    np.minimum.at(lowest, which, z[order])
    middles = (edges[1:] + edges[:-1]) / 2

    def left(at: NDArray[np.float64]) -> NDArray[np.float64]:
        """Heights of what stays at places across the feed."""
        over = at[:, None] - stepover * np.arange(-3, 4)
        reached = np.interp(over, middles, lowest)
        return np.asarray(np.where(np.abs(over) < radius, reached, np.inf).min(axis=1))

    heights = left(np.linspace(-stepover / 2, stepover / 2, 2001))
    rims = np.array([-radius, radius])
    beside = BESIDE_MM * np.sign(rims)
    jumps = left(rims + beside) - left(rims - beside)
    edge, step = rims[int(jumps.argmax())], float(jumps.max())
    # beyond the low rim of a pass stands the edge of its neighbour
    high = -1 if edge > 0 else 1
    return float(heights.max() - heights.min()), max(0.0, step), high


ANSWERS: Answers = {"head_pivot": turned, "bracket_pivot": turned}
