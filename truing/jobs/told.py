"""A fit as it is shown: numbers for the bars, words for the rest."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from datetime import datetime

from pydantic import BaseModel

from truing.course import course_kind
from truing.jobs.first import Order, Remedy
from truing.jobs.fit import Answer, DemandFit, FeatureFit, JobFit, leaves
from truing.jobs.ground import Ground, Source, State
from truing.jobs.limits import JobLimit, JobLimits
from truing.jobs.words import amount, share_words, title_of, tolerance_words
from truing.measure.words import Words, capital, join, plain, say, show

Decides = Callable[[JobLimit], list[str] | None]
"""Names of the instruments that decide a limit; None where nobody can say."""


class ToldShare(BaseModel):
    """What some errors take of a tolerance."""

    text: Words
    of_tolerance: float
    """As a share of the tolerance."""
    leaves: float
    """At most so much of the tolerance once its checks are within their limits."""
    state: State
    kind: str
    kind_title: str
    at: datetime | None
    weak: bool


class ToldDemand(BaseModel):
    """A demand with its bar."""

    key: str
    title: str
    answer: Answer
    tolerance: Words
    most: Words
    likely: Words
    of_tolerance: float
    likely_of_tolerance: float
    shares: list[ToldShare]


class ToldFeature(BaseModel):
    """A feature as it stands on a machine."""

    kind: str
    name: str
    answer: Answer
    outside: list[str]
    demands: list[ToldDemand]


class ToldRemedy(BaseModel):
    """One step of what to fix first."""

    kind: str
    title: str
    about: str
    moves: bool
    minutes: int
    text: Words
    again: list[str]
    """Checks to be read again after it."""


class ToldFirst(BaseModel):
    """What to fix first, and what limits the job even then."""

    remedies: list[ToldRemedy]
    minutes: int
    still: list[Words]


class ToldLimit(BaseModel):
    """What one check has to come to for the job."""

    kind: str
    kind_title: str
    tolerance: str
    title: str
    value: float
    words: Words
    usual: Words
    weight: float
    is_met: bool
    text: Words
    decided_by: list[str]
    """Instruments of the kit that can decide it."""
    too_fine: bool
    """Nothing in the kit decides it."""


class ToldLimits(BaseModel):
    """The limits for a job, and what stands against them."""

    limits: list[ToldLimit]
    fixed: list[Words]
    beyond: list[Words]


def told_feature(found: FeatureFit, ground: Ground) -> ToldFeature:
    """A feature as it is shown."""
    return ToldFeature(
        kind=found.feature.kind,
        name=found.feature.called,
        answer=found.answer,
        outside=list(found.outside),
        demands=[_demand(d, ground) for d in found.demands],
    )


def _demand(d: DemandFit, ground: Ground) -> ToldDemand:
    left = leaves(d, ground)
    tolerance = d.demand.tolerance
    return ToldDemand(
        key=d.demand.key,
        title=d.demand.title,
        answer=d.answer,
        tolerance=tolerance_words(d.demand),
        most=amount(d.demand, d.most),
        likely=amount(d.demand, d.likely),
        of_tolerance=d.most / tolerance,
        likely_of_tolerance=d.likely / tolerance,
        shares=[
            ToldShare(
                text=share_words(d.demand, s.share),
                of_tolerance=s.share.most / tolerance,
                leaves=after / tolerance,
                state=s.state,
                kind=(doubted := max(s.sources, key=_doubt)).kind,
                kind_title=course_kind(doubted.kind).title,
                at=doubted.at,
                weak=any(o.weak for o in s.sources),
            )
            for s, after in zip(d.shares, left, strict=True)
            # what takes nothing is told only while it is not known
            if s.share.most > 1e-3 * tolerance or not s.known
        ],
    )


def _doubt(source: Source) -> tuple[bool, float]:
    """The source that a share is told by: one that is not known before one that is."""
    return not source.known, source.span.most / source.limit


def told_first(found: JobFit, order: Order) -> ToldFirst:
    """What to fix first, as it is shown."""
    return ToldFirst(
        remedies=[_remedy(found, r) for r in order.remedies],
        minutes=sum(r.minutes for r in order.remedies),
        still=[
            say(
                "{name}: {most} of {tol} even then.",
                name=capital(title_of(found.features[i], d)),
                most=amount(d.demand, d.most),
                tol=tolerance_words(d.demand),
            )
            for i, d in order.still
        ],
    )


def _remedy(found: JobFit, r: Remedy) -> ToldRemedy:
    title = course_kind(r.kind).title
    about = ", ".join(s.title for s in r.sources)
    name = title_of(found.features[r.feature], r.demand)
    parts: dict[str, Words | str | float] = {
        "name": name,
        "was": amount(r.demand.demand, r.demand.most),
        "now": amount(r.after.demand, r.after.most),
        "about": about,
    }
    if r.moves:
        text = say("{name} from {was} to {now} at most, with {about} within limits.", **parts)
    elif any(s.state == "stale" for s in r.sources):
        text = say("What was read of {about} does not hold any more; {name} leans on it.", **parts)
    else:
        text = say("Nothing is known of {about}; {name} leans on it.", **parts)
    return ToldRemedy(
        kind=r.kind,
        title=title,
        about=about,
        moves=r.moves,
        minutes=r.minutes,
        text=Words(metric=capital(text.metric), inch=capital(text.inch)),
        again=[course_kind(k).title for k in r.again],
    )


def told_limits(
    found: JobFit, limits: JobLimits, decides: Decides, weights: Mapping[tuple[str, str], float]
) -> ToldLimits:
    """Limits for a job, as they are shown."""
    return ToldLimits(
        limits=[
            _limit(found, x, decides, weights.get((x.kind, x.tolerance), 1.0))
            for x in limits.limits
        ],
        fixed=[
            say(
                "{what} stands at {v}"
                + ("." if s.known else ", its usual limit: it is not known."),
                what=capital(s.title),
                v=show(max(s.span.most, 0.0 if s.known else s.limit), 0.001, s.measure),
            )
            for s in limits.fixed
        ],
        beyond=[
            say(
                "{name}: what no adjustment of this machine mends takes {most} of {tol} by itself.",
                name=capital(f"{found.features[i].feature.called}: {d.title}"),
                most=amount(d, most),
                tol=tolerance_words(d),
            )
            for i, d, most in limits.beyond
        ],
    )


def _limit(found: JobFit, x: JobLimit, decides: Decides, weight: float) -> ToldLimit:
    measure = x.sources[0].measure
    words = show(x.value, x.value / 10 or 1e-3, measure)
    able = decides(x) if x.value > 0 else []
    if x.filled:
        i, demand = x.filled
        text = plain(f"As far as {found.features[i].feature.called}: {demand.title} allows.")
    elif x.is_met:
        text = plain("It is better than the job needs, and gives the rest away.")
    else:
        text = plain("The job needs no closer look.")
    if able is not None and not able:
        text = join([text, plain("Nothing in the kit decides that little.")])
    return ToldLimit(
        kind=x.kind,
        kind_title=course_kind(x.kind).title,
        tolerance=x.tolerance,
        title=", ".join(s.title for s in x.sources),
        value=x.value,
        words=words,
        usual=show(x.usual, x.usual / 10, measure),
        weight=weight,
        is_met=x.is_met,
        text=text,
        decided_by=able or [],
        too_fine=able is not None and not able,
    )
