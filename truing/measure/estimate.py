"""Results with their uncertainty."""

from __future__ import annotations

import math

from pydantic import BaseModel, ConfigDict


class Estimate(BaseModel):
    """A result: value, standard uncertainty and expanded uncertainty (95 %), all in one unit."""

    model_config = ConfigDict(frozen=True)

    value: float
    u: float
    expanded: float
    dof: float | None = None
    """Degrees of freedom behind the spread; None when it rests on stated figures."""

    def shifted(self, by: float) -> Estimate:
        """The same uncertainty about another value."""
        return self.model_copy(update={"value": self.value + by})

    @property
    def visible(self) -> bool:
        """Whether the value can be told from zero."""
        return abs(self.value) > self.expanded


def combined(*parts: float) -> float:
    """Root sum of squares of independent contributions."""
    return math.sqrt(sum(p * p for p in parts))
