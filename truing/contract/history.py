"""What earlier rounds about the same subject leave to later ones."""

from __future__ import annotations

from pydantic import BaseModel, Field

from truing.measure.estimate import Estimate
from truing.measure.spread import Spread


class MoveMade(BaseModel):
    """What was done after a round: which move, what it aimed at, and what tightening did."""

    key: str
    mechanism: str
    about: str = ""
    """Which link, block or end within the part."""
    aimed: dict[str, float]
    """What was to be left of each quantity, in its own unit."""
    shift: dict[str, float] = Field(default_factory=dict)
    """What tightening the bolts added to each quantity, from the needle nipped and tight."""


class PastRound(BaseModel):
    """An earlier round about the same subject."""

    number: int
    sitting: str = ""
    """The sitting that it belongs to."""
    way: str = ""
    """The way in which it was read."""
    condition: str = ""
    """As `Setup.condition`; "" where the way is all there is to it."""
    values: dict[str, Estimate]
    spreads: dict[str, Spread] = Field(default_factory=dict)
    """Scatter of its repeats, by instrument."""
    move: MoveMade | None = None
    did: str = ""
    """What was done after it, in words; also for what was not advised."""


class History(BaseModel):
    """Earlier rounds of this kind of check about this subject, oldest first, across sittings."""

    sitting: str = ""
    """The sitting in hand."""
    past: list[PastRound] = Field(default_factory=list)

    @property
    def rounds(self) -> list[PastRound]:
        """Those of the sitting in hand."""
        return [r for r in self.past if r.sitting == self.sitting]

    def alike(self, condition: str) -> list[PastRound]:
        """Those read in the same condition; all of them where there is one only."""
        return [r for r in self.past if condition in ("", r.condition or r.way)]

    def spread(self, instrument: str, way: str) -> Spread:
        """Scatter that this instrument has shown, read in this way. What another instrument
        showed says nothing about it."""
        found = Spread()
        for r in self.past:
            if r.way == way and instrument in r.spreads:
                found += r.spreads[instrument]
        return found

    def shifts(self, mechanism: str, quantity: str) -> list[float]:
        """What tightening this mechanism did to a quantity each time, oldest first."""
        return [
            r.move.shift[quantity]
            for r in self.past
            if r.move and r.move.mechanism == mechanism and quantity in r.move.shift
        ]

    def learnt(self, quantity: str) -> Estimate | None:
        """A quantity as it was found last, in whichever sitting."""
        return next((r.values[quantity] for r in reversed(self.past) if quantity in r.values), None)
