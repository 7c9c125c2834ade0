"""What is read at a station: a length, a grade of feel or result, something seen, or a log."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import BaseModel, Field

Reads = Literal["length", "grade", "observation", "log"]
"""What a station takes. A level's divisions are lengths: the rise over the level's own base."""


class Place(BaseModel):
    """Where a reading was taken, where that is the reading's own and not the station's (mm)."""

    x_mm: float = Field(allow_inf_nan=False)
    y_mm: float | None = Field(None, allow_inf_nan=False)


class _Read(BaseModel):
    id: str
    station: str
    read_at: datetime
    place: Place | None = None
    instrument: str = ""
    """Key of the instrument it was taken with; "" for the round's own."""


class LengthReading(_Read):
    """A length read at a station, as the instrument showed it (mm, before any sign or cosine)."""

    kind: Literal["length"] = "length"
    shown_mm: float = Field(allow_inf_nan=False)
    zeroed_on: str | None = None
    """Id of the reading on which the dial was set to zero before this one was taken."""


class GradeReading(_Read):
    """How it felt or went, as one of the station's grades."""

    kind: Literal["grade"] = "grade"
    grade: str


class ObservationReading(_Read):
    """Something seen: one of the station's grades, and what it was in words."""

    kind: Literal["observation"] = "observation"
    grade: str
    text: str = ""


class LogReading(_Read):
    """Many points read in one go, as one record: columns of equal length (mm), by name."""

    kind: Literal["log"] = "log"
    columns: dict[str, list[float]]


Reading = Annotated[
    LengthReading | GradeReading | ObservationReading | LogReading, Field(discriminator="kind")
]


class Grade(BaseModel):
    """One answer that a station offers."""

    key: str
    label: str
    tone: Literal["good", "doubt", "bad"]
