"""What to do next and why, and what it costs to go elsewhere first."""

from __future__ import annotations

from collections.abc import Sequence

from pydantic import BaseModel

from truing.course.guide import guide
from truing.course.kinds import course_kind, is_upstream
from truing.course.standing import RANK, Standing, Status, worst
from truing.measure.words import Words, join, plain, say


class Step(BaseModel):
    """One check to be made: why now, how long it takes, and what to have at hand."""

    kind: str
    title: str
    reason: Words
    minutes: int
    kit: list[str]


def next_step(found: Sequence[Standing]) -> Step | None:
    """The upstream-most check that is missing, stale or out and matters, or the one that something
    asked for first; then one that is due."""
    amiss = [s for s in found if s.amiss]
    if amiss:
        return step(next((s for s in amiss if s.first), amiss[0]))
    overdue = [s for s in found if s.built and s.matters and s.is_due]
    return step(min(overdue, key=lambda s: str(s.due))) if overdue else None


def overall(found: Sequence[Standing]) -> tuple[Status | None, Words]:
    """How the whole machine stands, in a word and a sentence: by the check that comes next; where
    none calls for anything, by the worst of those that count. No word where nothing can be read."""
    following = next_step(found)
    if following:
        return next(s.status for s in found if s.kind == following.kind), following.reason
    if not any(s.built for s in found):
        return None, plain("None of its parts can be measured yet.")
    withheld = [s.status for s in found if s.built and s.withheld]
    status = max([*withheld, worst(found) or "unmeasured"], key=RANK.__getitem__)
    left = [s for s in found if s.built and s.left]
    if left:
        titles = ", ".join(course_kind(s.kind).title for s in left)
        return status, plain(f"Left as it is, by decision: {titles}.")
    if withheld:
        return status, plain("Everything that can be known while the head stands tilted is true.")
    return status, plain("Everything that can be measured here is true.")


def step(standing: Standing) -> Step:
    """A check as something to be done now."""
    about = guide(standing.kind)
    return Step(
        kind=standing.kind,
        title=course_kind(standing.kind).title,
        reason=reason(standing),
        minutes=about.minutes,
        kit=about.kit,
    )


def reason(standing: Standing) -> Words:
    """One sentence: why this check calls for attention."""
    told = [standing.lapsed] if standing.lapsed else []
    if standing.status == "unmeasured" and standing.why is None:
        return join([*told, plain("Not measured yet."), guide(standing.kind).purpose])
    return join([*told, *([standing.why] if standing.why else [])])


def detour(kind: str, found: Sequence[Standing]) -> Words | None:
    """What it costs to read this kind before something it rests on has been put right."""
    before = [s for s in found if s.amiss and is_upstream(s.kind, kind)]
    if not before:
        return None
    first = before[0]
    state = {
        "unmeasured": "has not been measured",
        "stale": "is stale",
        "out": "is out",
        "too_close": "is too close to call",
    }[first.status]
    return say(
        "“{this}” rests on “{other}”, which {state}. If that has to be put right, this is to be "
        "read again: about {minutes} minutes now, and as many then.",
        this=course_kind(kind).title,
        other=course_kind(first.kind).title,
        state=state,
        minutes=guide(kind).minutes,
    )
