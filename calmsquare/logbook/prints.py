"""What leaves as a file: templates at full size, a move on one sheet, programs of what is cut."""

from __future__ import annotations

from typing import Literal
from uuid import UUID

from django.http import Http404, HttpResponse

from calmsquare.logbook import compute, recorded
from calmsquare.logbook.models import Round
from calmsquare.workshop.scope import Scope
from truing.contract.cut import CutProgram
from truing.contract.move import Move as CoreMove
from truing.drawing.dxf import to_dxf
from truing.drawing.pdf import to_pdf
from truing.drawing.svg import to_svg
from truing.measure.problem import Problem
from truing.moves.sheet import System, move_sheet
from truing.record import load
from truing.registry import kind

__all__ = ["Format", "Run", "System", "drawing", "program", "programs", "sheet"]

Run = Literal["cut", "air"]
Format = Literal["svg", "dxf", "pdf"]


def drawing(scope: Scope, round_id: UUID, format: Format) -> HttpResponse:
    """The drawing of a round as a file; Problem while there is no finding to draw."""
    round = scope.get(Round, round_id, related=("check_run__machine",))
    check = round.check_run
    outcome = recorded.stored(round)
    if outcome.finding is None:
        raise Problem(
            outcome.problem or "There is no finding yet.",
            expected="Read on, then print it.",
            field="readings",
        )
    drawn = kind(check.kind).drawing(compute.case_of(check, round, ()).but(found=outcome.finding))
    if drawn is None:
        raise Http404
    name = f"{check.kind}.{format}"
    if format == "svg":
        return _file(to_svg(drawn).encode(), "image/svg+xml", name)
    if format == "dxf":
        return _file(to_dxf(drawn).encode(), "image/vnd.dxf", name)
    return _file(to_pdf(drawn), "application/pdf", name)


def sheet(scope: Scope, round_id: UUID, key: str, system: System) -> HttpResponse:
    """A move of a round on paper: as advised now, or as it was made."""
    round = scope.get(Round, round_id, related=("check_run__machine",))
    kept = round.advice or {}
    moves: list[CoreMove] = []
    if "advice" in kept:
        moves += load("advice", kept["advice"], round.check_run.kind).moves
    made = recorded.move_of(round)
    if made is not None and made.advised:
        moves.append(load("move", made.advised, round.check_run.kind))
    move = next((m for m in moves if m.key == key), None)
    if move is None:
        raise Http404
    drawn = move_sheet(move, round.check_run.machine.name, system)
    return _file(to_pdf(drawn), "application/pdf", f"{round.check_run.kind}-move.pdf")


def programs(scope: Scope, round_id: UUID) -> list[CutProgram]:
    """What has to be cut before this round is read, as its set-up states it; nothing before it
    states anything."""
    round = scope.get(Round, round_id, related=("check_run__machine",))
    if round.setup is None:
        return []
    case = compute.case_of(round.check_run, round, ())
    return kind(round.check_run.kind).programs(case.setup, case.machine)


def program(scope: Scope, round_id: UUID, key: str, run: Run) -> HttpResponse:
    """One of them as a file: the cut, or the same in the air. Problem where none is offered."""
    found = next((p for p in programs(scope, round_id) if p.key == key), None)
    if found is None:
        raise Http404
    if not found.program:
        raise Problem(
            found.refused.metric if found.refused else "This machine has no controller.",
            expected="Change the set-up, or go by the list for handwheels.",
            field="setup",
        )
    if run == "air":
        name = found.file_name.replace(".nc", "-air.nc")
        return _file(found.air_program.encode(), "text/plain; charset=us-ascii", name)
    return _file(found.program.encode(), "text/plain; charset=us-ascii", found.file_name)


def _file(data: bytes, type: str, name: str) -> HttpResponse:
    answer = HttpResponse(data, content_type=type)
    answer["Content-Disposition"] = f'attachment; filename="{name}"'
    answer["X-Content-Type-Options"] = "nosniff"
    return answer
