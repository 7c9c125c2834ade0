"""Spread of repeated readings: pooled deviation, what it does to a mean, outliers and drift."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cache
from typing import Final, NamedTuple

from pydantic import BaseModel, ConfigDict
from scipy import special

COVERAGE: Final = 0.9545
CONTRADICTED: Final = 0.01
"""How seldom a dial as good as its sheet may be called worse."""
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

    def contradicts(self, repeatability_mm: float, step_mm: float) -> bool:
        """Whether an instrument as good as stated would scatter so much in fewer than one round in
        a hundred; what rounding to its step adds is allowed for."""
        if self.dof == 0:
            return False
        allowed = repeatability_mm**2 + step_mm**2 / 12
        return self.ss_mm2 / allowed > float(special.chdtri(self.dof, CONTRADICTED))

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


class Outlier(NamedTuple):
    """A reading that stands too far from the others of its station."""

    group: int
    repeat: int
    times: float
    """How far, as a multiple of what is far."""


def outliers(
    groups: Sequence[Sequence[float]], *, step_mm: float, repeatability_mm: float, prior: Spread
) -> list[Outlier]:
    """Readings that stand too far from the others of their station; one for each station.

    The limit 3·s·√(1 + 1/(n−1)) takes s from the *other* stations and earlier rounds, so that a
    wild pair cannot hide in the spread it makes; while they have too few degrees of freedom the
    stated repeatability stands in for a smaller s, as it does in verdicts.
    """
    found: list[Outlier] = []
    everything = prior + spread_of(groups)
    for g, group in enumerate(groups):
        n = len(group)
        if n < 2:
            continue
        others = everything - spread_of([group])
        s = others.s_mm if others.dof >= LEAST_DOF else max(others.s_mm, repeatability_mm)
        limit = 3 * max(s, step_mm / math.sqrt(12)) * math.sqrt(1 + 1 / (n - 1))
        # with two readings both are equally far: the later one is the one to look at again
        far, i = max(
            (round(abs(v - (sum(group) - v) / (n - 1)), 9), i) for i, v in enumerate(group)
        )
        if far > limit + 1e-12:
            found.append(Outlier(g, i, far / limit))
    return found


class Drift(NamedTuple):
    """A steady change from one reading to the next (mm), and its standard uncertainty."""

    per_reading_mm: float
    u_mm: float


DRIFT_CHANCE = 0.03
"""How often scatter alone may be taken for a drift."""


def _about_mean(values: Sequence[float]) -> list[float]:
    """Less their mean; a handful at a time, which arrays would be slower for."""
    mean = sum(values) / len(values)
    return [v - mean for v in values]


def steady_drift(order: Sequence[Sequence[int]], groups: Sequence[Sequence[float]]) -> Drift | None:
    """The drift common to all stations, when it is more than chance: whole passes come back to each
    station later, so that what only time has changed shows at all of them alike.

    `order` has the number of each reading in the sequence in which they were taken.
    """
    t = [a for each in order for a in _about_mean(each)]
    y = [b for each in groups for b in _about_mean(each)]
    free = len(y) - len(groups) - 1
    along = sum(a * a for a in t)
    if free < 2 or along == 0:
        return None
    slope = sum(a * b for a, b in zip(t, y, strict=True)) / along
    left = sum((b - slope * a) ** 2 for a, b in zip(t, y, strict=True))
    u = math.sqrt(left / free / along)
    if abs(slope) <= float(special.stdtrit(free, 1 - DRIFT_CHANCE / 2)) * u or slope == 0:
        return None
    return Drift(slope, u)
