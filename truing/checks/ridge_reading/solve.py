"""From what two patches tell to the leans that could have cut them.

Ridges grow in proportion to the lean as long as its direction stays: L·g(θ), with θ from the
left–right lean to the nod. For each direction, then, what was read leaves an interval of L, and the
leans that fit everything are a region of the quarter plane (|lean|, |nod|), known exactly along
each of a fine fan of directions. Nothing is assumed to be small, and one reading alone gives what
it can: bounds.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from truing.checks.ridge_reading.setup import Patch
from truing.effects.ridges import ridge

FAN = 1801
"""Directions from a lean side to side to a nod: a twentieth of a degree apart."""
STRETCH = (1.25, 1.5, 1.75, 2.0)
Array = NDArray[np.float64]


@dataclass(frozen=True)
class Told:
    """One thing that a patch tells, as limits of a size (mm)."""

    patch: Patch
    what: str
    """Height or step of a ridge; or marks, whose limits are leans along the feed (mm per mm)."""
    least: float
    most: float
    value: float | None = None
    """What was read, where it is more than limits."""
    u: float = 1.0

    def wider(self, times: float) -> Told:
        """The same with its limits so many times further off."""
        if self.value is None:
            return replace(self, most=self.most * times)
        return replace(
            self,
            least=max(0.0, self.value - times * (self.value - self.least)),
            most=self.value + times * (self.most - self.value),
        )

    @property
    def named(self) -> str:
        """As it is told of."""
        fed = "left–right" if self.patch == "x" else "front–back"
        what = {"height": "the height", "step": "the step", "marks": "the marks"}[self.what]
        return f"{what} of the patch fed {fed}"


@dataclass(frozen=True)
class Size:
    """How large a lean is: what fits best, and between what it lies (mm per mm)."""

    best: float
    low: float
    high: float


@dataclass(frozen=True)
class Leans:
    """Both of them."""

    x: Size
    y: Size


Steps = tuple[float, float]
"""From pass to pass (mm): of the patch fed along X, and of the one fed along Y."""


@lru_cache(maxsize=64)
def _fan(diameter_mm: float, steps_mm: Steps) -> dict[tuple[Patch, str], tuple[Array, Array]]:
    """By patch and by what is told: the directions, and what a lean of 1 makes in each."""
    # where a cusp turns into a step the curve bends: it is a direction of its own
    bends = [math.acos(math.sqrt(min(1.0, s / diameter_mm))) for s in steps_mm]
    both = [b for bend in bends for b in (bend, math.pi / 2 - bend)]
    fan = np.unique([*np.linspace(0.0, math.pi / 2, FAN), *both])
    found: dict[tuple[Patch, str], tuple[Array, Array]] = {}
    patches: tuple[Patch, Patch] = ("x", "y")
    for patch, step in zip(patches, steps_mm, strict=True):
        about = fan if patch == "x" else math.pi / 2 - fan
        ridges = [ridge(diameter_mm, step, math.cos(t), math.sin(t)) for t in about]
        found[patch, "height"] = (fan, np.array([r.height_mm for r in ridges]))
        found[patch, "step"] = (fan, np.array([r.step_mm for r in ridges]))
        found[patch, "marks"] = (fan, np.cos(about))
    return found


def leans(diameter_mm: float, steps_mm: Steps, told: Sequence[Told]) -> Leans | None:
    """The leans that fit everything that was told; None where no leans do.

    An unbounded side is infinite.
    """
    fan = _fan(diameter_mm, steps_mm)
    theta = fan["x", "height"][0]
    low = np.zeros_like(theta)
    high = np.full_like(theta, np.inf)
    possible = np.ones_like(theta, dtype=bool)
    for t in told:
        made = fan[t.patch, t.what][1]
        makes = made > 1e-9
        with np.errstate(divide="ignore"):
            low = np.maximum(low, np.where(makes, t.least / np.where(makes, made, 1.0), 0.0))
            high = np.minimum(high, np.where(makes, t.most / np.where(makes, made, 1.0), np.inf))
        possible &= makes | (t.least <= 0)
    possible &= low <= high * (1 + 1e-9)
    if not possible.any():
        return None
    theta, low, high = theta[possible], low[possible], high[possible]
    best = _best(fan, told, possible, low, high)
    return Leans(*(_size(theta, low, high, best, along) for along in (np.cos, np.sin)))


def _size(
    theta: Array, low: Array, high: Array, best: tuple[float, float], along: np.ufunc
) -> Size:
    # a lean square to this one is none of it, however large
    share = np.where(along(theta) > 1e-12, along(theta), 0.0)
    with np.errstate(invalid="ignore"):
        most = np.where(share > 0, high * share, 0.0)
    return Size(
        best=best[1] * float(along(best[0])),
        low=float((low * share).min()),
        high=float(most.max()),
    )


def _best(
    fan: dict[tuple[Patch, str], tuple[Array, Array]],
    told: Sequence[Told],
    possible: NDArray[np.bool_],
    low: Array,
    high: Array,
) -> tuple[float, float]:
    """(direction, lean) of least squares within what is possible."""
    theta = fan["x", "height"][0][possible]
    read = [t for t in told if t.value is not None]
    if not read:
        return float(theta[len(theta) // 2]), float(low[len(theta) // 2])
    rows = np.array([fan[t.patch, t.what][1][possible] / t.u for t in read])
    values = np.array([(t.value or 0.0) / t.u for t in read])
    squares = (rows**2).sum(axis=0)
    lean = (rows * values[:, None]).sum(axis=0) / np.maximum(squares, 1e-30)
    lean = np.clip(lean, low, np.where(np.isinf(high), np.maximum(lean, low), high))
    missed = ((rows * lean - values[:, None]) ** 2).sum(axis=0)
    # among directions that fit alike (one patch alone), the one in their middle
    alike = np.flatnonzero(missed <= missed.min() + 1e-6)
    at = int(alike[len(alike) // 2])
    return float(theta[at]), float(lean[at])


def fitted(diameter_mm: float, steps_mm: Steps, told: Sequence[Told]) -> Leans | None:
    """`leans`, where limits of 95 % may miss now and then: what just fails to fit is taken with
    limits half as wide again as those that would fit. None for what does not fit at twice its
    limits: that contradicts itself."""
    found = leans(diameter_mm, steps_mm, told)
    for times in () if found else STRETCH:
        if leans(diameter_mm, steps_mm, [t.wider(times) for t in told]):
            return leans(diameter_mm, steps_mm, [t.wider(times + 0.5) for t in told])
    return found


def odd_one_out(diameter_mm: float, steps_mm: Steps, told: Sequence[Told]) -> list[Told]:
    """Where all of it contradicts itself: each thing without which the rest fits."""
    return [
        t
        for t in told
        if fitted(diameter_mm, steps_mm, [o for o in told if o is not t]) is not None
    ]


def alone(diameter_mm: float, steps_mm: Steps, told: Sequence[Told]) -> Leans:
    """Of things that contradict one another: whatever any one of them allows."""
    each = [found for t in told if (found := leans(diameter_mm, steps_mm, [t]))]

    def over(sizes: Sequence[Size]) -> Size:
        return Size(
            best=sum(s.best for s in sizes) / len(sizes),
            low=min(s.low for s in sizes),
            high=max(s.high for s in sizes),
        )

    return Leans(x=over([e.x for e in each]), y=over([e.y for e in each]))
