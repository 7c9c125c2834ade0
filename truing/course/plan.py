"""What fits in an evening: an ordered list of checks, never longer than the time there is."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable, Mapping, Sequence
from typing import Literal

from pydantic import BaseModel

from truing.course.guide import guide
from truing.course.kinds import course_kind, upstream_of
from truing.course.standing import Standing
from truing.course.step import reason
from truing.machine import Machine
from truing.machine.mechanisms import mechanisms_of
from truing.measure.words import Words, plain

AimKey = Literal["true", "faces", "holes", "engraving", "board", "tools", "job", "symptom"]


class Aim(BaseModel):
    """What the evening is for, and the checks that such work leans on last."""

    key: AimKey
    title: str
    kinds: list[str]
    """What they rest upon comes with them; empty for everything."""


AIMS: tuple[Aim, ...] = (
    Aim(key="true", title="Bring it back to true", kinds=[]),
    Aim(
        key="faces",
        title="Flat faces and square edges",
        kinds=["spindle_tram", "table_travel", "face_alignment", "lost_motion", "travel_square"],
    ),
    Aim(
        key="holes",
        title="Holes in their place",
        kinds=["spindle_tram", "travel_square", "lost_motion", "spindle_runout", "tool_runout"],
    ),
    Aim(
        key="engraving",
        title="Fine engraving",
        kinds=["bed_map", "table_travel", "tool_runout", "lost_motion"],
    ),
    Aim(
        key="board",
        title="A board to be surfaced",
        kinds=["spindle_tram", "bed_map", "gantry_level", "ridge_reading"],
    ),
    Aim(key="tools", title="Tools that run true", kinds=["tool_runout", "spindle_runout"]),
)

LAY_OUT_MINUTES = 5
"""To isolate and clean the machine and lay the kit out, once an evening."""
ROUND_SHARE = 0.5
"""Errors roughly halve with each round."""
MOST_ROUNDS = 4
_NOT_NEEDED = plain("Not needed for this aim.")


class PlanStep(BaseModel):
    """One check in a plan."""

    kind: str
    title: str
    question: str
    minutes: int
    rounds: int
    """Corrections allowed for in those minutes."""
    starts: int
    """Minutes after the beginning."""
    reason: Words


class LeftOver(BaseModel):
    """A check that will still be open after the plan, and why it is not in it."""

    kind: str
    title: str
    minutes: int
    reason: Words


class Plan(BaseModel):
    """An ordered evening within the time there is."""

    minutes: int
    used: int
    steps: list[PlanStep]
    kit: list[str]
    """Everything to lay out once, in the order in which it is first wanted."""
    cautions: list[str]
    left: list[LeftOver]
    sentence: Words


def plan(
    machine: Machine,
    found: Sequence[Standing],
    minutes: int,
    aim: AimKey = "true",
    *,
    laid_out: bool = False,
    skip: Iterable[str] = (),
    only: Collection[str] | None = None,
    sought: Mapping[str, Collection[str]] | None = None,
) -> Plan:
    """The plan for `minutes`, in the order of the work.

    A check is never planned before another that it rests on and that is amiss: when that one does
    not fit, what rests on it waits too. `skip` leaves kinds out by wish, with the same effect.
    `only` are the kinds that a job needs: those and no others, whether they matter otherwise.
    `sought` are the kinds that a search asks for, each with the subjects it is made for: those and
    no others, in their own order.
    """
    wanted = [s for s in found if s.amiss or (s.built and s.matters and s.is_due)]
    only = sought or only
    serves = _serving(aim) if only is None else set(only)
    if only is not None:
        wanted = [s for s in found if s in wanted or _needed(s, only)]
        if sought is not None:
            place = {kind: i for i, kind in enumerate(sought)}
            wanted.sort(key=lambda s: place.get(s.kind, len(place)))
    skipped = set(skip)
    used = 0 if laid_out else min(LAY_OUT_MINUTES, minutes)
    steps: list[PlanStep] = []
    left: list[LeftOver] = []
    waiting: set[str] = set()
    for standing in wanted:
        key = standing.kind
        cost, rounds = estimate(standing, (sought or {}).get(key))
        blocker = next((k for k in upstream_of(key) if k in waiting), None)
        if serves is not None and key not in serves:
            # left out by the aim, so it does not hold up what the aim needs
            if sought is None:
                left.append(_left(key, cost, _NOT_NEEDED))
        elif key in skipped:
            waiting.add(key)
            left.append(_left(key, cost, "Left out of this plan by choice."))
        elif blocker:
            waiting.add(key)
            left.append(_left(key, cost, f"After “{course_kind(blocker).title}”, which waits."))
        elif used + cost > minutes:
            waiting.add(key)
            left.append(_left(key, cost, "It does not fit into the time."))
        else:
            steps.append(_step(standing, cost, rounds, used))
            used += cost
    return Plan(
        minutes=minutes,
        used=used if steps else 0,
        steps=steps,
        kit=_once(item for s in steps for item in guide(s.kind).kit),
        cautions=_cautions(machine, [s.kind for s in steps]),
        left=left,
        sentence=_sentence(steps, left, used, minutes)
        if steps or waiting or not left
        else plain("Nothing that it needs is missing, stale or out. Use the evening to make it."),
    )


def estimate(standing: Standing, subjects: Collection[str] | None = None) -> tuple[int, int]:
    """(minutes, corrections among them) for a check as it stands, or for these of its parts."""
    about = guide(standing.kind)
    # one sitting for each part that is open
    sittings = sum(p.needed and p.status != "true" for p in standing.parts)
    sittings = max(1, len(subjects) if subjects else sittings)
    rounds = 0
    if standing.status == "out":
        over = standing.result.times_limit if standing.result else None
        rounds = 1
        if over is not None and over > 1:
            rounds = max(1, math.ceil(math.log(1 / over) / math.log(ROUND_SHARE)))
        rounds = min(MOST_ROUNDS, rounds)
    return sittings * about.minutes + rounds * about.round_minutes, rounds


def _needed(standing: Standing, kinds: Collection[str]) -> bool:
    return (
        standing.built
        and standing.kind in kinds
        and not standing.withheld
        and standing.status != "true"
    )


def _serving(aim: AimKey) -> set[str] | None:
    """The aim's own kinds with all they rest upon; None for everything."""
    ends = next(a for a in AIMS if a.key == aim).kinds
    if not ends:
        return None
    return {*ends, *(k for end in ends for k in upstream_of(end))}


