"""Routes of workshops, members and kit."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Status

from calmsquare.problems import answers
from calmsquare.workshop import members, services, wanted
from calmsquare.workshop.models import Instrument, Invitation, Piece, Role
from calmsquare.workshop.schemas import (
    ArchivedIn,
    Created,
    InstrumentChange,
    InstrumentIn,
    InvitationMade,
    InvitationOut,
    InviteIn,
    PieceChange,
    PieceIn,
    RoleIn,
    ShimChange,
    ShimIn,
    WorkshopIn,
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
from calmsquare.workshop.wanted import GotIn, WantedIn, WantedOut
from truing.kit.usual import System, Usual, usual

router = Router(tags=["workshop"])


@router.post("/workshops", response=answers(Created))
def create_workshop(request: HttpRequest, form: WorkshopIn) -> Created:
    """Make another workshop, owned by the person who makes it."""
    user: Any = request.user
    return Created(id=services.create_workshop(user, **form.model_dump()).pk)


@router.post("/workshops/{uuid:workshop_id}/leave", response=answers(None))
def leave(request: HttpRequest, workshop_id: UUID) -> Status[None]:
    """Leave it."""
    scope = Scope(request.user)
    scope.role(workshop_id)
    members.leave(scope, workshop_id)
    return Status(204, None)


@router.put("/members/{int:member_id}", response=answers(None))
def change_member(request: HttpRequest, member_id: int, form: RoleIn) -> Status[None]:
    """Another role; owners only."""
    members.change_member(Scope(request.user), member_id, Role(form.role))
    return Status(204, None)


@router.delete("/members/{int:member_id}", response=answers(None))
def remove_member(request: HttpRequest, member_id: int) -> Status[None]:
    """Take somebody out; owners only."""
    members.change_member(Scope(request.user), member_id, None)
    return Status(204, None)


def invitation_out(made: Invitation) -> InvitationOut:
    """An invitation as shown to those in the workshop."""
    role: Any = made.role
    by = members.inviter(made)
    return InvitationOut(id=made.pk, role=role, whom=made.whom, by=by, until=made.until)


@router.get("/workshops/{uuid:workshop_id}/invitations", response=answers(list[InvitationOut]))
def read_invitations(request: HttpRequest, workshop_id: UUID) -> list[InvitationOut]:
    """Invitations that nobody has taken up yet."""
    found = members.open_invitations(Scope(request.user), workshop_id)
    return [invitation_out(made) for made in found]


@router.post("/workshops/{uuid:workshop_id}/invitations", response=answers(InvitationMade))
def invite(request: HttpRequest, workshop_id: UUID, form: InviteIn) -> InvitationMade:
    """Make a link that lets one person in; owners only."""
    scope = Scope(request.user)
    made, secret = members.invite(scope, workshop_id, role=Role(form.role), whom=form.whom)
    return InvitationMade(invitation=invitation_out(made), secret=secret)


@router.delete("/invitations/{uuid:invitation_id}", response=answers(None))
def take_back_invitation(request: HttpRequest, invitation_id: UUID) -> Status[None]:
    """Take an invitation back; owners only."""
    members.take_back(Scope(request.user), invitation_id)
    return Status(204, None)


@router.get("/usual-kit", response=answers(list[Usual]))
def read_usual_kit(request: HttpRequest, system: System = "metric") -> list[Usual]:
    """What usually lies on a bench to measure with, for those who read in mm or in inches."""
    return usual(system)


@router.get("/workshops/{uuid:workshop_id}/kit", response=answers(KitOut))
def read_kit(request: HttpRequest, workshop_id: UUID) -> KitOut:
    """Instruments and shim stock, with the schema of the form for each type of instrument."""
    return kit(Scope(request.user), workshop_id)


@router.post("/workshops/{uuid:workshop_id}/instruments", response=answers(InstrumentOut))
def create_instrument(request: HttpRequest, workshop_id: UUID, form: InstrumentIn) -> InstrumentOut:
    """Add an instrument."""
    return instrument_out(
        services.save_instrument(Scope(request.user), form, workshop_id=workshop_id)
    )


@router.put("/instruments/{uuid:instrument_id}", response=answers(InstrumentOut))
def change_instrument(
    request: HttpRequest, instrument_id: UUID, form: InstrumentChange
) -> InstrumentOut:
    """Correct an instrument. Rounds keep the one they were read with."""
    return instrument_out(
        services.save_instrument(Scope(request.user), form, instrument_id=instrument_id)
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
    return piece_out(services.save_piece(scope, form, workshop_id=workshop_id))


@router.put("/pieces/{uuid:piece_id}", response=answers(PieceOut))
def change_piece(request: HttpRequest, piece_id: UUID, form: PieceChange) -> PieceOut:
    """Correct a holder, collet or tool."""
    scope = Scope(request.user)
    return piece_out(services.save_piece(scope, form, piece_id=piece_id))


@router.put("/pieces/{uuid:piece_id}/archived", response=answers(PieceOut))
def archive_piece(request: HttpRequest, piece_id: UUID, form: ArchivedIn) -> PieceOut:
    """Put a holder, collet or tool away, or take it out again."""
    scope = Scope(request.user)
    return piece_out(services.archive(scope, Piece, piece_id, form.archived))


@router.post("/workshops/{uuid:workshop_id}/shims", response=answers(ShimOut))
def create_shim(request: HttpRequest, workshop_id: UUID, form: ShimIn) -> ShimOut:
    """Put pieces of a thickness into the tin."""
    return shim_out(services.save_shim(Scope(request.user), form, workshop_id=workshop_id))


@router.put("/shims/{uuid:shim_id}", response=answers(ShimOut))
def change_shim(request: HttpRequest, shim_id: UUID, form: ShimChange) -> ShimOut:
    """Correct a thickness or a count."""
    return shim_out(services.save_shim(Scope(request.user), form, shim_id=shim_id))


@router.get("/workshops/{uuid:workshop_id}/wanted", response=answers(list[WantedOut]))
def read_wanted(request: HttpRequest, workshop_id: UUID) -> list[WantedOut]:
    """What is to be bought."""
    return wanted.wanted_of(Scope(request.user), workshop_id)


@router.post("/workshops/{uuid:workshop_id}/wanted", response=answers(list[WantedOut]))
def want(request: HttpRequest, workshop_id: UUID, form: WantedIn) -> list[WantedOut]:
    """Put something on the list to buy."""
    return wanted.want(Scope(request.user), workshop_id, form)


@router.put("/wanted/{uuid:wanted_id}/got", response=answers(list[WantedOut]))
def got_wanted(request: HttpRequest, wanted_id: UUID, form: GotIn) -> list[WantedOut]:
    """It was bought, or not after all."""
    return wanted.got(Scope(request.user), wanted_id, form)


@router.delete("/wanted/{uuid:wanted_id}", response=answers(list[WantedOut]))
def take_off_wanted(request: HttpRequest, wanted_id: UUID) -> list[WantedOut]:
    """Take something off the list."""
    return wanted.take_off(Scope(request.user), wanted_id)
