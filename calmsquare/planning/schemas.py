"""What the API says about plans, evenings and the calendar."""

from __future__ import annotations

from datetime import date, datetime
from uuid import UUID

from pydantic import BaseModel, Field

from truing.course.plan import Aim, AimKey, Plan
from truing.course.standing import Status
from truing.jobs.fit import Answer
from truing.measure.words import Words
from truing.symptoms import Search, SymptomFigure


class PlanIn(BaseModel):
    """The time there is, what it is for, and what to leave out."""

    minutes: int = Field(ge=5, le=1440)
    aim: AimKey = "true"
    job: UUID | None = None
    """The job that it is for, where the aim is one."""
    symptom: str = Field("", max_length=20)
    """What it looks for the cause of, where that is the aim."""
    skip: list[str] = Field(default_factory=list, max_length=40)


class PlanOut(BaseModel):
    """A plan, not started yet, and the aims there are."""

    plan: Plan
    aims: list[Aim]
    jobs: list[JobAim]
    """Jobs that it can be for."""


class JobAim(BaseModel):
    """A job that an evening can be for."""

    id: UUID
    name: str
    answer: Answer


class SymptomOut(BaseModel):
    """What somebody can come with, drawn."""

    key: str
    title: str
    sees: str
    drawing: SymptomFigure


class SearchOut(BaseModel):
    """How far the search for what is behind a symptom has come on a machine."""

    machine_id: UUID
    machine_name: str
    workshop_id: UUID
    can_write: bool
    search: Search
    drawing: SymptomFigure
    open_checks: dict[str, UUID]
    detours: dict[str, Words]
    """Kind -> what to mind before it is begun, where something that it rests on is amiss."""


class EveningIn(PlanIn):
    """Start a plan; `id` is made by the browser."""

    id: UUID


class ResumeIn(BaseModel):
    """Go on another day, with this much time."""

    minutes: int = Field(ge=5, le=1440)


class TickIn(BaseModel):
    """Something was laid out or done, by its own words; or not after all."""

    text: str = Field(max_length=300)
    done: bool


class SkipIn(BaseModel):
    """Leave a check out of tonight, or take it in again."""

    kind: str = Field(max_length=40)
    skip: bool


class DoneOut(BaseModel):
    """A check that was read tonight, and how it stands."""

    kind: str
    title: str
    status: Status
    at: datetime


class EveningOut(BaseModel):
    """An evening under way or over."""

    id: UUID
    machine_id: UUID
    machine_name: str
    workshop_id: UUID
    aim: Aim
    minutes: int
    minutes_left: int
    running: bool
    ended: bool
    plan: Plan
    """What is still to be done, in the time that is left."""
    open_checks: dict[str, UUID]
    done: list[DoneOut]
    ticked: list[str]
    changes: list[Words]
    """What has become of the order since it was last looked at."""
    started_at: datetime
    can_write: bool


class CalendarEntry(BaseModel):
    """A check that falls due, or that an event has made stale."""

    machine_id: UUID
    machine: str
    kind: str
    title: str
    day: date
    reason: str


class CalendarOut(BaseModel):
    """The dates to look again, and the address under which a calendar can read them."""

    path: str | None
    """None until somebody asks for an address."""
    entries: list[CalendarEntry]
