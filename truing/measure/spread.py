"""Spread of repeated readings: pooled deviation, what it does to a mean, outliers and drift."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cache
from typing import Final

import numpy as np
from pydantic import BaseModel, ConfigDict
from scipy import special

COVERAGE: Final = 0.9545
LEAST_DOF: Final = 4
"""Below this the spread of a few repeats is itself too uncertain; see `Spread.k_s`."""


class Spread(BaseModel):
    """Scatter of repeats, pooled: sum of squares (mm²) and its degrees of freedom."""

    model_config = ConfigDict(frozen=True)

    ss_mm2: float = 0.0
    dof: int = 0

    def __add__(self, other: Spread) -> Spread:
        return Spread(ss_mm2=self.ss_mm2 + other.ss_mm2, dof=self.dof + other.dof)

    def __sub__(self, part: Spread) -> Spread:
        """What is left without a part that was pooled into it."""
        return Spread(ss_mm2=max(0.0, self.ss_mm2 - part.ss_mm2), dof=self.dof - part.dof)

    @property
    def s_mm(self) -> float:
        """Pooled standard deviation in mm; 0 without repeats."""
        return math.sqrt(self.ss_mm2 / self.dof) if self.dof else 0.0

    def rests_on_stated(self, repeatability_mm: float) -> bool:
        """Whether the instrument's own stated repeatability has to stand in for the spread."""
        k, s = self.k_s(repeatability_mm)
        return self.dof < LEAST_DOF and (k, s) == (2.0, repeatability_mm)

    def k_s(self, repeatability_mm: float) -> tuple[float, float]:
        """(k, s in mm) for 95 %: Student's t for a spread that has been seen often enough.

        With two or three degrees of freedom the larger of that and twice the stated repeatability;
        with fewer the stated one, unless what was seen is larger even so.
        """
        if self.dof >= LEAST_DOF:
            return t_factor(self.dof), self.s_mm
        if self.dof >= 2 and t_factor(self.dof) * self.s_mm > 2 * repeatability_mm:
            return t_factor(self.dof), self.s_mm
        return 2.0, max(self.s_mm, repeatability_mm) if self.dof < 2 else repeatability_mm


@cache
def t_factor(dof: int) -> float:
    """Two-sided Student factor at 95.45 %, so that it tends to 2."""
    return float(special.stdtrit(dof, (1 + COVERAGE) / 2))


def spread_of(groups: Sequence[Sequence[float]]) -> Spread:
    """Pooled spread of groups of repeats (mm); single readings add nothing."""
    ss = 0.0
    dof = 0
    for group in groups:
        if len(group) > 1:
            mean = sum(group) / len(group)
            ss += sum((v - mean) ** 2 for v in group)
            dof += len(group) - 1
    return Spread(ss_mm2=ss, dof=dof)


def mean_uncertainty(n: int, *, step_mm: float, k: float, s_mm: float) -> tuple[float, float]:
    """(u, U) in mm of the mean of `n` readings: the readable step does not average out."""
    fixed = step_mm**2 / 12
    return math.sqrt(fixed + s_mm**2 / n), math.sqrt(4 * fixed + k**2 * s_mm**2 / n)


def outliers(
    groups: Sequence[Sequence[float]], *, step_mm: float, repeatability_mm: float, prior: Spread
) -> list[tuple[int, int]]:
    """(group, repeat) of readings that stand too far from the others of their station.

    The limit 3·s·√(1 + 1/(n−1)) takes s from the *other* stations and earlier rounds, so that a
    wild pair cannot hide in the spread it makes; while they have too few degrees of freedom the
    stated repeatability stands in for a smaller s, as it does in verdicts.
    """
    found: list[tuple[int, int]] = []
    everything = prior + spread_of(groups)
    for g, group in enumerate(groups):
        n = len(group)
        if n < 2:
            continue
        others = everything - spread_of([group])
        s = others.k_s(repeatability_mm)[1]
        limit = 3 * max(s, step_mm / math.sqrt(12)) * math.sqrt(1 + 1 / (n - 1))
        far = [
            (round(abs(v - (sum(group) - v) / (n - 1)), 9), i)
            for i, v in enumerate(group)
            if abs(v - (sum(group) - v) / (n - 1)) > limit + 1e-12
        ]
        if far:
            # with two readings both are equally far: the later one is the one to look at again
            found.append((g, max(far)[1]))
    return found


def drift_mm(groups: Sequence[Sequence[float]], *, u_mm: float) -> float | None:
    """Mean change from the first to the last pass in mm, when it is more than chance; else None."""
    moves = [group[-1] - group[0] for group in groups if len(group) > 1]
    if len(moves) < 3:
        return None
    mean = float(np.mean(moves))
    scatter = max(float(np.std(moves, ddof=1)), u_mm * math.sqrt(2)) / math.sqrt(len(moves))
    return mean if abs(mean) > t_factor(len(moves) - 1) * scatter else None
