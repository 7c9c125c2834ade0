"""Routes of workshops, members, machines and kit."""

from __future__ import annotations

from typing import Any, Literal
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Status
from pydantic import BaseModel, Field

from calmsquare.problems import answers
from calmsquare.workshop import services
from calmsquare.workshop.models import Instrument, Machine, Piece, Role
from calmsquare.workshop.overview import (
    CourseOut,
    Drawing,
    MachineForms,
    MachineOut,
    MemberOut,
    WorkshopOut,
    course,
    drawing,
    machine_forms,
    machine_out,
    member_out,
    members,
    workshop_out,
)
from calmsquare.workshop.scope import Scope
from calmsquare.workshop.shelf import (
    InstrumentOut,
    KitOut,
    PieceOut,
    ShimOut,
    instrument_out,
    kit,
    piece_out,
    shim_out,
)

router = Router(tags=["workshop"])


class WorkshopIn(BaseModel):
    """A new workshop."""

    name: str = Field(max_length=80)
    time_zone: str = Field("UTC", max_length=64)


class Created(BaseModel):
    """The id of what was made."""

    id: UUID


class MemberIn(BaseModel):
    """Somebody with an account, and what they may do."""

    email: str = Field(max_length=150)
    role: Literal["owner", "maker", "viewer"]


class RoleIn(BaseModel):
    """Another role for a member."""

    role: Literal["owner", "maker", "viewer"]


class MachineIn(BaseModel):
    """A machine as filled in."""

    id: UUID | None = None
    name: str = Field(max_length=60)
    spec: dict[str, Any]
    tolerances: dict[str, dict[str, float]] = {}
    intervals: dict[str, int] | None = None


class SpecIn(BaseModel):
    """A machine's description as far as it is typed."""

    spec: dict[str, Any]


class ArchivedIn(BaseModel):
    """Put away, or (false) taken out again."""

    archived: bool


class InstrumentIn(BaseModel):
    """An instrument as filled in."""

    name: str = Field(max_length=60)
    spec: dict[str, Any]


class PieceIn(BaseModel):
    """A holder, collet or tool as filled in."""

    name: str = Field(max_length=60)
    spec: dict[str, Any]


class ShimIn(BaseModel):
    """A thickness of stock as filled in."""

    thickness_mm: float | str
    count: int
    material: str = Field("", max_length=40)
    tolerance_mm: float | str = 0.003


@router.post("/workshops", response=answers(Created))
def create_workshop(request: HttpRequest, form: WorkshopIn) -> Created:
    """Make another workshop, owned by the person who makes it."""
    user: Any = request.user
    return Created(id=services.create_workshop(user, **form.model_dump()).pk)


@router.get("/workshops/{uuid:workshop_id}", response=answers(WorkshopOut))
def read_workshop(request: HttpRequest, workshop_id: UUID) -> WorkshopOut:
    """Every machine of a workshop with its ghost and what is out."""
    return workshop_out(Scope(request.user), workshop_id)


@router.get("/workshops/{uuid:workshop_id}/members", response=answers(list[MemberOut]))
def read_members(request: HttpRequest, workshop_id: UUID) -> list[MemberOut]:
    """Who belongs to it."""
    return members(Scope(request.user), workshop_id)


@router.post("/workshops/{uuid:workshop_id}/members", response=answers(MemberOut))
def add_member(request: HttpRequest, workshop_id: UUID, form: MemberIn) -> MemberOut:
    """Let somebody in; owners only."""
    return member_out(
        services.add_member(
            Scope(request.user), workshop_id, email=form.email, role=Role(form.role)
        )
    )


@router.post("/workshops/{uuid:workshop_id}/leave", response=answers(None))
def leave(request: HttpRequest, workshop_id: UUID) -> Status[None]:
    """Leave it."""
    scope = Scope(request.user)
    scope.role(workshop_id)
    services.leave(scope, workshop_id)
    return Status(204, None)


@router.put("/members/{int:member_id}", response=answers(None))
def change_member(request: HttpRequest, member_id: int, form: RoleIn) -> Status[None]:
    """Another role; owners only."""
    services.change_member(Scope(request.user), member_id, Role(form.role))
    return Status(204, None)


@router.delete("/members/{int:member_id}", response=answers(None))
def remove_member(request: HttpRequest, member_id: int) -> Status[None]:
    """Take somebody out; owners only."""
    services.change_member(Scope(request.user), member_id, None)
    return Status(204, None)


@router.get("/course", response=answers(CourseOut))
def read_course(request: HttpRequest) -> CourseOut:
    """The order of the work with every guide, and what can happen in between."""
    return course()


@router.get("/machine-forms", response=answers(MachineForms))
def read_machine_forms(request: HttpRequest) -> MachineForms:
    """Starting points by form, and the schema of the form that corrects them."""
    return machine_forms()


@router.post("/machine-drawing", response=answers(Drawing))
def draw_machine(request: HttpRequest, form: SpecIn) -> Drawing:
    """Draw a machine from its figures while they are typed; nothing is kept."""
    return drawing(form.spec)


