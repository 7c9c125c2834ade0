"""Fix first: which remedy brings a job furthest for its minutes, until every feature fits."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

from truing.course import course_kind
from truing.course.guide import guide
from truing.course.kinds import foundation
from truing.course.plan import MOST_ROUNDS, ROUND_SHARE
from truing.jobs.fit import ORDER, DemandFit, JobFit, mended, weigh
from truing.jobs.ground import Ground, Source

Group = tuple[str, str]
"""A kind of check and its subject: one sitting."""
NOTHING = 1e-9


@dataclass(frozen=True, slots=True)
class Remedy:
    """A check to be made until it is true, and what that does for the job."""

    kind: str
    subject: str
    sources: tuple[Source, ...]
    """What it changes, as it is now."""
    moves: bool
    """False for one that is only to be read: it may do as it is."""
    minutes: int
    again: tuple[str, ...]
    """Checks of the job that are to be read again after it, within those minutes."""
    feature: int
    demand: DemandFit
    """What it helps most: the job's worst demand at that point."""
    after: DemandFit


@dataclass(frozen=True, slots=True)
class Order:
    """Remedies in the order in which they help most, and what limits the job after all of them."""

    remedies: tuple[Remedy, ...]
    still: tuple[tuple[int, DemandFit], ...]
    """(feature, demand) that do not fit even then."""
    ends: Ground


def fix_first(fitted: JobFit) -> Order:
    """The order for a job on its machine. Each remedy is the one that brings the worst demand
    furthest per minute, and none makes the job's worst demand worse."""
    now = list(fitted.asked)
    ground, remedies, spent = fitted.ground, [], set[int]()
    touched = _touched(now)
    while True:
        open_ = [i for i, (_, d) in enumerate(now) if d.answer != "fits" and i not in spent]
        if not open_:
            break
        place = max(open_, key=lambda i: _order(now[i][1]))
        feature, worst = now[place]
        found = [
            r
            for group in dict.fromkeys(s.group for h in worst.shares for s in h.sources)
            if (r := _remedy(group, ground, feature, worst, fitted.kinds))
        ]
        best = max(found, key=lambda r: _gain(r) / r.minutes, default=None)
        if best is None:
            spent.add(place)
            continue
        after = _applied(best, ground)
        again = {i: weigh(now[i][1].demand, after) for i in touched[best.kind, best.subject]}
        top = max(d.ratio for _, d in now)
        if any(d.ratio > max(top, 1.0) + NOTHING for d in again.values()):
            spent.add(place)
            continue
        remedies.append(best)
        ground = after
        for i, d in again.items():
            now[i] = (now[i][0], d)
    still = tuple(d for d in now if d[1].answer != "fits")
    return Order(tuple(remedies), still, ground)


def _order(d: DemandFit) -> tuple[int, float]:
    return ORDER[d.answer], d.ratio


def _touched(now: list[tuple[int, DemandFit]]) -> dict[Group, list[int]]:
    """Demands by the remedies that change them."""
    found: dict[Group, list[int]] = {}
    for i, (_, d) in enumerate(now):
        for group in {s.group for h in d.shares for s in h.sources}:
            found.setdefault(group, []).append(i)
    return found


def _gain(r: Remedy) -> float:
    """What it takes of what stands between the demand and its tolerance: too much, and doubt."""
    return _missing(r.demand) - _missing(r.after)


def _missing(d: DemandFit) -> float:
    doubt = sum(h.share.most for h in d.shares if not h.known)
    return max(0.0, d.most - d.demand.tolerance) + doubt


def _of(group: Group, ground: Ground) -> Iterator[Source]:
    return (s for s in ground.said() if s.group == group)


def _applied(remedy: Remedy, ground: Ground) -> Ground:
    return ground.but({s.name: _mended(s) for s in remedy.sources})


def _mended(source: Source) -> Source:
    return replace(source, span=mended(source), state="measured")


def _changes(source: Source) -> bool:
    return not source.known or mended(source) != source.span


def _remedy(
    group: Group, ground: Ground, feature: int, worst: DemandFit, kinds: list[str]
) -> Remedy | None:
    changed = tuple(s for s in _of(group, ground) if _changes(s))
    if not changed:
        return None
    after = weigh(worst.demand, ground.but({s.name: _mended(s) for s in changed}))
    kind, subject = group
    moves = any(s.known and s.mends for s in changed)
    again = tuple(
        k
        for k in kinds
        if k != kind and moves and foundation(k).intersection(course_kind(kind).adjusts)
    )
    about = guide(kind)
    rounds = max((_rounds(s) for s in changed), default=0)
    minutes = about.minutes + rounds * about.round_minutes + sum(guide(k).minutes for k in again)
    found = Remedy(kind, subject, changed, moves, max(1, minutes), again, feature, worst, after)
    return found if _gain(found) > NOTHING else None


def _rounds(source: Source) -> int:
    """Corrections to be expected, each about halving the error."""
    if not source.known or source.span.most <= source.limit:
        return 0
    over = source.span.most / source.limit
    return min(MOST_ROUNDS, max(1, math.ceil(math.log(1 / over) / math.log(ROUND_SHARE))))
