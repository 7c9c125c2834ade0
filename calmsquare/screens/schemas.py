"""What the check screen and the logbook are told; the core's own models wherever there is one."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from pydantic import BaseModel

from calmsquare.faults import Fault
from calmsquare.jobs.schemas import JobCost
from calmsquare.logbook.schemas import BatchAnswer, LogValue, NeedleIn
from truing.contract.check import Layout
from truing.contract.judgement import Expectation, Judgement, Limit
from truing.contract.move import Advice, Prediction
from truing.contract.readings import Reads
from truing.contract.setup import Station
from truing.contract.trends import Trend
from truing.course.guide import Guide
from truing.course.standing import Status
from truing.drawing.figures import Figure
from truing.kit.instruments import DialPosition, Question
from truing.kit.instruments import Instrument as InstrumentSpec
from truing.machine.mechanisms import DescribedPart
from truing.measure.lengths import Unit
from truing.measure.verdict import Verdict
from truing.measure.words import InBoth, Words
from truing.registry import AnyFinding, AnySetup


class KindOut(BaseModel):
    """A kind of check: what it asks, how its set-up form looks, its guide."""

    key: str
    title: str
    question: str
    stage: str
    layout: Layout
    needs_instrument: bool
    cuts: bool
    """Whether something is cut first, for which there are programs."""
    takes: dict[str, list[str]]
    """Way of reading -> types of instrument it can use."""
    guide: Guide


class ReadingOut(BaseModel):
    """A reading as kept."""

    id: UUID
    station: str
    reads: Reads
    text: str
    unit: str
    shown_mm: float | None
    x_mm: float | None
    """The place that the reading brought with it."""
    y_mm: float | None
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
    needle: list[NeedleIn]
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


class Dial(BaseModel):
    """How readings of a round's instrument are taken."""

    units: list[Unit]
    needle: bool
    can_zero: bool
    plus_means: str


class Measured(BaseModel):
    """One judged quantity of a round, to be drawn against its limit and what was predicted."""

    key: str
    label: InBoth
    words: Words
    value: float
    expanded: float
    limit: float


class Brief(BaseModel):
    """What a round's readings come to, in short; the finding itself is asked for."""

    verdict: Verdict | None = None
    """None before every station has been read."""
    sentence: Words | None = None
    problem: str | None = None
    """Why there is no finding yet."""
    ready: bool = False
    complete: bool = False
    """Whether every station has been read as often as planned."""
    limit: Words | None = None
    values: list[Measured]


class RoundOut(BaseModel):
    """One round with its readings, without its finding."""

    id: UUID
    number: int
    version: int
    part: str
    """What the subject is called that it is about, where there are several; else empty."""
    setup: AnySetup | None
    setup_shown: dict[str, Words]
    suggested: dict[str, Any] | None
    """Set-up of the last time on this machine, or one that suits it, as a start for the form."""
    suggested_shown: dict[str, Words]
    instrument_id: UUID | None
    instrument_name: str
    instrument: InstrumentSpec | None
    dial: Dial | None
    stations: list[Station]
    turn: list[str]
    """Every reading of the plan in turn, by its station."""
    passes: int
    next_station: str | None
    expectation: Expectation | None
    readings: list[ReadingOut]
    brief: Brief
    predicted: list[Prediction]
    move: MoveOut | None
    notes: list[NoteOut]
    photos: list[PhotoOut]
    settled_at: datetime | None
    opened_at: datetime
    core_version: str


class DrawingOut(BaseModel):
    """Something to be printed at full size."""

    title: str
    shows: str
    note: str


class FindingOut(BaseModel):
    """A round's finding, whole, with its figures, and advice where it calls for some."""

    round_id: UUID
    finding: AnyFinding | None
    judgement: Judgement | None
    trends: list[Trend]
    problem: str | None
    ready: bool
    """Whether every station has been read: a part of a plan judges nothing."""
    complete: bool
    figures: list[Figure]
    advice_id: str
    """To be sent with the move that was made of it."""
    advice: Advice | None
    drawing: DrawingOut | None
    jobs: list[JobCost]
    """What it comes to on the jobs that lean on it, the worst first."""


class NewsOut(BaseModel):
    """What one reading changed of its round."""

    check_id: UUID
    round_id: UUID
    readings: list[ReadingOut]
    """The reading, and the one that it corrects."""
    after: UUID | None
    """The reading that it comes after, in their order; None for the first."""
    stations: list[Station]
    """Those that are new, or say something else now."""
    order: list[str] | None
    """All of them by key, where there are others than before."""
    turn: list[str] | None
    """Every reading of the plan in turn, where that is another than before."""
    next_station: str | None
    brief: Brief


class BatchOut(BaseModel):
    """What became of each reading of a batch."""

    answers: list[BatchAnswer]
    brief: Brief


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
    limits_for: str
    """The job whose limits they are for now; empty for the machine's own."""
    opened_at: datetime
    closed_at: datetime | None
    first_move: bool
    """Nothing has been moved on this machine yet: what is read now is kept as found."""
    detour: Words | None
    """What it costs to read this before what it rests on."""
    goes_by: list[DescribedPart]
    """What of the machine's description its advice reckons with."""
    rounds: list[RoundOut]


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
    text: Words
    status: Status | None
    """Of a sitting; None for a record."""
    rounds: int
    taken_back: bool
    photos: list[PhotoOut]


class LogPage(BaseModel):
    """A page of the logbook, newest first; `next` fetches the one after it."""

    entries: list[LogItem]
    faults: list[Fault]
    """Lines that cannot be shown."""
    next: str | None
