"""Routes of checks and the logbook."""

from __future__ import annotations

from uuid import UUID

from django.http import HttpRequest
from ninja import Router
from pydantic import BaseModel

from calmsquare.logbook import readings, services, state
from calmsquare.logbook.models import Check
from calmsquare.logbook.schemas import (
    CheckIn,
    CheckOut,
    KindOut,
    LogPage,
    MoveIn,
    NoteIn,
    PreviewIn,
    PreviewOut,
    ReadingIn,
    SetupIn,
    StandinOut,
)
from calmsquare.problems import answers
from calmsquare.workshop.scope import Scope

router = Router(tags=["logbook"])


class NewRound(BaseModel):
    """A round's id, made by the browser."""

    id: UUID


class StationIn(BaseModel):
    """A station by its key."""

    station: str


@router.get("/kinds", response=answers(list[KindOut]))
def kinds(request: HttpRequest) -> list[KindOut]:
    """Every kind of check, with its set-up form and guide."""
    return state.kinds()


@router.post("/machines/{uuid:machine_id}/checks", response=answers(CheckOut))
def open_check(request: HttpRequest, machine_id: UUID, form: CheckIn) -> CheckOut:
    """Begin a check, or go on with the one under way."""
    scope = Scope(request.user)
    return state.check_out(
        scope, services.open_check(scope, machine_id, id=form.id, kind_key=form.kind)
    )


@router.get("/checks/{uuid:check_id}", response=answers(CheckOut))
def read_check(request: HttpRequest, check_id: UUID) -> CheckOut:
    """A check with all its rounds."""
    scope = Scope(request.user)
    return state.check_out(scope, scope.get(Check, check_id))


@router.post("/checks/{uuid:check_id}/rounds", response=answers(CheckOut))
def another_round(request: HttpRequest, check_id: UUID, form: NewRound) -> CheckOut:
    """Read a settled check once more."""
    scope = Scope(request.user)
    return state.check_out(scope, services.another_round(scope, check_id, id=form.id))


@router.put("/rounds/{uuid:round_id}/setup", response=answers(CheckOut))
def set_up(request: HttpRequest, round_id: UUID, form: SetupIn) -> CheckOut:
    """State how the round is read."""
    scope = Scope(request.user)
    return state.check_out(scope, services.set_up(scope, round_id, form))


@router.put("/rounds/{uuid:round_id}/readings/{uuid:reading_id}", response=answers(CheckOut))
def put_reading(
    request: HttpRequest, round_id: UUID, reading_id: UUID, form: ReadingIn
) -> CheckOut:
    """Keep a reading; safe to send twice."""
    scope = Scope(request.user)
    return state.check_out(scope, readings.put_reading(scope, round_id, reading_id, form))


@router.post("/rounds/{uuid:round_id}/preview", response=answers(PreviewOut))
def preview(request: HttpRequest, round_id: UUID, form: PreviewIn) -> PreviewOut:
    """How what is being typed is understood; nothing is kept."""
    return readings.preview(Scope(request.user), round_id, form)


@router.post("/rounds/{uuid:round_id}/settle", response=answers(CheckOut))
def settle(request: HttpRequest, round_id: UUID) -> CheckOut:
    """Enter the round in the logbook and end the check."""
    scope = Scope(request.user)
    return state.check_out(scope, services.settle(scope, round_id))


@router.post("/rounds/{uuid:round_id}/move", response=answers(CheckOut))
def make_move(request: HttpRequest, round_id: UUID, form: MoveIn) -> CheckOut:
    """Record what was done, and open the next round with its prediction."""
    scope = Scope(request.user)
    return state.check_out(scope, services.make_move(scope, round_id, form))


@router.post("/rounds/{uuid:round_id}/notes", response=answers(CheckOut))
def add_note(request: HttpRequest, round_id: UUID, form: NoteIn) -> CheckOut:
    """Write a remark beside a round."""
    scope = Scope(request.user)
    return state.check_out(scope, services.add_note(scope, round_id, form))


@router.post("/rounds/{uuid:round_id}/standin", response=answers(StandinOut))
def ask_standin(request: HttpRequest, round_id: UUID, form: StationIn) -> StandinOut:
    """What a practice machine's simulated indicator shows."""
    return readings.ask_standin(Scope(request.user), round_id, form.station)


@router.get("/workshops/{uuid:workshop_id}/logbook", response=answers(LogPage))
def logbook(
    request: HttpRequest,
    workshop_id: UUID,
    machine: UUID | None = None,
    after: str | None = None,
) -> LogPage:
    """Sittings of a workshop or of one machine, newest first."""
    return state.logbook(Scope(request.user), workshop_id, machine_id=machine, after=after)
