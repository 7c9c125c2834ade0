"""What a piece of the kit has been through: every round that it took part in."""

from __future__ import annotations

from datetime import datetime
from uuid import UUID

from django.db.models import Q
from pydantic import BaseModel

from calmsquare.logbook import recorded
from calmsquare.logbook.models import Round
from calmsquare.workshop.models import Piece
from calmsquare.workshop.scope import Scope
from truing.contract.finding import shown
from truing.measure.estimate import Estimate
from truing.measure.verdict import Verdict
from truing.measure.words import Words
from truing.record import Lesson, Unreadable, load
from truing.registry import kind

MOST_RECORDED = 50
"""Rounds of a piece that its record goes back over."""


class PieceRound(BaseModel):
    """A round that a piece took part in."""

    check_id: UUID
    at: datetime
    machine: str
    title: str
    words: Words | None
    """What all ran out by with it, or what else was said of the round."""
    verdict: Verdict


def record(scope: Scope, piece_id: UUID) -> list[PieceRound]:
    """The rounds that a piece took part in, the latest first."""
    piece = scope.get(Piece, piece_id)
    id = str(piece.pk)
    named = Q(setup__names__has_key=id) | Q(setup__square=id)
    rounds = (
        Round.objects.filter(named, check_run__machine__workshop=piece.workshop_id)
        .exclude(verdict="")
        .select_related("check_run__machine")
        .defer("outcome", "snapshot", "advice")
        .order_by("-check_run__opened_at", "-number")
    )
    return [_round(r, id) for r in rounds[:MOST_RECORDED]]


def _round(r: Round, piece: str) -> PieceRound:
    tir = _with(r, piece)
    verdict: Verdict = r.verdict  # type: ignore[assignment]
    return PieceRound(
        check_id=r.check_run.pk,
        at=r.read_at or r.opened_at,
        machine=r.check_run.machine.name,
        title=kind(r.check_run.kind).course.title,
        words=shown(tir) + " TIR" if tir else recorded.summary_of(r).sentence,
        verdict=verdict,
    )


def _with(r: Round, piece: str) -> Estimate | None:
    """What all ran out by while this piece was in, where the round tells one."""
    try:
        lesson: Lesson = load("lesson", r.lesson, r.check_run.kind)
    except Unreadable:
        return None
    return lesson.values.get(f"with:{piece}") or lesson.values.get("tool")
