"""What is typed about workshops, members, machines and kit."""

from __future__ import annotations

from typing import Any, Literal
from uuid import UUID

from pydantic import BaseModel, Field


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
    was: dict[str, Any] | None = None
    """The description that the page began with: what others have changed since stays."""


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
