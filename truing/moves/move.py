"""A move: one thing a person can do to a machine, with its predicted result."""

from __future__ import annotations

from pydantic import BaseModel, Field

from truing.mechanisms import Mechanism
from truing.quantities import Estimate
from truing.words import Words


class Target(BaseModel):
    """Where to bring the needle while tapping, with the tip standing at one station."""

    station: str
    label: str
    from_mm: float
    to_mm: float
    words: Words


class PadStack(BaseModel):
    """The shims that lie under one pad, or behind one row of screws, before and after."""

    pad: str
    x_mm: float
    y_mm: float
    before_mm: list[float]
    after_mm: list[float]
    words: Words


class Prediction(BaseModel):
    """What one quantity should read after the move, fixed before it is read."""

    quantity: str
    after: Estimate
    label: str
    words: Words


class Move(BaseModel):
    """Advice for one mechanism; `targets` for tapping, `stacks` for shims."""

    key: str
    mechanism: Mechanism
    title: Words
    steps: list[Words]
    cautions: list[str] = Field(default_factory=list)
    targets: list[Target] = Field(default_factory=list)
    stacks: list[PadStack] = Field(default_factory=list)
    predicted: list[Prediction]
    corrects_mm_per_m: dict[str, float]
    """What it takes off each quantity, mm/m, as aimed at."""
    notes: list[Words] = Field(default_factory=list)
    wants_photo: bool = False
    needs: Words | None = None
    """Why it cannot be made as it stands (no stock that helps, say), or None."""


class LeaveIt(BaseModel):
    """The other answer: what it costs to leave it, and what mending it would cost."""

    text: Words


class Advice(BaseModel):
    """Moves in the order in which to make them, and what leaving it would mean."""

    moves: list[Move]
    leave: LeaveIt | None
    remarks: list[Words] = Field(default_factory=list)


class Shim(BaseModel):
    """One thickness of stock and how many pieces there are."""

    thickness_mm: float = Field(gt=0, le=10)
    count: int = Field(ge=0, le=200)
    tolerance_mm: float = Field(0.003, ge=0, le=0.5)
