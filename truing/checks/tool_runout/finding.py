"""What reading a chain of pieces comes to."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field

from truing.checks.turning import Circle
from truing.contract.case import Case
from truing.contract.finding import Finding, Quantity
from truing.measure.estimate import Estimate


class Link(BaseModel):
    """What part of the chain adds, as a vector in the frame of the spindle, all marks in line."""

    slots: list[str]
    """From the spindle outward; several that were only turned together."""
    joint: str = ""
    """Where it is turned; "" for what stays with the spindle."""
    title: str
    x_mm: float
    y_mm: float
    expanded_mm: float
    """U of either part."""
    tir: Estimate
    """What it adds by itself."""
    without: Estimate
    """What would be left if it ran true."""


class Seat(BaseModel):
    """What turning one joint would leave."""

    joint: str
    title: str
    degrees: float
    """On from its mark, the way the marks are counted."""
    tir: Estimate
    per_degree_mm: float
    """TIR that a degree more or less makes at the most."""
    turned: list[float] = Field(default_factory=list)
    """The end of the chain in that seat: x and y (mm)."""


class Tried(BaseModel):
    """One of the pieces that were put in by turns."""

    piece: str
    name: str
    tir: Estimate
    """What all ran out by with it."""
    against: Estimate | None = None
    """How far it stands off the first one, as TIR; None for that."""
    less: Estimate | None = None
    """By how much all runs out less with it than with the first one; None for that."""


class ToolRunoutFinding(Finding):
    """What runs out, and what makes it."""

    kind: Literal["tool_runout"] = "tool_runout"
    circles: list[Circle] = Field(default_factory=list)
    """By height, of the first seating."""
    links: list[Link] = Field(default_factory=list)
    """From the spindle outward."""
    seats: list[Seat] = Field(default_factory=list)
    """The best seat of each joint that was turned."""
    tried: list[Tried] = Field(default_factory=list)
    """Best first, where any can be told from the first one; else in their order."""


def end_of(case: Case[Any, Any]) -> Quantity:
    """What is judged: how far the end of the chain runs out. LookupError before it was found."""
    found: Quantity | None = case.get("tool")
    if found is None:
        raise LookupError("The end of the chain has not been found yet.")
    return found
