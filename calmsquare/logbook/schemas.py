"""What the API says about checks; the core's own models wherever there is one."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from pydantic import BaseModel, Field

from truing.contract.check import Layout
from truing.contract.judgement import Expectation, Judgement, Limit
from truing.contract.move import Advice, Prediction
from truing.contract.readings import Reads
from truing.contract.setup import Station
from truing.contract.trends import Trend
from truing.course.events import EventKey
from truing.course.guide import Guide
from truing.course.standing import Status
from truing.kit.instruments import DialPosition, Question
from truing.kit.instruments import Instrument as InstrumentSpec
from truing.machine.mechanisms import Mechanism
from truing.measure.words import Words
from truing.registry import AnyFinding, AnySetup


class KindOut(BaseModel):
    """A kind of check: what it asks, how its set-up form looks, its guide."""

    key: str
    title: str
    question: str
    stage: str
    layout: Layout
    needs_instrument: bool
    takes: dict[str, list[str]]
    """Way of reading -> types of instrument it can use."""
    guide: Guide


class Outcome(BaseModel):
    """What a round's readings come to; `problem` says why there is no finding yet."""

    finding: AnyFinding | None = None
    judgement: Judgement | None = None
    advice: Advice | None = None
    trends: list[Trend] = Field(default_factory=list)
    problem: str | None = None
    ready: bool = False
    """Every station has been read: before that a verdict is only a look ahead."""
    complete: bool = False
    """Whether every station has been read as often as planned."""


class ReadingOut(BaseModel):
    """A reading as kept."""

    id: UUID
    station: str
    reads: Reads
    text: str
    unit: str
    shown_mm: float | None
    grade: str
    note: str
    words: Words
    needle: DialPosition | None
    question: Question | None
    zeroed_on: UUID | None
    supersedes: UUID | None
    live: bool
    read_at: datetime
    by: str


class MoveOut(BaseModel):
    """What was done after a round."""

    id: UUID
    said: Words
    note: str
    nipped: str
    tight: str
    made_at: datetime
    by: str
    taken_back: bool


class NoteOut(BaseModel):
    """A remark beside a round."""

    id: UUID
    text: str
    written_at: datetime
    by: str
    taken_back: bool


class PhotoOut(BaseModel):
    """A photo; its picture is fetched by its id, large or small."""

    id: UUID
    machine_id: UUID
    caption: str
    width: int
    height: int
    at: datetime
    by: str
    taken_back: bool


class RoundOut(BaseModel):
    """One round, whole."""

    id: UUID
    number: int
    version: int
    part: str
    """What the part is called that it is about, where there are several; else empty."""
    setup: AnySetup | None
    setup_shown: dict[str, Words]
    suggested: dict[str, Any] | None
    """Set-up of the last time on this machine, or one that suits it, as a start for the form."""
    suggested_shown: dict[str, Words]
    instrument_id: UUID | None
    instrument_name: str
    instrument: InstrumentSpec | None
    stations: list[Station]
    passes: int
    next_station: str | None
    expectation: Expectation | None
    readings: list[ReadingOut]
    outcome: Outcome
    predicted: list[Prediction]
    move: MoveOut | None
    notes: list[NoteOut]
    photos: list[PhotoOut]
    drawing: bool
    """There is something to be printed at full size."""
    settled_at: datetime | None
    opened_at: datetime
    core_version: str


class CheckOut(BaseModel):
    """A check with all its rounds: everything the check screen draws."""

    id: UUID
    kind: str
    machine_id: UUID
    machine_name: str
    workshop_id: UUID
    can_write: bool
    has_standin: bool
    powered: bool
    """It has to move by itself while it is read, so that it cannot be isolated."""
    setup_schema: dict[str, Any]
    """JSON schema of the set-up form, for what this machine has."""
    cost: Words | None
    """What being out at the limit would do to a part on this machine."""
    letters: str
    """What this machine calls its directions; empty when nobody said."""
    cautions: list[str]
    """What to mind on this machine before hands go in."""
    limits: list[Limit]
    opened_at: datetime
    closed_at: datetime | None
    first_move: bool
    """Nothing has been moved on this machine yet: what is read now is kept as found."""
    detour: Words | None
    """What it costs to read this before what it rests on."""
    rounds: list[RoundOut]


