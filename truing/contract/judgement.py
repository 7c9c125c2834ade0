"""A finding against its limits: true, out, or too close to call."""

from __future__ import annotations

from pydantic import BaseModel

from truing.measure.verdict import Verdict, WayOut
from truing.measure.words import Measure, Words


class Judged(BaseModel):
    """One quantity against its tolerance."""

    quantity: str
    tolerance: float
    measure: Measure = "slope"
    tolerance_words: Words
    verdict: Verdict
    text: Words
    way_out: WayOut | None


class Judgement(BaseModel):
    """The verdict of a check, that of its worst quantity, with the sentence that says it."""

    verdict: Verdict
    judged: list[Judged]
    sentence: Words


class Limit(BaseModel):
    """What one sort of quantity may be, for showing and changing."""

    key: str
    title: str
    unit: str
    """Of `value`; the words carry both systems."""
    value: float
    words: Words


class Expectation(BaseModel):
    """Before the first reading: the U to expect, and what would do if it is too large."""

    expanded: float
    tolerance: float
    enough: bool
    measure: Measure = "slope"
    text: Words
