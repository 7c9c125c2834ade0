"""What the API says about checks; the core's own models wherever there is one."""

from __future__ import annotations

from typing import Any, Literal
from uuid import UUID

from pydantic import BaseModel, Field

from calmsquare.door import Moment
from truing.course.events import EventKey
from truing.course.standing import Status
from truing.jobs.fit import Answer
from truing.kit.instruments import DialPosition, Question
from truing.machine.mechanisms import Mechanism
from truing.measure.words import InBoth, Words


class CheckIn(BaseModel):
    """Begin a check; `id` is made by the browser, so that sending it twice does no harm."""

    id: UUID
    kind: str
    subject: str = Field("", max_length=80)
    """The part to begin with, as `Subject.text`; "" for the one that calls for attention."""


class SetupIn(BaseModel):
    """State how the round is read. `version` is the one the page shows."""

    version: int
    instrument_id: UUID | None = None
    """None where the check needs no instrument of the kit."""
    setup: dict[str, Any]


class ReadingIn(BaseModel):
    """A reading as typed, or as a needle dragged to a place (`dial`); where the station takes no
    length, the `grade` that was chosen, and a `note`."""

    station: str = Field(max_length=60)
    text: str = Field("", max_length=60)
    grade: str = Field("", max_length=20)
    note: str = Field("", max_length=500)
    unit: Literal["mm", "µm", "in", "thou", "tenths", "div"]
    dial: DialPosition | None = None
    accepted: bool = False
    """The person was asked about this value and kept it."""
    zeroed_on: UUID | None = None
    supersedes: UUID | None = None
    withdrawn: bool = False
    x: str = Field("", max_length=60)
    """Where it was taken or happened, as typed, for a station that asks for a place."""
    y: str = Field("", max_length=60)
    instrument_id: UUID | None = None
    """The instrument it was taken with, where the station takes another than the round's."""
    read_at: Moment


class PreviewIn(BaseModel):
    """What is being typed for a station, not kept yet."""

    station: str = Field(max_length=60)
    text: str = Field("", max_length=60)
    unit: Literal["mm", "µm", "in", "thou", "tenths", "div"]
    dial: DialPosition | None = None
    zeroed_on: UUID | None = None
    instrument_id: UUID | None = None
    supersedes: UUID | None = None


class PreviewOut(BaseModel):
    """How it is understood, and what it would lead to."""

    shown_mm: float
    text: str
    words: Words
    spoken: Words
    needle: DialPosition | None
    question: Question | None
    sentence: Words | None
    verdict: str | None


class NeedleIn(BaseModel):
    """The needle while a move is made: after the tap, or with the bolts nipped or tight."""

    state: Literal["tapped", "nipped", "tight"]
    station: str = Field(max_length=60)
    text: str = Field(max_length=60)


class MoveIn(BaseModel):
    """What was done: one of the moves of an advice by key, or something else, said in words."""

    id: UUID
    next_round_id: UUID
    advice: str = Field("", max_length=40)
    """Id of the advice that the move is of; its prediction holds from here on."""
    key: str | None = None
    said: str = Field("", max_length=500)
    needle: list[NeedleIn] = Field(default_factory=list, max_length=40)
    made_at: Moment


class NoteIn(BaseModel):
    """A remark."""

    id: UUID
    text: str = Field(max_length=2000)
    written_at: Moment


class StandinOut(BaseModel):
    """A reading that the simulated machine gives, as one would type it."""

    text: str
    unit: str
    grade: str
    note: str


class PasteIn(BaseModel):
    """Readings copied from somewhere else: a column, a CSV file, lines of a log."""

    text: str = Field(max_length=200_000)
    unit: Literal["mm", "µm", "in", "thou", "tenths", "div"]


class BatchItem(BaseModel):
    """One reading of several, with its id."""

    id: UUID
    reading: ReadingIn


class BatchAnswer(BaseModel):
    """What became of one reading of a batch: kept, or why not."""

    id: UUID
    kept: bool
    message: str = ""
    expected: str = ""


class LogIn(BaseModel):
    """A log of many points as one reading: lines of figures, a line with names before them."""

    station: str = Field(max_length=60)
    text: str = Field(max_length=8_000_000)
    unit: Literal["mm", "µm", "in", "thou", "tenths", "div"] = "mm"
    supersedes: UUID | None = None
    read_at: Moment


class BatchIn(BaseModel):
    """Several readings, each kept or refused by itself."""

    readings: list[BatchItem] = Field(min_length=1, max_length=500)


class EventIn(BaseModel):
    """Something happened to a machine."""

    id: UUID
    kind: EventKey
    said: str = Field("", max_length=500)
    mechanisms: list[Mechanism] = Field(default_factory=list, max_length=40)
    hours: float | None = Field(None, gt=0, le=10_000, allow_inf_nan=False)
    degrees: float | None = Field(None, gt=0, le=90, allow_inf_nan=False)
    at: Moment


class GateIn(BaseModel):
    """A step that cannot be undone was taken; a photo or a note of what was there comes with it."""

    id: UUID
    gate: str = Field(max_length=20)
    said: str = Field("", max_length=500)
    photo_id: UUID | None = None
    at: Moment


class DecisionIn(BaseModel):
    """A check is left as it is."""

    id: UUID
    kind: str = Field(max_length=40)
    reason: str = Field(max_length=500)
    at: Moment


class AcceptIn(BaseModel):
    """The machine is accepted for work, with what is open."""

    id: UUID
    note: str = Field("", max_length=500)
    at: Moment


class JobThen(BaseModel):
    """A job as it stood on a machine that was accepted."""

    name: str
    answer: Answer


class PhotoIn(BaseModel):
    """What comes with a photo."""

    id: UUID
    at: Moment
    caption: str = Field("", max_length=200)
    round_id: UUID | None = None
    event_id: UUID | None = None


class TakenBackIn(BaseModel):
    """Take a record back, or (false) put it back again."""

    taken_back: bool


class LogValue(BaseModel):
    """One quantity of a round."""

    label: InBoth
    words: Words
    status: Status
