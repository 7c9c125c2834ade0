"""How each check of a machine stands, derived from what was read and what was touched since."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from datetime import UTC, date, datetime, timedelta, tzinfo
from functools import cached_property
from typing import Literal, TypeVar

from pydantic import BaseModel

from truing.course.guide import guide
from truing.course.kinds import CourseKind, course_kind, foundation, suiting
from truing.machine import DIRECTIONS, Machine
from truing.machine.mechanisms import Mechanism
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.verdict import Verdict
from truing.measure.words import Words, capital, plain

Key = TypeVar("Key")

Status = Literal["true", "out", "too_close", "stale", "unmeasured"]


THING = "thing:"
"""How the text of a subject begins that the user named."""
PIECES = "pieces:"
"""How the text of a subject begins that is made up of the kit: whatever was last put together
tells how the machine stands."""
SLIDES = frozenset(Subject.part(d).text for d in DIRECTIONS)


class Result(BaseModel):
    """The latest finding of one kind: when its first reading was taken, and how it was judged."""

    kind: str
    subject: str = THE_MACHINE.text
    """What it is about, as `Subject.text`; the machine itself for all of it."""
    at: datetime
    verdict: Verdict
    sentence: Words | None = None
    times_limit: float | None = None
    """The worst quantity as a multiple of its limit."""
    against: Mechanism | None = None
    """The reference that it was read against: it does not rest on it, and is worth one look when
    that was made anew."""


@dataclass(frozen=True)
class Touch:
    """Something was moved, or happened: a move or an event that has not been taken back."""

    id: str
    at: datetime
    mechanisms: Sequence[Mechanism]
    said: str
    """As in “the column was shimmed”."""
    slide: str = ""
    """The slide or thing that it was made on, as `Subject.text`; "" for all there are."""
    calls_for: Sequence[str] = ()
    """Kinds of check that it asks for anew, whatever they rest on."""
    first: bool = False
    """What it asks for anew comes before anything else."""

    def unsettles(self, subject: str) -> bool:
        """Whether it counts for what was read about a subject: what was done to one slide or vice
        leaves what was read of another as it is."""
        apart = subject in SLIDES or subject.startswith(THING)
        return not (self.slide and apart and subject != self.slide)


class Decision(BaseModel):
    """Somebody decided to leave a check as it is, with the figures of that moment."""

    id: str
    kind: str
    at: datetime
    reason: str


class Tilt(BaseModel):
    """The head stands tilted on purpose."""

    at: datetime
    said: str
    """As in “the head was tilted by 30°”."""


class Ran(BaseModel):
    """Hours that the machine ran, told at a time."""

    at: datetime
    hours: float


@dataclass(frozen=True)
class Log:
    """Everything about one machine that its course is derived from."""

    results: Sequence[Result] = ()
    touches: Sequence[Touch] = ()
    decisions: Sequence[Decision] = ()
    ran: Sequence[Ran] = ()
    tilt: Tilt | None = None
    """While the head stands tilted; None once it is back."""
    intervals: dict[str, int] = field(default_factory=dict)
    """Days between looks that the owner set, by kind; 0 for never."""

    @cached_property
    def by_kind(self) -> dict[str, list[Result]]:
        """Results of each kind."""
        found: dict[str, list[Result]] = {}
        for result in self.results:
            found.setdefault(result.kind, []).append(result)
        return found

    @cached_property
    def by_mechanism(self) -> dict[Mechanism, list[Touch]]:
        """Touches of each mechanism, oldest first."""
        return _told_by(self.touches, lambda touch: touch.mechanisms)

    @cached_property
    def callers(self) -> dict[str, list[Touch]]:
        """Touches that ask for a kind of check by name, oldest first."""
        return _told_by(self.touches, lambda touch: touch.calls_for)

    def made_anew(self, result: Result) -> Touch | None:
        """The first touch on what a result was read against, after it was read."""
        touches = self.by_mechanism.get(result.against, []) if result.against else []
        return next((t for t in touches if t.at > result.at), None)

    def first_touch(self, kind: str, after: datetime, subject: str = "") -> Touch | None:
        """The first touch after a time on anything the kind rests on for this subject."""
        first: Touch | None = None
        lists = [self.by_mechanism.get(m, []) for m in foundation(kind, subject)]
        for touches in (*lists, self.callers.get(kind, [])):
            later = touches[bisect_right(touches, after, key=_when) :]
            touch = next((t for t in later if t.unsettles(subject)), None)
            if touch is not None and (first is None or touch.at < first.at):
                first = touch
        return first


def _when(touch: Touch) -> datetime:
    return touch.at


def _told_by(
    touches: Iterable[Touch], keys: Callable[[Touch], Iterable[Key]]
) -> dict[Key, list[Touch]]:
    """Touches under each of their keys, oldest first."""
    found: dict[Key, list[Touch]] = {}
    for touch in sorted(touches, key=_when):
        for key in keys(touch):
            found.setdefault(key, []).append(touch)
    return found


@dataclass(frozen=True)
class PartStanding:
    """How a check stands for one of the parts that it is made for."""

    key: str
    """As `Subject.text`."""
    title: str
    status: Status
    result: Result | None
    touch: Touch | None
    needed: bool
    """False for a part that need not be read."""


@dataclass(frozen=True)
class Standing:
    """How one kind of check stands on a machine, and why."""

    kind: str
    status: Status
    why: Words | None
    """What is out, what made it stale, or since when it is due; None when nothing is to be said."""
    built: bool
    matters: bool
    """False while somebody has decided to leave it, and for checks that are read when needed."""
    result: Result | None
    touch: Touch | None
    """What made it stale."""
    left: Decision | None
    """The decision that stands."""
    lapsed: Words | None
    """Why an earlier decision to leave it no longer stands."""
    due: date | None
    """When it should be looked at again, though nothing is known to have moved."""
    is_due: bool
    withheld: bool
    """Not known while the head stands tilted: neither stale nor missing, and not asked for."""
    first: bool
    """To be read before anything else."""
    parts: list[PartStanding]
    """One for each part that the check is made for; empty where there is only one."""

    @property
    def amiss(self) -> bool:
        """Whether it calls for something to be done."""
        return self.built and self.matters and self.status != "true"

    @property
    def idle(self) -> bool:
        """Whether nothing is known of it that still holds, and nothing asks for it: so it is with
        one that is read only when needed, until it has been read."""
        needed = course_kind(self.kind).when_needed
        return self.status == "unmeasured" or (needed and self.status == "stale")

    @property
    def counts(self) -> bool:
        """Whether it tells how the machine stands."""
        return self.built and (self.matters or self.left is not None or not self.idle)


def day(at: datetime, zone: tzinfo = UTC) -> str:
    """A date as it is said, in the workshop's zone: 3 March 2026."""
    local = at.astimezone(zone)
    return f"{local.day} {local:%B %Y}"


