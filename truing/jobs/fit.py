"""Whether a machine is good enough for a job: each demand against its tolerance, the largest share
first."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

from truing.jobs.contribute import Demand, Share, demands, outside
from truing.jobs.features import AnyFeature, Job
from truing.jobs.ground import RANK, Ground, Source, Span, State

Answer = Literal["fits", "no", "close", "unknown", "outside"]
"""Fits; does not fit; too close to call; not known; the machine cannot make it at all."""
ORDER: dict[Answer, int] = {"fits": 0, "close": 1, "unknown": 2, "no": 3, "outside": 4}


@dataclass(frozen=True, slots=True)
class ShareFit:
    """One share with the state of what it rests on."""

    share: Share
    state: State
    sources: tuple[Source, ...]

    @property
    def known(self) -> bool:
        """Whether all that it rests on was read, and holds."""
        return RANK[self.state] <= RANK["left"]


@dataclass(frozen=True, slots=True)
class DemandFit:
    """A demand against its tolerance: between `least` and `most` in the worst case."""

    demand: Demand
    shares: tuple[ShareFit, ...]
    least: float
    """Of what is known alone."""
    most: float
    """With the limits of what is not known."""
    likely: float
    """Root of the squares of the shares, which seldom all add up."""
    answer: Answer

    @property
    def ratio(self) -> float:
        """The worst case as a multiple of the tolerance."""
        return self.most / self.demand.tolerance


@dataclass(frozen=True, slots=True)
class FeatureFit:
    """A feature: the answer is that of its worst demand."""

    feature: AnyFeature
    outside: tuple[str, ...]
    demands: tuple[DemandFit, ...]

    @property
    def answer(self) -> Answer:
        """Of its worst demand."""
        if self.outside:
            return "outside"
        return max((d.answer for d in self.demands), key=ORDER.__getitem__, default="fits")


@dataclass(frozen=True)
class JobFit:
    """A job on one machine."""

    job: Job
    ground: Ground
    features: tuple[FeatureFit, ...]

    @cached_property
    def answer(self) -> Answer:
        """Of its worst feature."""
        return max((f.answer for f in self.features), key=ORDER.__getitem__, default="unknown")

    @cached_property
    def asked(self) -> list[tuple[int, DemandFit]]:
        """Every demand that the machine can be asked for, with the place of its feature."""
        return [(i, d) for i, f in enumerate(self.features) if not f.outside for d in f.demands]

    @cached_property
    def worst(self) -> tuple[int, DemandFit] | None:
        """What limits the job: of those that answer worst, the one furthest over its tolerance."""
        return max(self.asked, key=lambda d: (ORDER[d[1].answer], d[1].ratio), default=None)

    @cached_property
    def kinds(self) -> list[str]:
        """The kinds of check that the job leans on."""
        return list(
            dict.fromkeys(s.kind for _, d in self.asked for h in d.shares for s in h.sources)
        )


def fit(job: Job, ground: Ground) -> JobFit:
    """Every feature of a job on a machine."""
    return JobFit(job, ground, tuple(_feature(f, ground) for f in job.features))


def _feature(f: AnyFeature, ground: Ground) -> FeatureFit:
    missing = outside(f, ground.machine)
    if missing:
        return FeatureFit(f, tuple(missing), ())
    return FeatureFit(f, (), tuple(weigh(d, ground) for d in demands(f, ground)))


def weigh(demand: Demand, ground: Ground) -> DemandFit:
    """One demand with its shares."""

    def at(name: str) -> Span | None:
        source = ground.source(name)
        return source.span if source else None

    shares = []
    most = least = squares = 0.0
    known = True
    for share in demand.shares(at):
        sources = tuple(s for n in share.sources if (s := ground.source(n)) is not None)
        state: State = max((s.state for s in sources), key=RANK.__getitem__)
        fitted = ShareFit(share, state, sources)
        shares.append(fitted)
        most += share.most
        squares += (share.most if state == "not_measured" else share.value) ** 2
        if fitted.known:
            least += share.least
        else:
            known = False
    shares.sort(key=_most, reverse=True)
    return DemandFit(
        demand,
        tuple(shares),
        least,
        most,
        math.sqrt(squares),
        # what nothing on this machine tells is no more known than what was not read
        answer(demand.tolerance, least, most, bool(shares) and known),
    )


def _most(fitted: ShareFit) -> float:
    return fitted.share.most


def leaves(fitted: DemandFit, ground: Ground) -> list[float]:
    """What remedies would leave of each share at most: its checks within their limits."""

    def after(name: str) -> Span | None:
        source = ground.source(name)
        return mended(source) if source else None

    # a wall may follow another error once it is mended
    left = {(s.sources, s.text): s.most for s in fitted.demand.shares(after)}
    return [
        min(s.share.most, left.get((s.share.sources, s.share.text), 0.0)) for s in fitted.shares
    ]


def answer(tolerance: float, least: float, most: float, known: bool) -> Answer:
    """By the rule of every verdict; never “fits” while something is not known."""
    if least > tolerance:
        return "no"
    if not known:
        return "unknown"
    return "fits" if most <= tolerance else "close"


def mended(source: Source) -> Span:
    """Between what a source lies once its check is within its limit: as it is where it is so
    already, or where nothing can mend it."""
    if source.known and (not source.mends or source.span.most <= source.limit):
        return source.span
    return Span.within(source.limit)
