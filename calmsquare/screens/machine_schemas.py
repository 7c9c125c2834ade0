"""What the workshop and machine screens are sent."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any, Literal
from uuid import UUID

from pydantic import BaseModel

from calmsquare.faults import Fault
from calmsquare.logbook.schemas import JobThen, LogValue
from calmsquare.problems import FieldError
from calmsquare.screens.schemas import LogLine
from truing.contract.judgement import Limit
from truing.course import StageKey
from truing.course.events import EventKind, PartChoice
from truing.course.gates import Gate, OpenItem, Proof
from truing.course.guide import Guide
from truing.course.standing import Decision, Status
from truing.course.step import Step
from truing.jobs.fit import Answer
from truing.machine import Form
from truing.machine import Machine as MachineSpec
from truing.machine.ghost import Ghost
from truing.measure.words import Words


class PartStatus(BaseModel):
    """How a check stands for one of several parts."""

    title: str
    status: Status
    needed: bool


class CheckStatus(BaseModel):
    """How one kind of check stands on a machine."""

    kind: str
    title: str
    stage: StageKey
    question: str
    minutes: int
    status: Status
    why: Words | None
    """What is out, what made it stale, or that it is due again."""
    values: list[LogValue]
    worst: LogValue | None
    """The figure that comes nearest to its limit."""
    withheld: bool
    """Not known while the head stands tilted on purpose."""
    asked: bool
    """False for one that is read only when another asks for it, and that nobody has asked for."""
    measured_at: datetime | None
    due: date | None
    is_due: bool
    left: Decision | None
    """The decision to leave it as it is, while that stands."""
    lapsed: Words | None
    parts: list[PartStatus]
    """How it stands for each of the parts it is made for; empty where there is only one."""
    detour: Words | None
    """What it costs to read this before something that it rests on; told on the machine's own
    screens."""
    open_check: UUID | None


class StageStatus(BaseModel):
    """A knot of the plumb line: its worst check, or None while none can be read there."""

    key: StageKey
    title: str
    settles: str
    status: Status | None
    left: bool
    """Something here was left as it is, by decision."""


class NextStep(Step):
    """What to do next, with the check that is under way for it."""

    status: Status
    open_check: UUID | None


class AsFound(BaseModel):
    """Whether there is a before: what was read before the first move."""

    state: Literal["offered", "kept", "missed"]
    text: Words


class AcceptanceOut(BaseModel):
    """The machine as accepted, with what was open then."""

    id: UUID
    at: datetime
    by: str
    note: str
    open_items: list[OpenItem]
    jobs: list[JobThen]
    still: bool
    """False once something has been touched since."""


class JobHere(BaseModel):
    """A job on this machine: whether it is good enough for it."""

    id: UUID
    name: str
    answer: Answer
    sentence: Words


class LimitsForJob(BaseModel):
    """The limits for a job that the machine is judged by for now."""

    job_id: UUID
    name: str
    limits: dict[str, list[Limit]]
    """By kind of check, those that the job asks for."""


class MachineBrief(BaseModel):
    """A machine among others: how it stands, and what is next."""

    id: UUID
    workshop_id: UUID
    name: str
    ghost: Ghost
    status: Status | None
    """Of the check that comes next, or of all of them; None where nothing can be read."""
    told: Words
    """Why that check comes next, or how the machine stands when nothing calls for anything."""
    next_step: NextStep | None
    evening: UUID | None
    """The evening under way."""
    jobs: list[JobHere]
    """Those it may be used for, the ones that it is good enough for first."""
    archived: bool
    can_write: bool


class MachineOut(MachineBrief):
    """A machine as its own screens show it."""

    checks: list[CheckStatus]
    spec: MachineSpec
    spec_shown: dict[str, Words]
    letters: str
    """What it calls its directions; empty when nobody said."""
    suits: list[str]
    """Every kind of check it has the parts for, built or not."""
    stages: list[StageStatus]
    as_found: AsFound
    acceptance: AcceptanceOut | None
    proof: Proof | None
    """The test cut that acceptance hangs on."""
    gates: list[Gate]
    parts: list[PartChoice]
    events: list[EventKind]
    """What can happen to it."""
    recent: list[LogLine]
    """The newest lines of its logbook; only with one machine."""
    faults: list[Fault]
    """Lines of its logbook and checks that cannot be shown."""
    limits: dict[str, list[Limit]]
    """By kind of check: the owner's own, or usual."""
    job_limits: LimitsForJob | None
    """What holds over those for now."""
    intervals: dict[str, int]
    """Days between looks, by kind: the owner's own, or usual."""
    has_standin: bool


class ArchivedMachine(BaseModel):
    """A machine that was put away."""

    id: UUID
    name: str


class WorkshopOut(BaseModel):
    """A workshop with its machines."""

    id: UUID
    name: str
    time_zone: str
    is_demo: bool
    role: Literal["owner", "maker", "viewer"]
    machines: list[MachineBrief]
    archived: list[ArchivedMachine]
    faults: list[Fault]
    """Machines that cannot be shown."""


class MemberOut(BaseModel):
    """A member."""

    id: int
    name: str
    email: str
    role: Literal["owner", "maker", "viewer"]


class StartingPoint(BaseModel):
    """A machine of a form, to be corrected."""

    form: Form
    title: str
    spec: MachineSpec
    spec_shown: dict[str, Words]
    ghost: Ghost


class MachineForms(BaseModel):
    """Starting points by form, and the schema of the form that corrects them."""

    starts: list[StartingPoint]
    form_schema: dict[str, Any]


class Drawing(BaseModel):
    """A machine as it is being described: its drawing, or what is wrong with the figures."""

    ghost: Ghost | None
    errors: list[FieldError]


class CourseKindOut(BaseModel):
    """A kind of check in the order of the work, with its guide."""

    key: str
    title: str
    question: str
    stage: StageKey
    built: bool
    when_needed: bool
    guide: Guide
    ways: dict[str, str]
    """What each way of reading is called."""


class CourseOut(BaseModel):
    """The order of the work."""

    kinds: list[CourseKindOut]
