"""What is read at a station: a length, a grade of feel or result, or something seen."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import BaseModel, Field

Reads = Literal["length", "grade", "observation"]
"""What a station takes. A level's divisions are lengths: the rise over the level's own base."""


class _Read(BaseModel):
    id: str
    station: str
    read_at: datetime


class LengthReading(_Read):
    """A length read at a station, as the instrument showed it (mm, before any sign or cosine)."""

    kind: Literal["length"] = "length"
    shown_mm: float = Field(allow_inf_nan=False)
    zeroed_on: str | None = None
    """Id of the reading on which the dial was set to zero before this one was taken."""


class GradeReading(_Read):
    """How it felt or went, as one of the station's grades, and where along the travel."""

    kind: Literal["grade"] = "grade"
    grade: str
    where_mm: float | None = None


class ObservationReading(_Read):
    """Something seen: one of the station's grades, and what it was in words."""

    kind: Literal["observation"] = "observation"
    grade: str
    text: str = ""


Reading = Annotated[LengthReading | GradeReading | ObservationReading, Field(discriminator="kind")]


class Grade(BaseModel):
    """One answer that a station offers."""

    key: str
    label: str
    tone: Literal["good", "doubt", "bad"]