def standings(
    machine: Machine, log: Log, *, built: Sequence[str], now: datetime, zone: tzinfo = UTC
) -> list[Standing]:
    """Every kind that suits the machine, in the order of the work.

    `built` names the kinds that can be read at all; the others are unmeasured and matter to nobody.
    """
    return [_standing(k, machine, log, k.key in built, now, zone) for k in suiting(machine)]


RANK: dict[Status, int] = {"true": 0, "unmeasured": 1, "stale": 2, "too_close": 3, "out": 4}
"""How much a status calls for something to be done."""


def worst(found: Iterable[Standing]) -> Status | None:
    """The status that calls for most, of those that count; None where none does."""
    return max((s.status for s in found if s.counts), key=RANK.__getitem__, default=None)


def _latest(kind: str, subject: str, log: Log) -> Result | None:
    """The latest result of a kind about a subject; one about the machine is about each of its
    parts, but a vice that nobody had named yet is no other thing."""
    about = (subject,) if subject.startswith(THING) else (THE_MACHINE.text, subject)
    whole = subject == THE_MACHINE.text
    mine = (
        r
        for r in log.by_kind.get(kind, [])
        if r.subject in about or (whole and r.subject.startswith(PIECES))
    )
    return max(mine, key=lambda r: r.at, default=None)


def _withheld(k: CourseKind, subject: str, log: Log) -> bool:
    """Whether this needs a lean that nobody can know while the head stands tilted."""
    apart = any(s == subject and m == "head_pivot" for s, m in k.also_rests)
    return log.tilt is not None and ("head_pivot" in k.rests_on or apart)


