"""Results with their uncertainty. An estimate knows what it measures and refuses to be mixed."""

from __future__ import annotations

import math

from pydantic import BaseModel, ConfigDict

from truing.measure.words import Measure


class Limits(BaseModel):
    """Between what a size lies (95 %), in the unit of its estimate."""

    model_config = ConfigDict(frozen=True)

    low: float
    high: float


class Estimate(BaseModel):
    """A result: value, standard uncertainty and expanded uncertainty (95 %), all in the unit of
    its measure."""

    model_config = ConfigDict(frozen=True)

    measure: Measure
    value: float
    u: float
    expanded: float
    dof: float | None = None
    """Degrees of freedom behind the spread; None when it rests on stated figures."""
    limits: Limits | None = None
    """Where its size lies, for one that ±`expanded` cannot tell: the worst of several
    places, and highest less lowest, are biased by noise most where there is nothing."""

    @classmethod
    def within(cls, measure: Measure, value: float, expanded: float) -> Estimate:
        """A value known to ±`expanded` (95 %), from stated figures."""
        return cls(measure=measure, value=value, u=expanded / 2, expanded=expanded)

    @classmethod
    def exact(cls, measure: Measure, value: float) -> Estimate:
        """A value without doubt: something that was set or counted."""
        return cls(measure=measure, value=value, u=0.0, expanded=0.0)

    def between(self, low: float, high: float) -> Estimate:
        """With limits of its size, the lower one not below nothing."""
        return self.model_copy(update={"limits": Limits(low=max(0.0, low), high=high)})

    def shifted(self, by: float) -> Estimate:
        """The same uncertainty about another value."""
        return self.model_copy(update={"value": self.value + by})

    @property
    def size(self) -> Estimate:
        """How large it is, whichever way."""
        return self.model_copy(update={"value": abs(self.value)})

    def times(self, factor: float, measure: Measure | None = None) -> Estimate:
        """Multiplied by an exact factor, which may make another measure of it."""
        return Estimate(
            measure=measure or self.measure,
            value=self.value * factor,
            u=self.u * abs(factor),
            expanded=self.expanded * abs(factor),
            dof=self.dof,
            limits=self.limits
            and Limits(low=self.limits.low * abs(factor), high=self.limits.high * abs(factor)),
        )

    def __add__(self, other: Estimate) -> Estimate:
        """The sum of two independent results. TypeError for results of different measures."""
        if other.measure != self.measure:
            raise TypeError(f"A {self.measure} and a {other.measure} cannot be added up.")
        return Estimate(
            measure=self.measure,
            value=self.value + other.value,
            u=combined(self.u, other.u),
            expanded=combined(self.expanded, other.expanded),
        )

    def __sub__(self, other: Estimate) -> Estimate:
        """The difference of two independent results. TypeError as in a sum."""
        return self + other.times(-1.0)

    @property
    def least(self) -> float:
        """The smallest size that it may really have (95 %)."""
        return self.limits.low if self.limits else max(0.0, abs(self.value) - self.expanded)

    @property
    def most(self) -> float:
        """The largest size that it may really have (95 %)."""
        return self.limits.high if self.limits else abs(self.value) + self.expanded

    @property
    def visible(self) -> bool:
        """Whether it can be told from nothing."""
        return self.least > 0

    def widened(self, bound: float) -> Estimate:
        """With a stated bound (in the same unit) added: what does not average is no deviation that
        could be added in quadrature, so that the whole of it counts."""
        limits = self.limits and Limits(
            low=max(0.0, self.limits.low - bound), high=self.limits.high + bound
        )
        u = combined(self.u, bound / math.sqrt(3))
        return self.model_copy(update={"u": u, "expanded": self.expanded + bound, "limits": limits})


def combined(*parts: float) -> float:
    """Root sum of squares of independent contributions."""
    return math.sqrt(sum(p * p for p in parts))
