"""Routes of accounts."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from django.conf import settings
from django.contrib.auth import logout
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router
from pydantic import BaseModel, Field

from calmsquare.accounts import services
from calmsquare.accounts.signed_in import Anybody
from calmsquare.problems import answers
from calmsquare.workshop import members
from calmsquare.workshop.models import Membership
from calmsquare.workshop.schemas import Created, Invited, SecretIn

router = Router(tags=["accounts"])


class Place(BaseModel):
    """A workshop the person belongs to."""

    id: UUID
    name: str
    role: str
    time_zone: str
    is_demo: bool


class Me(BaseModel):
    """Who is signed in, if anybody, and where they belong."""

    signed_in: bool
    id: str = ""
    """Whose readings wait on a device: what one person typed is never sent as another."""
    name: str = ""
    email: str = ""
    workshops: list[Place] = []
    demo_offered: bool = False


class SignUp(BaseModel):
    """A new account."""

    name: str = Field(max_length=150)
    email: str = Field(max_length=150)
    password: str = Field(max_length=200)
    time_zone: str = Field("UTC", max_length=64)
    invitation: str = Field("", max_length=100)
    """What the link of an invitation carries, for somebody who comes by one."""


class SignIn(BaseModel):
    """An existing one."""

    email: str = Field(max_length=150)
    password: str = Field(max_length=200)


class NewPassword(BaseModel):
    """The present password, and the one to replace it."""

    old: str = Field(max_length=200)
    new: str = Field(max_length=200)


class NewName(BaseModel):
    """What others are to call somebody from now on."""

    name: str = Field(max_length=150)


class Farewell(BaseModel):
    """The present password, of somebody who wants their account gone."""

    password: str = Field(max_length=200)


def me_out(request: HttpRequest) -> Me:
    """The person behind this request."""
    if not request.user.is_authenticated:
        return Me(signed_in=False, demo_offered=settings.DEMO)
    user = request.user
    mine = Membership.objects.filter(user=user).select_related("workshop").order_by("pk")
    return Me(
        signed_in=True,
        id=str(user.pk),
        name=user.first_name or user.username,
        email=user.email,
        demo_offered=settings.DEMO,
        workshops=[
            Place(
                id=m.workshop_id,
                name=m.workshop.name,
                role=m.role,
                time_zone=m.workshop.time_zone,
                is_demo=m.workshop.is_demo,
            )
            for m in mine
        ],
    )


@router.get("/me", response=answers(Me), auth=None)
def me(request: HttpRequest) -> Me:
    """Who is signed in; also sets the CSRF cookie."""
    get_token(request)
    return me_out(request)


@router.post("/sign-up", response=answers(Me), auth=Anybody())
def sign_up(request: HttpRequest, form: SignUp) -> Me:
    """Make an account with a workshop of its own."""
    services.sign_up(request, **form.model_dump())
    return me_out(request)


@router.post("/sign-in", response=answers(Me), auth=Anybody())
def sign_in(request: HttpRequest, form: SignIn) -> Me:
    """Sign in."""
    # a wrong password is counted, though the request is refused
    request.keeps_what_it_wrote = True  # type: ignore[attr-defined]
    services.sign_in(request, **form.model_dump())
    return me_out(request)


@router.post("/sign-out", response=answers(Me), auth=Anybody())
def sign_out(request: HttpRequest) -> Me:
    """Sign out; harmless when nobody is signed in."""
    logout(request)
    return me_out(request)


@router.post("/password", response=answers(Me))
def password(request: HttpRequest, form: NewPassword) -> Me:
    """Change one's own password."""
    services.change_password(request, old=form.old, new=form.new)
    return me_out(request)


@router.post("/name", response=answers(Me))
def name(request: HttpRequest, form: NewName) -> Me:
    """Change one's own name."""
    services.call_otherwise(request, form.name)
    return me_out(request)


@router.post("/remove", response=answers(Me))
def remove(request: HttpRequest, form: Farewell) -> Me:
    """Remove one's own account, and the workshops that nobody else belongs to."""
    services.remove(request, password=form.password)
    return me_out(request)


@router.post("/invitation", response=answers(Invited), auth=Anybody())
def look_at_invitation(request: HttpRequest, form: SecretIn) -> Invited:
    """Where an invitation leads, for whoever has its link, signed in or not."""
    made = members.invited(form.secret)
    role: Any = made.role
    return Invited(workshop=made.workshop.name, role=role, by=members.inviter(made))


@router.post("/join", response=answers(Created))
def join(request: HttpRequest, form: SecretIn) -> Created:
    """Take an invitation up; the id of the workshop."""
    user: Any = request.user
    return Created(id=members.take_up(user, form.secret).pk)
