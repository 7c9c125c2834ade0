"""Limits backwards: what each check has to come to so that a job fits, whatever the errors are
inside them."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from truing.jobs.contribute import Demand
from truing.jobs.fit import JobFit
from truing.jobs.ground import Ground, Source, Span

Key = tuple[str, str]
"""A kind of check and one of its limits."""
ROOM = 1.25
"""What is good already keeps so much of what it has, and gives the rest away."""
WIDEST = 10.0
"""No limit is set wider than so many times the usual one."""
LEAST = 1e-6


@dataclass(frozen=True, slots=True)
class JobLimit:
    """One limit for a job."""

    kind: str
    tolerance: str
    value: float
    usual: float
    in_force: float
    sources: tuple[Source, ...]
    filled: tuple[int, Demand] | None
    """The (feature, demand) whose tolerance it fills; None where it is good enough already, or
    wide open."""

    @property
    def is_met(self) -> bool:
        """Whether all it is about is known to lie within it."""
        return all(s.known and s.span.most <= self.value for s in self.sources)


@dataclass(frozen=True, slots=True)
class JobLimits:
    """The limits that a job needs on one machine."""

    limits: tuple[JobLimit, ...]
    fixed: tuple[Source, ...]
    """What no move of this machine mends: it stands as it is, or at its usual limit."""
    beyond: tuple[tuple[int, Demand, float], ...]
    """(feature, demand, mm) that those alone take over their tolerance."""


def limits_for(fitted: JobFit, weights: Mapping[Key, float] | None = None) -> JobLimits:
    """Limits so that every demand's worst case lies within its tolerance. One factor is raised
    with every limit, each by its weight, until a tolerance is full or an error has room enough;
    those stay, and the rest goes on."""
    given = weights or {}
    ground = fitted.ground
    asked = [(i, d.demand) for i, d in fitted.asked]
    sources = _grouped(ground, fitted)
    base = {key: max(s.usual for s in own) * given.get(key, 1.0) for key, own in sources.items()}
    caps = {key: _cap(own) for key, own in sources.items()}
    box = _Box(ground, dict.fromkeys(sources, 0.0))
    beyond = [(i, d, box.worst(d)) for i, d in asked if box.worst(d) >= d.tolerance]
    within = [(i, d) for i, d in asked if not any(d is b for _, b, _ in beyond)]
    reached = {id(d): box.reached(d) for _, d in within}
    for _, d, _ in beyond:
        # no limit mends it, and none is to be opened for its sake
        caps |= {key: min(caps[key], base[key]) for key in box.reached(d)}
    filled: dict[Key, tuple[int, Demand]] = {}
    active = set(sources)
    k = 0.0
    while active:
        open_ = [(i, d) for i, d in within if reached[id(d)] & active]
        best = min(caps[key] / base[key] for key in active)
        for _, d in open_:
            best = box.fills(d, active, base, k, best)
        k = max(k, best)
        stopped = {key for key in active if caps[key] / base[key] <= k * (1 + LEAST)}
        # full is what a little more would bring over its tolerance
        box.open(active, base, k * (1 + LEAST) + LEAST)
        for i, d in [(i, d) for i, d in open_ if box.worst(d) > d.tolerance]:
            for key in reached[id(d)] & active:
                filled.setdefault(key, (i, d))
                stopped.add(key)
        box.open(active, base, k)
        # every turn closes one at least; figures too fine to tell apart close them all
        active -= stopped or set(active)
    return JobLimits(
        limits=tuple(
            JobLimit(
                kind=key[0],
                tolerance=key[1],
                value=_rounded(box.limits[key]),
                usual=own[0].usual,
                in_force=own[0].limit,
                sources=tuple(own),
                filled=filled.get(key),
            )
            for key, own in sources.items()
        ),
        fixed=tuple(s for s in _used(ground, fitted) if s.tolerance is None or not s.mends),
        beyond=tuple(beyond),
    )


class _Box:
    """Errors anywhere inside limits; those that nothing mends where they are."""

    def __init__(self, ground: Ground, limits: dict[Key, float]) -> None:
        self.ground = ground
        self.limits = limits

    def at(self, name: str) -> Span | None:
        source = self.ground.source(name)
        if source is None:
            return None
        if source.mends and source.tolerance is not None:
            return Span.within(self.limits[source.kind, source.tolerance])
        return Span.within(max(source.span.most, 0.0 if source.known else source.limit))

    def worst(self, demand: Demand) -> float:
        return sum(s.most for s in demand.shares(self.at))

    def reached(self, demand: Demand) -> set[Key]:
        """The limits that a demand depends on."""
        found = (self.ground.source(n) for s in demand.shares(self.at) for n in s.sources)
        return {(s.kind, s.tolerance) for s in found if s and s.mends and s.tolerance}

    def open(self, active: set[Key], base: Mapping[Key, float], k: float) -> None:
        for key in active:
            self.limits[key] = k * base[key]

    def fills(
        self, demand: Demand, active: set[Key], base: Mapping[Key, float], low: float, high: float
    ) -> float:
        """The largest factor up to `high` at which a demand is within its tolerance."""
        kept = dict(self.limits)
        self.open(active, base, high)
        if self.worst(demand) <= demand.tolerance:
            self.limits = kept
            return high
        for _ in range(40):
            middle = (low + high) / 2
            self.open(active, base, middle)
            low, high = (middle, high) if self.worst(demand) <= demand.tolerance else (low, middle)
        self.limits = kept
        return low


def _used(ground: Ground, fitted: JobFit) -> list[Source]:
    names = dict.fromkeys(n for _, d in fitted.asked for h in d.shares for n in h.share.sources)
    return [s for n in names if (s := ground.source(n)) is not None]


def _grouped(ground: Ground, fitted: JobFit) -> dict[Key, list[Source]]:
    found: dict[Key, list[Source]] = {}
    for source in _used(ground, fitted):
        if source.mends and source.tolerance is not None:
            found.setdefault((source.kind, source.tolerance), []).append(source)
    return found


def _cap(own: list[Source]) -> float:
    widest = WIDEST * max(s.usual for s in own)
    if all(s.known for s in own):
        return min(widest, max(LEAST, ROOM * max(s.span.most for s in own)))
    return widest


def _rounded(value: float) -> float:
    """Down to two figures, so that nothing is promised that does not hold."""
    if value <= 0:
        return 0.0
    step = 10.0 ** (math.floor(math.log10(value)) - 1)
    return math.floor(value / step * (1 + 1e-12)) * step
