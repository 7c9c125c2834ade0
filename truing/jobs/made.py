"""A job that was made: what was foretold of it then, and what came out."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from truing.course import course_kind
from truing.jobs.contribute import Demand
from truing.jobs.features import Job
from truing.jobs.fit import Answer, DemandFit, JobFit
from truing.jobs.ground import State
from truing.jobs.words import amount, share_words, title_of
from truing.measure.words import Words, capital, join, plain, say


class ForetoldShare(BaseModel):
    """One share, as it was told."""

    text: Words
    most: float
    state: State
    kind: str


class Foretold(BaseModel):
    """One demand as it was foretold; figures in mm, or as a share of a tooth's chip."""

    feature: int
    key: str
    title: str
    """With its feature's name."""
    tolerance: float
    likely: float
    most: float
    answer: Answer
    load: bool = False
    shares: list[ForetoldShare]


class Made(BaseModel):
    """A job as it was made on a machine, with all that was foretold then."""

    job: Job
    machine: str
    answer: Answer
    foretold: list[Foretold]


class CameOut(BaseModel):
    """What was measured on the part for one demand, as an amount off."""

    model_config = ConfigDict(extra="forbid")

    feature: int = Field(ge=0)
    key: str = Field(max_length=20)
    off: float = Field(ge=0, le=1000, allow_inf_nan=False)


class Outcome(BaseModel):
    """What came out, demand by demand."""

    model_config = ConfigDict(extra="forbid")

    came_out: list[CameOut] = Field(default_factory=list, max_length=800)
    note: str = Field("", max_length=500)


Compares = Literal["as_foretold", "better", "worse"]


class Compared(BaseModel):
    """What came out against what was foretold."""

    feature: int
    key: str
    title: str
    off: Words
    foretold: Words
    within: bool
    compares: Compares
    text: Words
    look_at: list[str]
    """Kinds of check that a part worse than foretold points at."""


def made(found: JobFit, machine: str) -> Made:
    """A job as it is made now."""
    return Made(
        job=found.job,
        machine=machine,
        answer=found.answer,
        foretold=[_foretold(found, i, d) for i, d in found.asked],
    )


def _foretold(found: JobFit, i: int, d: DemandFit) -> Foretold:
    return Foretold(
        feature=i,
        key=d.demand.key,
        title=title_of(found.features[i], d),
        tolerance=d.demand.tolerance,
        likely=d.likely,
        most=d.most,
        answer=d.answer,
        load=d.demand.load,
        shares=[
            ForetoldShare(
                text=share_words(d.demand, s.share),
                most=s.share.most,
                state=s.state,
                kind=max(s.sources, key=lambda o: not o.known).kind,
            )
            for s in d.shares
        ],
    )


def compare(job: Made, outcome: Outcome) -> list[Compared]:
    """What came out against what was foretold. A part that is worse than the worst that was
    foretold points at what was not measured, or else at what is not what it was read to be."""
    told = {(f.feature, f.key): f for f in job.foretold}
    return [
        _compared(told[c.feature, c.key], c) for c in outcome.came_out if (c.feature, c.key) in told
    ]


def _compared(told: Foretold, came: CameOut) -> Compared:
    demand = Demand(told.key, told.title, told.tolerance, lambda at: [], told.load)
    off, most = amount(demand, came.off), amount(demand, told.most)
    within = came.off <= told.tolerance
    look_at: list[str] = []
    compares: Compares = "as_foretold"
    if came.off > told.most:
        compares = "worse"
        unknown = [s.kind for s in told.shares if s.state in ("not_measured", "stale")]
        look_at = list(dict.fromkeys(unknown or [s.kind for s in told.shares]))
        names = " or ".join(f"“{course_kind(k).title}”" for k in look_at[:3])
        said = (
            "Worse than foretold: {names} was not known then, and is worse than its usual limit."
            if unknown
            else "Worse than all that was read explains. Something has moved since, or was read "
            "wrongly: begin with {names}."
        )
        text: Words = say(said, names=names)
    elif came.off < told.likely / 2:
        compares = "better"
        text = plain("Better than was likely: errors took each other’s part.")
    else:
        text = plain("As foretold.")
    if not within:
        text = join([text, plain("It is beyond its tolerance.")])
    return Compared(
        feature=told.feature,
        key=told.key,
        title=capital(told.title),
        off=off,
        foretold=most,
        within=within,
        compares=compares,
        text=text,
        look_at=look_at,
    )