@router.post("/workshops/{uuid:workshop_id}/machines", response=answers(MachineOut))
def create_machine(request: HttpRequest, workshop_id: UUID, form: MachineIn) -> MachineOut:
    """Add a machine."""
    scope = Scope(request.user)
    machine = services.save_machine(
        scope,
        workshop_id=workshop_id,
        id=form.id,
        name=form.name,
        spec=form.spec,
        limits=form.tolerances,
        intervals=form.intervals,
    )
    return machine_out(scope, machine)


@router.get("/machines/{uuid:machine_id}", response=answers(MachineOut))
def read_machine(request: HttpRequest, machine_id: UUID) -> MachineOut:
    """A machine, what is measured of it, and its description."""
    scope = Scope(request.user)
    return machine_out(scope, scope.get(Machine, machine_id, related=("workshop",)))


@router.put("/machines/{uuid:machine_id}", response=answers(MachineOut))
def change_machine(request: HttpRequest, machine_id: UUID, form: MachineIn) -> MachineOut:
    """Correct a machine's description or limits. Settled rounds stay as they were judged."""
    scope = Scope(request.user)
    machine = services.save_machine(
        scope,
        machine_id=machine_id,
        name=form.name,
        spec=form.spec,
        limits=form.tolerances,
        intervals=form.intervals,
    )
    return machine_out(scope, machine)


@router.put("/machines/{uuid:machine_id}/archived", response=answers(MachineOut))
def archive_machine(request: HttpRequest, machine_id: UUID, form: ArchivedIn) -> MachineOut:
    """Put a machine away with its logbook, or take it out again."""
    scope = Scope(request.user)
    return machine_out(scope, services.archive(scope, Machine, machine_id, form.archived))


@router.get("/workshops/{uuid:workshop_id}/kit", response=answers(KitOut))
def read_kit(request: HttpRequest, workshop_id: UUID) -> KitOut:
    """Instruments and shim stock, with the schema of the form for each type of instrument."""
    return kit(Scope(request.user), workshop_id)


@router.post("/workshops/{uuid:workshop_id}/instruments", response=answers(InstrumentOut))
def create_instrument(request: HttpRequest, workshop_id: UUID, form: InstrumentIn) -> InstrumentOut:
    """Add an instrument."""
    return instrument_out(
        services.save_instrument(
            Scope(request.user), workshop_id=workshop_id, name=form.name, spec=form.spec
        )
    )


@router.put("/instruments/{uuid:instrument_id}", response=answers(InstrumentOut))
def change_instrument(
    request: HttpRequest, instrument_id: UUID, form: InstrumentIn
) -> InstrumentOut:
    """Correct an instrument. Rounds keep the one they were read with."""
    return instrument_out(
        services.save_instrument(
            Scope(request.user), instrument_id=instrument_id, name=form.name, spec=form.spec
        )
    )


@router.put("/instruments/{uuid:instrument_id}/archived", response=answers(InstrumentOut))
def archive_instrument(
    request: HttpRequest, instrument_id: UUID, form: ArchivedIn
) -> InstrumentOut:
    """Put an instrument away, or take it out again."""
    scope = Scope(request.user)
    return instrument_out(services.archive(scope, Instrument, instrument_id, form.archived))


@router.post("/workshops/{uuid:workshop_id}/pieces", response=answers(PieceOut))
def create_piece(request: HttpRequest, workshop_id: UUID, form: PieceIn) -> PieceOut:
    """Add a holder, collet or tool."""
    scope = Scope(request.user)
    return piece_out(
        services.save_piece(scope, workshop_id=workshop_id, name=form.name, spec=form.spec)
    )


@router.put("/pieces/{uuid:piece_id}", response=answers(PieceOut))
def change_piece(request: HttpRequest, piece_id: UUID, form: PieceIn) -> PieceOut:
    """Correct a holder, collet or tool."""
    scope = Scope(request.user)
    return piece_out(services.save_piece(scope, piece_id=piece_id, name=form.name, spec=form.spec))


@router.put("/pieces/{uuid:piece_id}/archived", response=answers(PieceOut))
def archive_piece(request: HttpRequest, piece_id: UUID, form: ArchivedIn) -> PieceOut:
    """Put a holder, collet or tool away, or take it out again."""
    scope = Scope(request.user)
    return piece_out(services.archive(scope, Piece, piece_id, form.archived))


@router.post("/workshops/{uuid:workshop_id}/shims", response=answers(ShimOut))
def create_shim(request: HttpRequest, workshop_id: UUID, form: ShimIn) -> ShimOut:
    """Put pieces of a thickness into the tin."""
    return shim_out(
        services.save_shim(Scope(request.user), form.model_dump(), workshop_id=workshop_id)
    )


@router.put("/shims/{uuid:shim_id}", response=answers(ShimOut))
def change_shim(request: HttpRequest, shim_id: UUID, form: ShimIn) -> ShimOut:
    """Correct a thickness or a count."""
    return shim_out(services.save_shim(Scope(request.user), form.model_dump(), shim_id=shim_id))
