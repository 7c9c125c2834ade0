"""Routes of beds, plans and programs."""

from __future__ import annotations

import json
from typing import Any, Literal
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import File, Form, Router, Status
from ninja.files import UploadedFile
from pydantic import BaseModel

from calmsquare.problems import answers
from calmsquare.surfacing import out, services
from calmsquare.surfacing.models import PIECE_BYTES, SurfacingPlan
from calmsquare.surfacing.schemas import (
    BedOut,
    BoardIn,
    DoneIn,
    KeepPlanIn,
    ProgramOut,
    SurfacingOut,
    WishIn,
)
from calmsquare.workshop.scope import Scope
from truing.measure.problem import Problem

router = Router(tags=["surfacing"])


class ProgramIn(BaseModel):
    """A program's id from the browser, and what is stated about it, as JSON."""

    id: UUID
    stated: str


@router.get("/machines/{uuid:machine_id}/bed", response=answers(BedOut))
def read_bed(request: HttpRequest, machine_id: UUID) -> BedOut:
    """A bed: its board, map, plans and programs."""
    return out.bed_out(Scope(request.user), machine_id)


@router.put("/machines/{uuid:machine_id}/board", response=answers(BedOut))
def change_board(request: HttpRequest, machine_id: UUID, form: BoardIn) -> BedOut:
    """Describe the board and what is in it."""
    scope = Scope(request.user)
    services.change_board(scope, machine_id, form)
    return out.bed_out(scope, machine_id)


@router.post("/machines/{uuid:machine_id}/surfacing-preview", response=answers(SurfacingOut))
def preview(request: HttpRequest, machine_id: UUID, form: WishIn) -> SurfacingOut:
    """What a wish comes to; nothing is kept."""
    return out.plan_out(*services.preview(Scope(request.user), machine_id, form.wish))


@router.post("/machines/{uuid:machine_id}/surfacing-plans", response=answers(SurfacingOut))
def keep(request: HttpRequest, machine_id: UUID, form: KeepPlanIn) -> SurfacingOut:
    """Keep a plan and its program."""
    return out.kept_plan_out(services.keep_plan(Scope(request.user), machine_id, form))


@router.get("/surfacing-plans/{uuid:plan_id}", response=answers(SurfacingOut))
def read_plan(request: HttpRequest, plan_id: UUID) -> SurfacingOut:
    """A plan as it was kept."""
    return out.kept_plan_out(Scope(request.user).get(SurfacingPlan, plan_id))


@router.get("/surfacing-plans/{uuid:plan_id}/program")
def download(
    request: HttpRequest, plan_id: UUID, run: Literal["cut", "air"] = "cut"
) -> HttpResponse:
    """Its program as a file: the cut, or the run in the air, while it is of the bed as it is."""
    plan = Scope(request.user).get(SurfacingPlan, plan_id, related=("machine",))
    out.refuse_outdated(plan)
    air = run == "air"
    name = plan.file_name.replace(".nc", "-air.nc") if air else plan.file_name
    answer = HttpResponse(
        plan.air_program if air else plan.program, content_type="text/plain; charset=us-ascii"
    )
    answer["Content-Disposition"] = f'attachment; filename="{name}"'
    return answer


@router.post("/surfacing-plans/{uuid:plan_id}/done", response=answers(BedOut))
def done(request: HttpRequest, plan_id: UUID, form: DoneIn) -> BedOut:
    """The board was surfaced by it."""
    scope = Scope(request.user)
    return out.bed_out(scope, services.surfaced(scope, plan_id, form).machine_id)


@router.post("/machines/{uuid:machine_id}/programs", response=answers(ProgramOut))
def take_program(
    request: HttpRequest, machine_id: UUID, form: Form[ProgramIn], program: File[UploadedFile]
) -> ProgramOut:
    """Take a program in and have it checked."""
    try:
        stated: Any = json.loads(form.stated)
    except ValueError:
        stated = None
    if not isinstance(stated, dict):
        raise Problem(
            "What is stated about it cannot be read.", expected="Send it again.", field="stated"
        )
    kept = services.take_program(
        Scope(request.user),
        machine_id,
        id=form.id,
        name=program.name or "",
        stated=stated,
        size=program.size or 0,
        data=program.chunks(PIECE_BYTES),
    )
    return out.program_out(kept)


@router.get("/programs/{uuid:program_id}", response=answers(ProgramOut))
def read_program(request: HttpRequest, program_id: UUID) -> ProgramOut:
    """A program and where its check stands."""
    return out.program_out(services.light(Scope(request.user), program_id))


@router.delete("/programs/{uuid:program_id}", response=answers(None))
def remove_program(request: HttpRequest, program_id: UUID) -> Status[None]:
    """Throw it away, with what was found of it."""
    services.remove_program(Scope(request.user), program_id)
    return Status(204, None)


@router.post("/programs/{uuid:program_id}/stop", response=answers(ProgramOut))
def stop_program(request: HttpRequest, program_id: UUID) -> ProgramOut:
    """Stop its check."""
    return out.program_out(services.stop_program(Scope(request.user), program_id))


@router.post("/programs/{uuid:program_id}/again", response=answers(ProgramOut))
def check_again(request: HttpRequest, program_id: UUID) -> ProgramOut:
    """Check it again on the bed as it is now."""
    return out.program_out(services.check_again(Scope(request.user), program_id))
