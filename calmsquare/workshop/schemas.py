"""What is typed about workshops, members, machines and kit."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from pydantic import BaseModel, Field


class WorkshopIn(BaseModel):
    """A new workshop."""

    name: str = Field(max_length=80)
    time_zone: str = Field("UTC", max_length=64)


class WorkshopChange(BaseModel):
    """Another name of a workshop, and the one that the page began with."""

    name: str = Field(max_length=80)
    was: str


class Created(BaseModel):
    """The id of what was made."""

    id: UUID


RoleName = Literal["owner", "maker", "viewer"]


class InviteIn(BaseModel):
    """What somebody may do who is let in, and whom the link is meant for."""

    role: RoleName
    whom: str = Field("", max_length=80)


class InvitationOut(BaseModel):
    """An invitation that nobody has taken up yet."""

    id: UUID
    role: RoleName
    whom: str
    by: str
    until: datetime


class InvitationMade(BaseModel):
    """A new invitation, with the secret that its link carries: told this once."""

    invitation: InvitationOut
    secret: str


class SecretIn(BaseModel):
    """What the link of an invitation carries."""

    secret: str = Field(max_length=100)


class Invited(BaseModel):
    """Where an invitation leads, before it is taken up."""

    workshop: str
    role: RoleName
    by: str


class RoleIn(BaseModel):
    """Another role for a member."""

    role: RoleName


class MachineIn(BaseModel):
    """A machine as filled in."""

    name: str = Field(max_length=60)
    spec: dict[str, Any]
    tolerances: dict[str, dict[str, float | str]] = {}
    """Limits that differ: kind of check → limit → its size, metric or a text with its unit."""
    intervals: dict[str, int] | None = None


class NewMachineIn(MachineIn):
    """A new one; `id` is made by the browser."""

    id: UUID | None = None


class MachineChange(MachineIn):
    """Changes to one."""

    was: MachineIn
    """What the page began with: what others have changed since stays."""


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


class InstrumentChange(InstrumentIn):
    """Changes to one, and what the page began with."""

    was: InstrumentIn


class PieceChange(PieceIn):
    """Changes to one, and what the page began with."""

    was: PieceIn


class ShimIn(BaseModel):
    """A thickness of stock as filled in."""

    thickness_mm: float | str
    count: int
    material: str = Field("", max_length=40)
    tolerance_mm: float | str = 0.003


class ShimChange(ShimIn):
    """Changes to one, and what the page began with."""

    was: ShimIn
