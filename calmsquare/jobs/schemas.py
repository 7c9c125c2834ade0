"""What the API says about jobs."""

from __future__ import annotations

from datetime import datetime
from typing import Any
from uuid import UUID

from pydantic import BaseModel, Field

from calmsquare.faults import Fault
from truing.jobs.features import Job as JobSpec
from truing.jobs.fit import Answer
from truing.jobs.made import Compared
from truing.jobs.told import ToldFeature, ToldFirst, ToldLimits
from truing.measure.words import Words


class JobIn(BaseModel):
    """A job as it is typed, and the machines it is meant for; none for any."""

    spec: dict[str, Any]
    machines: list[UUID] = Field(default_factory=list, max_length=100)


class JobChange(JobIn):
    """Changes to one, and what the page began with: what others have changed since stays."""

    was: JobIn


class NewJobIn(JobIn):
    """A new one; `id` is made by the browser."""

    id: UUID


class JobPreviewIn(BaseModel):
    """A job while it is typed, and the machines it is meant for; none for any."""

    spec: dict[str, Any]
    machines: list[UUID] = Field(default_factory=list, max_length=100)


class JobAt(BaseModel):
    """How a job stands on one machine."""

    machine_id: UUID
    machine: str
    answer: Answer
    sentence: Words
    limits_on: bool
    """The machine is judged by the limits for this job."""


class JobLine(BaseModel):
    """A job in a list."""

    id: UUID
    name: str
    material: str
    features: int
    at: list[JobAt]
    """On every machine that it is meant for, best first."""
    made: int
    """How often it was made."""
    archived: bool


class JobsOut(BaseModel):
    """The jobs of a workshop."""

    workshop_id: UUID
    jobs: list[JobLine]
    archived: list[JobLine]
    machines: list[MachineName]
    can_write: bool
    faults: list[Fault]


class MachineName(BaseModel):
    """A machine to choose."""

    id: UUID
    name: str


class FeatureForm(BaseModel):
    """A kind of feature, and its form."""

    kind: str
    title: str
    says: str
    form_schema: dict[str, Any]


class JobForms(BaseModel):
    """What a job is described with, and jobs to begin with."""

    features: list[FeatureForm]
    starts: list[JobSpec]
    most_features: int


class JobFitOut(BaseModel):
    """A job on one machine, whole."""

    machine_id: UUID
    answer: Answer
    sentence: Words
    features: list[ToldFeature]
    first: ToldFirst
    kinds: list[str]
    """The checks that it leans on."""


class MakingOut(BaseModel):
    """A job that was made."""

    id: UUID
    at: datetime
    by: str
    machine: str
    answer: Answer
    """As it was foretold."""
    demands: list[ForetoldOut]
    compared: list[Compared]
    note: str
    mark: str
    """Of what came out, to be sent along with what comes out."""
    taken_back: bool


class ForetoldOut(BaseModel):
    """A demand to be measured on the part."""

    feature: int
    key: str
    title: str
    tolerance: Words
    most: Words
    load: bool


class JobOut(JobLine):
    """One job, whole, on one of its machines."""

    workshop_id: UUID
    spec: JobSpec
    spec_shown: dict[str, Words]
    on: list[UUID]
    """The machines it is meant for; none for any."""
    machines: list[MachineName]
    fit: JobFitOut | None
    """On the machine that was asked for, or the one it fits best; None without a machine."""
    makings: list[MakingOut]
    can_write: bool


class CopyIn(BaseModel):
    """A copy; `id` is made by the browser."""

    id: UUID


class WeightIn(BaseModel):
    """How much room one limit gets beside the others."""

    kind: str = Field(max_length=40)
    tolerance: str = Field(max_length=40)
    weight: float = Field(ge=0.05, le=20, allow_inf_nan=False)


class JobLimitsIn(BaseModel):
    """The machine, and weights other than one."""

    machine_id: UUID
    weights: list[WeightIn] = Field(default_factory=list, max_length=40)


class JobLimitsOut(ToldLimits):
    """The limits for a job on a machine."""

    machine_id: UUID
    on: bool
    """The machine is judged by them now."""
    fits: bool
    """Inside them the job fits."""


class MakingIn(BaseModel):
    """It is being made; `id` is made by the browser."""

    id: UUID
    machine_id: UUID


class MeasuredIn(BaseModel):
    """What was measured for one demand, as typed."""

    feature: int = Field(ge=0, le=1000)
    key: str = Field(max_length=20)
    text: str = Field(max_length=40)


class CameOutIn(BaseModel):
    """What came out."""

    measured: list[MeasuredIn] = Field(default_factory=list, max_length=800)
    note: str = Field("", max_length=500)
    was: str = Field(max_length=16)
    """The mark of what stood there when it was asked for."""


class JobCost(BaseModel):
    """What a check leaves a job to come out as."""

    id: UUID
    name: str
    answer: Answer
    """Of the whole job."""
    text: Words