def _part(k: CourseKind, key: str, title: str, log: Log) -> PartStanding:
    result = _latest(k.key, key, log)
    touch = log.first_touch(k.key, result.at, key) if result else None
    status: Status = "unmeasured" if result is None else "stale" if touch else result.verdict
    if _withheld(k, key, log):
        result, touch, status = None, None, "unmeasured"
    return PartStanding(
        key=key,
        title=title,
        status=status,
        result=result,
        touch=touch,
        needed=key not in k.optional_subjects and not _withheld(k, key, log),
    )


def _standing(
    k: CourseKind, machine: Machine, log: Log, built: bool, now: datetime, zone: tzinfo
) -> Standing:
    parts = [_part(k, key, title, log) for key, title in k.subjects_of(machine)]
    needed = [p for p in parts if p.needed] or [_part(k, THE_MACHINE.text, "", log)]
    # a check that is read only when needed is not missing for the parts nobody asked about
    asked = [p for p in needed if p.result] if k.when_needed else needed
    lead = max(asked or needed, key=lambda p: RANK[p.status])
    result, touch, status = lead.result, lead.touch, lead.status
    left, lapsed = _decided(k.key, log, zone)
    # the part that was read longest ago is the first to be looked at again
    oldest = min((p.result for p in asked if p.result), key=lambda r: r.at, default=None)
    due = _due(k.key, oldest, log) if status == "true" else None
    is_due = due is not None and due <= now.astimezone(zone).date()
    withheld = log.tilt is not None and _withheld(k, "", log)
    why = None
    if log.tilt is not None and withheld:
        why = plain(
            f"Not known while the head stands tilted: {log.tilt.said} on "
            f"{day(log.tilt.at, zone)}. Say when it is back to square."
        )
    elif touch is not None:
        why = _stale_because(touch, zone)
    elif result is not None and status != "true":
        why = result.sentence
    elif oldest is not None and is_due:
        why = plain(f"True when it was read on {day(oldest.at, zone)}; it is time to look again.")
    elif status == "true" and result is not None and (anew := log.made_anew(result)):
        why = plain(
            f"It stands. It was read against a face that is not there any more: {anew.said} on "
            f"{day(anew.at, zone)}. One look against the new one tells whether it agrees."
        )
    elif status == "unmeasured" and any(p.result for p in parts):
        open_parts = ", ".join(p.title for p in needed if p.status == "unmeasured")
        why = plain(f"Not measured yet: {open_parts}.")
    if why is not None and lead.title and status != "unmeasured":
        why = plain(f"{capital(lead.title)}: ") + why
    return Standing(
        kind=k.key,
        status=status,
        why=why,
        built=built,
        matters=built
        and left is None
        and not withheld
        and (not k.when_needed or status in ("out", "too_close")),
        result=result,
        touch=touch,
        left=left,
        lapsed=lapsed,
        due=due,
        is_due=is_due,
        withheld=withheld,
        first=any(
            t.first and (result is None or t.at > result.at) for t in log.callers.get(k.key, [])
        ),
        parts=parts,
    )


def _stale_because(touch: Touch, zone: tzinfo) -> Words:
    said = capital(touch.said)
    return plain(f"{said} on {day(touch.at, zone)}, after this was read.")


def _decided(kind: str, log: Log, zone: tzinfo) -> tuple[Decision | None, Words | None]:
    latest = max((d for d in log.decisions if d.kind == kind), key=lambda d: d.at, default=None)
    if latest is None:
        return None, None
    touch = log.first_touch(kind, latest.at)
    if touch is None:
        return latest, None
    return None, plain(
        f"Left as it was on {day(latest.at, zone)}; since then {touch.said}, so it is open again."
    )


def _due(kind: str, result: Result | None, log: Log) -> date | None:
    if result is None:
        return None
    about = guide(kind)
    days = log.intervals.get(kind, about.recheck_days)
    ran = sum(r.hours for r in log.ran if r.at > result.at)
    if about.recheck_hours and ran >= about.recheck_hours:
        return max(r.at for r in log.ran).date()
    return (result.at + timedelta(days=days)).date() if days else None
