"""What is known of a machine's errors, as far as jobs ask for them.

Each source of error has its value and U from the latest round that holds, and its state. One that
was never measured is not nothing: its limit stands in, and says that it does.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from functools import cached_property
from typing import Literal

from truing.contract.known import Known
from truing.course import course_kind
from truing.course.standing import Standing
from truing.jobs.witnesses import STANDS_IN, Witness, called, witnesses
from truing.machine import Machine
from truing.machine.mechanisms import mechanisms_of
from truing.machine.subject import THE_MACHINE
from truing.measure.estimate import Estimate
from truing.measure.words import Measure
from truing.registry import registry

State = Literal["measured", "left", "stale", "not_measured"]
RANK: dict[State, int] = {"measured": 0, "left": 1, "stale": 2, "not_measured": 3}


@dataclass(frozen=True, slots=True)
class Span:
    """Between what a source lies, and where it was found; signed where its sign is known."""

    low: float
    value: float
    high: float

    @classmethod
    def within(cls, limit: float) -> Span:
        """Anywhere inside a limit, either way."""
        return cls(-limit, 0.0, limit)

    @property
    def least(self) -> float:
        """The smallest size that it may have."""
        return 0.0 if self.low <= 0 <= self.high else min(abs(self.low), abs(self.high))

    @property
    def most(self) -> float:
        """The largest size that it may have."""
        return max(abs(self.low), abs(self.high))

    def __add__(self, other: Span) -> Span:
        return Span(self.low + other.low, self.value + other.value, self.high + other.high)

    def __sub__(self, other: Span) -> Span:
        return Span(self.low - other.high, self.value - other.value, self.high - other.low)


@dataclass(frozen=True, slots=True)
class Source:
    """One error of the machine, as it is known."""

    name: str
    title: str
    measure: Measure
    span: Span
    """Of what was read; of the limit that stands in where nothing was."""
    state: State
    kind: str
    """The check that tells it, or would."""
    subject: str
    tolerance: str | None
    limit: float
    """In force, or what stands for one."""
    usual: float
    mends: bool
    """Whether moves of its check can change it on this machine."""
    at: datetime | None
    weak: bool = False
    """Told by another check than the one that is made for it."""

    @property
    def group(self) -> tuple[str, str]:
        """The remedy that mends it: a sitting of its check, about its subject."""
        return self.kind, self.subject

    @property
    def known(self) -> bool:
        """Whether what was read of it holds."""
        return self.state in ("measured", "left")


Limits = Callable[[str], Mapping[str, float]]
"""Of a kind of check, the limits in force."""


class Ground:
    """The errors of one machine, made out as they are asked for."""

    def __init__(
        self,
        machine: Machine,
        known: Sequence[Known],
        standings: Sequence[Standing],
        limits: Limits | None = None,
    ) -> None:
        self.machine = machine
        self.standings = standings
        self._known = known
        self._standings = {s.kind: s for s in standings}
        self._limits = limits or (lambda kind: registry()[kind].tolerances(machine))
        self._sources: dict[str, Source | None] = {}
        self._usual: dict[str, Mapping[str, float]] = {}

    @cached_property
    def mechanisms(self) -> frozenset[str]:
        """What the machine has."""
        return frozenset(mechanisms_of(self.machine))

    def source(self, name: str) -> Source | None:
        """A source by its name; None for one that this machine has not."""
        if name not in self._sources:
            self._sources[name] = self._worst_held(name) or self._made_out(name)
        return self._sources[name]

    def _worst_held(self, name: str) -> Source | None:
        """Of several vices or fences, any of which may hold the part, the one that is known worst;
        None where there is no choice."""
        sort, _, held = name.partition("_")
        keys = [t.key for t in self.machine.things if t.sort == held]
        if sort != "jaw" or len(keys) < 2:
            return None
        found = [s for k in keys if (s := self._made_out(f"{name}_{k}"))]
        worst = max(found, key=lambda s: (RANK[s.state], s.span.most), default=None)
        return replace(worst, name=name) if worst else None

    def but(self, changed: Mapping[str, Source]) -> Ground:
        """The same machine with other figures for some sources."""
        other = Ground(self.machine, self._known, self.standings, self._limits)
        other._sources = {**self._sources, **changed}
        return other

    def said(self) -> Iterator[Source]:
        """Every source that was asked for so far and that the machine has."""
        return (s for s in self._sources.values() if s is not None)

    def _made_out(self, name: str) -> Source | None:
        told = witnesses(name, self.machine)
        here = [w for w in told if w.kind in registry() and course_kind(w.kind).suits(self.machine)]
        if not here:
            return None
        first = here[0]
        limits = self._limits(first.kind)
        usual = self._usual.get(first.kind)
        if usual is None:
            usual = self._usual[first.kind] = registry()[first.kind].tolerances(self.machine)
        key = first.tolerance
        limit = limits[key] if key else STANDS_IN[name.partition("_")[0]]
        found = [f for w in here if (f := self._latest(w))]
        best = min(found, key=lambda f: not f[1].fresh, default=None)
        title, measure = called(name, self.machine)
        span, at, weak = Span.within(limit), None, False
        state: State = "not_measured"
        if best is not None and not self._withheld(best[1].kind):
            witness, read, span = best
            at, weak = read.at, witness.kind != first.kind
            standing = self._standings.get(read.kind)
            left = standing is not None and standing.left is not None
            state = ("left" if left else "measured") if read.fresh else "stale"
        return Source(
            name=name,
            title=title,
            measure=measure,
            span=span,
            state=state,
            kind=first.kind,
            subject=first.subject or THE_MACHINE.text,
            tolerance=key,
            limit=limit,
            usual=usual[key] if key else limit,
            mends=bool(key)
            and name != "flat"
            and not self.mechanisms.isdisjoint(course_kind(first.kind).adjusts),
            at=at,
            weak=weak,
        )

    def _latest(self, witness: Witness) -> tuple[Witness, Known, Span] | None:
        """The latest round that told it, and what it came to."""
        for read in self._known:
            wanted = witness.subject
            if read.kind != witness.kind or (
                wanted is not None and read.subject not in (wanted, THE_MACHINE.text)
            ):
                continue
            values = [
                v
                for k, v in read.values.items()
                if k == witness.quantity or k.startswith(f"{witness.quantity}@")
            ]
            if values:
                return witness, read, _hull(values)
        return None

    def _withheld(self, kind: str) -> bool:
        standing = self._standings.get(kind)
        return standing is not None and standing.withheld


def ground(
    machine: Machine,
    known: Sequence[Known],
    standings: Sequence[Standing] = (),
    limits: Limits | None = None,
) -> Ground:
    """What jobs rest on; `known` is the latest first, `limits` the usual ones where not given."""
    return Ground(machine, known, standings, limits)


def _hull(values: Sequence[Estimate]) -> Span:
    """Between what it lies, wherever it was read: one machine may lean otherwise at each place."""
    spans = [_span(v) for v in values]
    worst = max(values, key=lambda v: abs(v.value))
    return Span(min(s.low for s in spans), worst.value, max(s.high for s in spans))


def _span(v: Estimate) -> Span:
    if v.limits is None:
        return Span(v.value - v.expanded, v.value, v.value + v.expanded)
    # a size: its sign is not told by the limits
    low = v.limits.low if v.value >= 0 else -v.limits.high
    high = v.limits.high if v.value >= 0 else -v.limits.low
    return Span(low, v.value, high) if v.limits.low > 0 else Span(-v.most, v.value, v.most)
