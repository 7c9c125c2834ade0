"""Results with their uncertainty. An estimate knows what it measures and refuses to be mixed."""

from __future__ import annotations

import math

from pydantic import BaseModel, ConfigDict

from truing.measure.words import Measure


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

    @classmethod
    def within(cls, measure: Measure, value: float, expanded: float) -> Estimate:
        """A value known to ±`expanded` (95 %), from stated figures."""
        return cls(measure=measure, value=value, u=expanded / 2, expanded=expanded)

    @classmethod
    def exact(cls, measure: Measure, value: float) -> Estimate:
        """A value without doubt: something that was set or counted."""
        return cls(measure=measure, value=value, u=0.0, expanded=0.0)

    def shifted(self, by: float) -> Estimate:
        """The same uncertainty about another value."""
        return self.model_copy(update={"value": self.value + by})

    def times(self, factor: float, measure: Measure | None = None) -> Estimate:
        """Multiplied by an exact factor, which may make another measure of it."""
        return Estimate(
            measure=measure or self.measure,
            value=self.value * factor,
            u=self.u * abs(factor),
            expanded=self.expanded * abs(factor),
            dof=self.dof,
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
    def visible(self) -> bool:
        """Whether the value can be told from zero."""
        return abs(self.value) > self.expanded


def combined(*parts: float) -> float:
    """Root sum of squares of independent contributions."""
    return math.sqrt(sum(p * p for p in parts))
