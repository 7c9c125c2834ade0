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
STATED_DOF: Final = 4
"""What a stated repeatability counts as beside what was seen."""
CRIED: Final = 0.01
"""How seldom a clean round may be told that something in it was bumped."""


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

    def rests_on_stated(self, repeatability_mm: float, step_mm: float) -> bool:
        """Whether the instrument's own stated repeatability has to stand in for the spread, or to
        help it out."""
        return self.dof < LEAST_DOF and not self.contradicts(repeatability_mm, step_mm)

    def contradicts(self, repeatability_mm: float, step_mm: float) -> bool:
        """Whether an instrument as good as stated would scatter so much in fewer than one round in
        a hundred; what rounding to its step adds is allowed for."""
        if self.dof == 0:
            return False
        allowed = repeatability_mm**2 + step_mm**2 / 12
        if allowed == 0.0:
            return self.ss_mm2 > 0.0
        return self.ss_mm2 / allowed > float(special.chdtri(self.dof, CONTRADICTED))

    def k_s(self, repeatability_mm: float, step_mm: float = 0.0) -> tuple[float, float]:
        """(k, s in mm) for 95 %: Student's t for a spread that has been seen often enough.

        With fewer degrees of freedom the stated repeatability counts as four of them, so that more
        passes never decide less often, unless what was seen contradicts it; with none it stands
        alone.
        """
        if self.dof == 0:
            return 2.0, repeatability_mm
        if self.dof >= LEAST_DOF or self.contradicts(repeatability_mm, step_mm):
            return t_factor(self.dof), self.s_mm
        return t_factor(self.dof + STATED_DOF), self.with_stated(repeatability_mm)

    def with_stated(self, repeatability_mm: float) -> float:
        """Standard deviation (mm) of what was seen and what is stated together, the latter as four
        degrees of freedom."""
        stated = STATED_DOF * repeatability_mm**2
        return math.sqrt((stated + self.ss_mm2) / (STATED_DOF + self.dof))


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


def far_off(others: Spread, stated_mm: float, trials: int) -> float:
    """How far from what the others say something may stand (mm), of one that scatters like them,
    before it is pointed out: so many trials of a round all together cry wolf in one of a hundred.

    What is stated counts as four degrees of freedom: a wild pair among few must not hide behind
    how little is known of the rest.
    """
    t = float(special.stdtrit(others.dof + STATED_DOF, 1 - CRIED / 2 / max(trials, 1)))
    return t * others.with_stated(stated_mm)


def outliers(
    groups: Sequence[Sequence[float]],
    *,
    step_mm: float,
    repeatability_mm: float,
    prior: Spread,
    trials: int,
) -> list[Outlier]:
    """Readings that stand too far from the others of their station; one for each station. `trials`
    counts all that is tried in the round, see `trials_of`."""
    found: list[Outlier] = []
    everything = prior + spread_of(groups)
    stated = max(repeatability_mm, step_mm / math.sqrt(12))
    for g, group in enumerate(groups):
        n = len(group)
        if n < 2:
            continue
        # with two readings both are equally far: the later one is the one to look at again
        far, i = max(
            (round(abs(v - (sum(group) - v) / (n - 1)), 9), i) for i, v in enumerate(group)
        )
        rest = [v for j, v in enumerate(group) if j != i]
        others = everything - spread_of([group]) + spread_of([rest])
        limit = far_off(others, stated, trials) * math.sqrt(1 + 1 / (n - 1))
        # two that agree are a whole step apart where it lies between them
        if far > limit + step_mm + 1e-12:
            found.append(Outlier(g, i))
    return found


def trials_of(groups: Sequence[Sequence[float]]) -> int:
    """How many repeats are tried: of two that part neither can be told from the other."""
    return sum(len(g) if len(g) > 2 else len(g) - 1 for g in groups)


class Drift(NamedTuple):
    """A steady change from one reading to the next (mm), and its standard uncertainty."""

    per_reading_mm: float
    u_mm: float
    bound_mm: float = 0.0
    """What a knock that looks just like it would leave at a place: nothing once three passes have
    told the two apart."""


class Knock(NamedTuple):
    """From this reading on (by its number) everything reads otherwise, by so much (mm)."""

    number: int
    by_mm: float


DRIFT_CHANCE = 0.01
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
    most = max(map(len, groups))
    apart = [(each[1] - each[0]) for each in order if len(each) == 2]
    # a knock between two passes in the same order moves every second reading alike, as a drift does
    alike = most == 2 and max(apart) - min(apart) <= 1
    return Drift(slope, u, abs(slope) * apart[0] / 2 if alike else 0.0)


def knock(
    order: Sequence[Sequence[int]],
    groups: Sequence[Sequence[float]],
    stated_mm: float,
    prior: Spread,
    trials: int,
) -> Knock | None:
    """Where the zero was moved at once, when readings come back to their stations after it and that
    tells of it better than a steady drift does. `trials` counts all that is tried in the round."""
    t = [a for each in order for a in _about_mean(each)]
    y = [b for each in groups for b in _about_mean(each)]
    along = sum(a * a for a in t)
    free = len(y) - len(groups) - 1
    if free < 1 or along == 0:
        return None
    steady = sum(a * b for a, b in zip(t, y, strict=True)) ** 2 / along
    best = (steady * (1 + 1e-9), 0, 0.0)
    # from the last reading backward: each makes one more of its station read after the knock
    taken = [(n, g, len(each)) for g, each in enumerate(order) for n in each]
    after, tells, size = [0] * len(groups), 0.0, 0.0
    for (cut, g, of), off in sorted(zip(taken, y, strict=True), reverse=True):
        tells += off
        size += 1 - (2 * after[g] + 1) / of
        after[g] += 1
        if size > 1e-9:
            best = max(best, (tells * tells / size, cut, tells / size))
    told, cut, by = best
    if not cut:
        return None
    left = Spread(ss_mm2=max(0.0, sum(b * b for b in y) - told), dof=free)
    return Knock(cut, by) if math.sqrt(told) > far_off(left + prior, stated_mm, trials) else None
