"""What a round comes to: quantities with their uncertainty, means, remarks. No verdict yet."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from truing.measure.estimate import Estimate
from truing.measure.spread import Spread
from truing.measure.words import InBoth, Measure, Words, show_estimate, show_limits


class Note(BaseModel):
    """A remark on the readings: a doubt to look at, or how far the finding carries."""

    tone: Literal["look", "weak", "info"]
    text: Words
    station: str | None = None
    wild: bool = False
    """A reading or a place that stands off what the others agree on: while it does, nothing is
    called true, and the round teaches nothing."""
    readings: list[str] = Field(default_factory=list)
    """Which of the readings could be left out for it; none where that cannot be told."""


class Quantity(BaseModel):
    """One result with its uncertainty, and what it is judged by."""

    key: str
    sort: str
    """What is the same at every place: lean_x for the leans along a beam."""
    at_mm: float | None = None
    """The place that it was found at, where there are several."""
    tolerance_key: str | None
    """None for what is only told, not judged."""
    label: InBoth
    estimate: Estimate
    gain: float
    """√C: the quantity per mm of one station mean."""
    deduced: bool = False
    """Got by subtraction, not measured."""
    words: Words
    sentence: Words | None
    """What it says; None for one that is only told in figures."""

    @property
    def measure(self) -> Measure:
        """What it measures."""
        return self.estimate.measure


def shown(estimate: Estimate, *, signed: bool = False) -> Words:
    """An estimate in words: value and ±, or the limits between which its size lies."""
    if estimate.limits:
        return show_limits(estimate.limits.low, estimate.limits.high, estimate.measure)
    return show_estimate(estimate.value, estimate.expanded, estimate.measure, signed=signed)


def quantity(
    key: str,
    label: str | Words,
    estimate: Estimate,
    sentence: Words | None,
    *,
    gain: float,
    tolerance_key: str | None,
    sort: str = "",
    at_mm: float | None = None,
    deduced: bool = False,
    signed: bool = True,
) -> Quantity:
    """A quantity with its figures in words; one that is deduced says so."""
    words = shown(estimate, signed=signed)
    return Quantity(
        key=key,
        sort=sort or tolerance_key or key,
        at_mm=at_mm,
        tolerance_key=tolerance_key,
        label=label,
        estimate=estimate,
        gain=gain,
        deduced=deduced,
        words=words + " (deduced)" if deduced else words,
        sentence=sentence,
    )


class StationMean(BaseModel):
    """What a station came to: mean and U in mm, its repeats, and what the fit leaves there."""

    station: str
    mean_mm: float
    expanded_mm: float
    repeats_mm: list[float]
    left_mm: float


class Taught(BaseModel):
    """What a round teaches of a piece of the kit: figures that are kept with it there."""

    piece: str
    figures: dict[str, float]
    """New values of its fields."""


class Finding(BaseModel):
    """Geometry and uncertainty of one round; each kind adds its own fields."""

    kind: str
    quantities: list[Quantity]
    stations: list[StationMean]
    notes: list[Note]
    spreads: dict[str, Spread] = Field(default_factory=dict)
    """Scatter of this round's own repeats by instrument, for later rounds with the same."""
    s_mm: float
    step_mm: float
    wandered: bool = False
    """Its zero moved while it was read, and whether steadily or at once cannot be told yet."""
    one_off: bool = False
    """One reading of a single pass may have slipped; only another pass tells."""
    zero_mm: float = 0.0
    """What the dial was set back by when it was last zeroed (as shown), 0 if it was not."""
    lines: list[Words] = Field(default_factory=list)
    """What else there is to say of it, in sentences."""
    teaches: list[Taught] = Field(default_factory=list)

    @property
    def pointed_out(self) -> Note | None:
        """The first reading or place that stands off what the others agree on; None while all of
        them can be believed."""
        return next((note for note in self.notes if note.wild), None)

    @property
    def believed(self) -> Finding:
        """The same, teaching nothing while something in it is pointed out."""
        if self.pointed_out is None:
            return self
        return self.model_copy(update={"spreads": {}, "teaches": []})