class CheckIn(BaseModel):
    """Begin a check; `id` is made by the browser, so that sending it twice does no harm."""

    id: UUID
    kind: str


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
    read_at: datetime


class PreviewIn(BaseModel):
    """What is being typed for a station, not kept yet."""

    station: str = Field(max_length=60)
    text: str = Field("", max_length=60)
    unit: Literal["mm", "µm", "in", "thou", "tenths", "div"]
    dial: DialPosition | None = None
    zeroed_on: UUID | None = None


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


class MoveIn(BaseModel):
    """What was done: one of the advised moves by key, or something else, said in words."""

    id: UUID
    next_round_id: UUID
    key: str | None = None
    said: str = Field("", max_length=500)
    station: str | None = None
    nipped: str = Field("", max_length=60)
    tight: str = Field("", max_length=60)
    made_at: datetime


class NoteIn(BaseModel):
    """A remark."""

    id: UUID
    text: str = Field(max_length=2000)
    written_at: datetime


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


class BatchIn(BaseModel):
    """Several readings that are kept together, or not at all."""

    readings: list[BatchItem] = Field(min_length=1, max_length=500)


class EventIn(BaseModel):
    """Something happened to a machine."""

    id: UUID
    kind: EventKey
    said: str = Field("", max_length=500)
    mechanisms: list[Mechanism] = Field(default_factory=list, max_length=40)
    hours: float | None = Field(None, gt=0, le=10_000, allow_inf_nan=False)
    at: datetime


class GateIn(BaseModel):
    """A step that cannot be undone was taken; a photo or a note of what was there comes with it."""

    id: UUID
    gate: str = Field(max_length=20)
    said: str = Field("", max_length=500)
    photo_id: UUID | None = None
    at: datetime


class DecisionIn(BaseModel):
    """A check is left as it is."""

    id: UUID
    kind: str = Field(max_length=40)
    reason: str = Field(max_length=500)
    at: datetime


class AcceptIn(BaseModel):
    """The machine is accepted for work, with what is open."""

    id: UUID
    note: str = Field("", max_length=500)
    at: datetime


class PhotoIn(BaseModel):
    """What comes with a photo."""

    id: UUID
    at: datetime
    caption: str = Field("", max_length=200)
    round_id: UUID | None = None
    event_id: UUID | None = None


class TakenBackIn(BaseModel):
    """Take a record back, or (false) put it back again."""

    taken_back: bool


class LogRound(BaseModel):
    """One round in the logbook."""

    id: UUID
    number: int
    opened_at: datetime
    status: Status
    sentence: Words | None
    values: list[LogValue]
    move: MoveOut | None
    notes: list[NoteOut]
    photos: list[PhotoOut]
    by: str
    core_version: str


class LogValue(BaseModel):
    """One quantity of a round."""

    label: str
    words: Words
    status: Status


class LogEntry(BaseModel):
    """One sitting: a check with its rounds, before and after."""

    id: UUID
    machine_id: UUID
    machine_name: str
    kind: str
    title: str
    opened_at: datetime
    closed_at: datetime | None
    status: Status
    before: list[LogValue]
    after: list[LogValue]
    rounds: list[LogRound]


class LogRecord(BaseModel):
    """An event, a decision, an acceptance, or a photo that stands by itself."""

    id: UUID
    type: Literal["events", "decisions", "acceptances", "photos"]
    machine_id: UUID
    machine_name: str
    at: datetime
    title: str
    text: str
    lines: list[Words]
    """Figures or open items of that moment."""
    photos: list[PhotoOut]
    by: str
    taken_back: bool


class LogItem(BaseModel):
    """One line of the logbook: a sitting, or a record."""

    at: datetime
    sitting: LogEntry | None = None
    record: LogRecord | None = None


class LogLine(BaseModel):
    """The newest of a machine's logbook, one line each."""

    id: UUID
    at: datetime
    title: str
    text: str
    status: Status | None
    """Of a sitting; None for a record."""
    rounds: int
    taken_back: bool
    photos: list[PhotoOut]


class LogPage(BaseModel):
    """A page of the logbook, newest first; `next` fetches the one after it."""

    entries: list[LogItem]
    next: str | None


LogRound.model_rebuild()