def aims_for(found: Sequence[Standing]) -> list[Aim]:
    """The aims that this machine can serve with the checks there are."""
    here = {s.kind for s in found if s.built}
    return [a for a in AIMS if not a.kinds or here.intersection(a.kinds)]


def _step(standing: Standing, cost: int, rounds: int, starts: int) -> PlanStep:
    k = course_kind(standing.kind)
    return PlanStep(
        kind=k.key,
        title=k.title,
        question=k.question,
        minutes=cost,
        rounds=rounds,
        starts=starts,
        reason=reason(standing),
    )


def _left(key: str, cost: int, why: str | Words) -> LeftOver:
    reason = plain(why) if isinstance(why, str) else why
    return LeftOver(kind=key, title=course_kind(key).title, minutes=cost, reason=reason)


def _once(items: Iterable[str]) -> list[str]:
    return list(dict.fromkeys(items))


def _cautions(machine: Machine, kinds: Sequence[str]) -> list[str]:
    here = set(mechanisms_of(machine))
    return _once(text for key in kinds for text in guide(key).cautions_for(here))


def _sentence(
    steps: Sequence[PlanStep], left: Sequence[LeftOver], used: int, minutes: int
) -> Words:
    stays = "check stays" if len(left) == 1 else "checks stay"
    open_ = f" {len(left)} {stays} open." if left else ""
    if steps:
        what = "One check" if len(steps) == 1 else f"{len(steps)} checks"
        return plain(f"{what}, about {used} of your {minutes} minutes.{open_}")
    if not left:
        return plain("Nothing is missing, stale or out. Use the evening to make something.")
    needed = [item for item in left if item.reason != _NOT_NEEDED] or left
    shortest = min(needed, key=lambda item: item.minutes)
    return plain(
        f"Nothing fits into {minutes} minutes. “{shortest.title}” wants about "
        f"{shortest.minutes + LAY_OUT_MINUTES}; it can be stopped after any round and gone on with "
        f"another day.{open_}"
    )


def changes(before: Sequence[str], after: Plan, done: Sequence[str]) -> list[Words]:
    """What became of an earlier order of kinds: what came in and what fell away, and why."""
    now = {s.kind: s for s in after.steps}
    told = [
        plain(f"“{s.title}” has come in. ") + s.reason for s in after.steps if s.kind not in before
    ]
    for key in before:
        if key in now or key in done:
            continue
        waits = next((item for item in after.left if item.kind == key), None)
        name = course_kind(key).title
        if waits:
            told.append(plain(f"“{name}” has dropped out. ") + waits.reason)
        else:
            told.append(plain(f"“{name}” is no longer needed."))
    kept = [k for k in before if k in now]
    if kept != [s.kind for s in after.steps if s.kind in kept]:
        told.append(plain("The order has changed."))
    return told
