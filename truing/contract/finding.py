"""What a round comes to: quantities with their uncertainty, means, remarks. No verdict yet."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from truing.drawing.figures import Figure
from truing.measure.estimate import Estimate
from truing.measure.spread import Spread
from truing.measure.words import Measure, Words


class Note(BaseModel):
    """A remark on the readings: a doubt to look at, or how far the finding carries."""

    tone: Literal["look", "weak", "info"]
    text: Words
    station: str | None = None


class Quantity(BaseModel):
    """One result with its uncertainty, in the unit of its measure, and what it is judged by."""

    key: str
    tolerance_key: str | None
    """None for what is only told, not judged."""
    label: str
    measure: Measure = "slope"
    estimate: Estimate
    gain: float
    """√C: the quantity per mm of one station mean."""
    floor: float = 0.0
    """What noise alone would make of a highest-less-lowest figure."""
    deduced: bool = False
    """Got by subtraction, not measured."""
    words: Words
    sentence: Words


class StationMean(BaseModel):
    """What a station came to: mean and U in mm, its repeats, and what the fit leaves there."""

    station: str
    mean_mm: float
    expanded_mm: float
    repeats_mm: list[float]
    left_mm: float


class Finding(BaseModel):
    """Geometry and uncertainty of one round; each kind adds its own fields."""

    kind: str
    quantities: list[Quantity]
    stations: list[StationMean]
    notes: list[Note]
    spread: Spread
    """Scatter of this round's own repeats, carried into later rounds."""
    s_mm: float
    step_mm: float
    lines: list[Words] = Field(default_factory=list)
    """What else there is to say of it, in sentences."""
    figures: list[Figure] = Field(default_factory=list)
