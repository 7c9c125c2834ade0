"""What earlier rounds leave to later ones."""

from __future__ import annotations

from pydantic import AliasChoices, BaseModel, Field

from truing.measure.estimate import Estimate
from truing.measure.spread import Spread


class MoveMade(BaseModel):
    """What was done after a round: which move, what it aimed at, and what tightening did."""

    key: str
    mechanism: str
    # the older name is in records of the time when every quantity was a slope
    aimed: dict[str, float] = Field(validation_alias=AliasChoices("aimed", "aimed_mm_per_m"))
    """What was to be left of each quantity, in its own unit."""
    tightening_mm_per_m: dict[str, float] = Field(default_factory=dict)
    """What tightening the bolts added, from the needle nipped and tight."""


class PastRound(BaseModel):
    """An earlier round of the same check, oldest first in a history."""

    number: int
    values: dict[str, Estimate]
    move: MoveMade | None = None
    did: str = ""
    """What was done after it, in words; also for what was not advised."""


class History(BaseModel):
    """Earlier rounds of this check, and tightening shifts seen on this machine (mm/m)."""

    rounds: list[PastRound] = Field(default_factory=list)
    spread: Spread = Field(default_factory=Spread)
    shifts: dict[str, dict[str, list[float]]] = Field(default_factory=dict)
    """By mechanism, then by quantity."""
