"""What earlier rounds left to the one that is being read."""

from __future__ import annotations

import logging
from collections import OrderedDict
from dataclasses import dataclass
from threading import Lock
from typing import Any
from uuid import UUID

from django.db import connection
from django.db.models import Q

from calmsquare.logbook.course import known_of
from calmsquare.logbook.models import Check, Event, Move, Round
from truing.contract.history import History, PastRound
from truing.contract.known import Known
from truing.record import Lesson, Unreadable, load

log = logging.getLogger(__name__)

MOST_PAST = 24
"""Earlier rounds about a subject that later ones lean on: half a year of evenings."""
MOST_KEPT = 1000
"""Rounds whose past a process remembers: as many as can be in hand at once, and some."""


@dataclass(frozen=True)
class Earlier:
    """What a round leans on that was there before it. Shared: nobody changes it."""

    history: History
    known: list[Known]


_Key = tuple[UUID, str, tuple[str, ...]]
_kept: OrderedDict[_Key, tuple[str, Earlier]] = OrderedDict()
_lock = Lock()


def earlier(check: Check, round: Round, subject: str, kinds: tuple[str, ...]) -> Earlier:
    """What earlier rounds about this subject left, and what these kinds have found on the machine.

    While a round is read it stays the same from key to key, and gathering it was half of an
    answer's work: it is remembered for as long as nothing else in the machine's record changes.
    """
    key, mark = (round.pk, subject, kinds), _mark(check, round)
    with _lock:
        there = _kept.get(key)
        if there is not None and there[0] == mark:
            _kept.move_to_end(key)
            return there[1]
    found = Earlier(history(check, round, subject), known_of(check.machine, kinds, but=round))
    with _lock:
        _kept[key] = (mark, found)
        while len(_kept) > MOST_KEPT:
            _kept.popitem(last=False)
    return found


def _mark(check: Check, round: Round) -> str:
    """Tells one state of a machine's record, without this round, from every other.

    A digest of every row that is looked into: its id, the transaction that wrote it and where it
    lies (`xmin` and `ctid` of PostgreSQL). A row that is written anew lies elsewhere, even in one
    transaction. It is asked before what it stands for: what changes in between is gathered again
    next time.
    """
    with connection.cursor() as cursor:
        cursor.execute(_MARK, {"machine": check.machine_id, "round": round.pk})
        return str(cursor.fetchone()[0])


_CHECK, _ROUND, _MOVE, _EVENT = (m._meta.db_table for m in (Check, Round, Move, Event))
_ROWS = "md5(string_agg(concat_ws(' ', t.id, t.xmin, t.ctid), ',' ORDER BY t.id))"
_MARK = f"""
SELECT concat_ws(' ',
  (SELECT {_ROWS} FROM {_CHECK} t WHERE t.machine_id = %(machine)s),
  (SELECT {_ROWS} FROM {_ROUND} t JOIN {_CHECK} c ON c.id = t.check_run_id
    WHERE c.machine_id = %(machine)s AND t.id <> %(round)s),
  (SELECT {_ROWS} FROM {_MOVE} t JOIN {_ROUND} r ON r.id = t.round_id
    JOIN {_CHECK} c ON c.id = r.check_run_id WHERE c.machine_id = %(machine)s),
  (SELECT {_ROWS} FROM {_EVENT} t WHERE t.machine_id = %(machine)s))
"""


def history(check: Check, round: Round, subject: str) -> History:
    """What earlier rounds about this subject left, in this sitting and in those before it."""
    before = Q(check_run=check, number__lt=round.number) | Q(
        check_run__opened_at__lt=check.opened_at
    )
    earlier = Round.objects.filter(
        before,
        check_run__machine=check.machine_id,
        check_run__kind=check.kind,
        subject=subject,
        lesson__isnull=False,
    )
    newest = earlier.order_by("-check_run__opened_at", "-number")[:MOST_PAST]
    rows = newest.values_list(
        "check_run_id",
        "number",
        "lesson",
        "move__taken_back_at",
        "move__made",
        "move__advised__title__metric",
        "move__said",
    )
    past = []
    for sitting, number, lesson, taken_back, made, title, said in reversed(rows):
        learnt: Lesson | None = _readable("lesson", lesson, check.kind)
        if learnt is None:
            continue
        counts = taken_back is None
        past.append(
            PastRound(
                number=number,
                sitting=str(sitting),
                way=learnt.way,
                condition=learnt.condition,
                values=learnt.values,
                spreads=learnt.spreads,
                move=_readable("made", made, check.kind) if made and counts else None,
                did=(title or said or "") if counts else "",
            )
        )
    return History(sitting=str(check.pk), past=past)


def _readable(shape: str, kept: Any, kind: str) -> Any:
    """What is kept of an earlier round; None for what nothing makes readable: nothing is learnt of
    it, and the round in hand is read all the same."""
    try:
        return load(shape, kept, kind)
    except Unreadable:
        log.exception("a %s of an earlier round of %s", shape, kind)
        return None
