"""Shim stock."""

from __future__ import annotations

from pydantic import BaseModel, Field


class Shim(BaseModel):
    """One thickness of stock and how many pieces there are."""

    thickness_mm: float = Field(gt=0, le=10)
    count: int = Field(ge=0, le=200)
    tolerance_mm: float = Field(0.003, ge=0, le=0.5)
