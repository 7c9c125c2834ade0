"""What the bed's screen sends and gets."""

from __future__ import annotations

from datetime import datetime
from typing import Any
from uuid import UUID

from pydantic import BaseModel, Field

from calmsquare.door import Moment
from truing.drawing.figures import RidgesFigure
from truing.machine.board import Board
from truing.measure.words import Words
from truing.programs.picture import Picture
from truing.programs.report import Report
from truing.surfacing.plan import Surfacing


class KeepOutOut(BaseModel):
    """Something in the way, as it is drawn; from mid bed (mm)."""

    name: str
    words: Words
    outline: list[tuple[float, float]]
    may_cut: bool
    tall: bool
    """It stands over the board's face."""


class MapOut(BaseModel):
    """Heights over the board, drawn in bands; from mid bed (mm)."""

    x_mm: list[float]
    y_mm: list[float]
    up_mm: list[list[float | None]]
    step_mm: float
    step_words: Words
    most_mm: float
    words: Words
    at: datetime
    fresh: bool
    check_id: UUID


class SurfacingLine(BaseModel):
    """A plan that was kept."""

    id: UUID
    at: datetime
    by: str
    sentence: Words
    file_name: str
    done_at: datetime | None
    done_words: Words | None
    stale: Words | None
    """Why its program is not to be run any more; None while it is of this bed."""


class ProgramLine(BaseModel):
    """A program that is or was checked."""

    id: UUID
    name: str
    at: datetime
    state: str
    share: float
    sentence: Words


class BedOut(BaseModel):
    """A bed and all that is planned on it."""

    machine_id: UUID
    machine: str
    workshop_id: UUID
    may_change: bool
    controller: bool
    table_x_mm: float
    table_y_mm: float
    board: Board | None
    board_words: list[Words]
    """Thickness, life, what is in it."""
    board_outline: list[tuple[float, float]]
    keep_outs: list[KeepOutOut]
    map: MapOut | None
    lean_words: Words
    board_schema: dict[str, Any]
    board_values: dict[str, Any]
    board_shown: dict[str, Words]
    wish_schema: dict[str, Any]
    wish: dict[str, Any]
    wish_shown: dict[str, Words]
    done_schema: dict[str, Any]
    stated_schema: dict[str, Any]
    stated: dict[str, Any]
    stated_shown: dict[str, Words]
    plans: list[SurfacingLine]
    programs: list[ProgramLine]
    cautions: list[str]
    before: list[Words]
    """What should be fresh before the board is surfaced, and is not."""


class WishIn(BaseModel):
    """A wish as typed."""

    wish: dict[str, Any]


class KeepPlanIn(WishIn):
    """A wish whose plan is to be kept, under an id from the browser."""

    id: UUID


class SurfacingOut(BaseModel):
    """A plan, kept or only looked at."""

    id: UUID | None
    plan: Surfacing
    wish: dict[str, Any]
    wish_shown: dict[str, Words]
    ridges: RidgesFigure | None
    """What stays between its passes, in section."""
    done_at: datetime | None = None


class BoardIn(BaseModel):
    """The board as typed, and as the page began with it; None for none."""

    board: dict[str, Any] | None
    was: dict[str, Any] | None


class DoneIn(BaseModel):
    """What was found after surfacing."""

    done: dict[str, Any] = Field(default_factory=dict)
    photo_id: UUID | None = None
    at: Moment | None = None


class ProgramOut(BaseModel):
    """A program and what its check came to."""

    id: UUID
    machine_id: UUID
    name: str
    size: int
    at: datetime
    state: str
    share: float
    reason: str
    report: Report | None
    picture: Picture | None
    board: list[float] | None
    """The board in the program's coordinates."""
    kept: list[list[tuple[float, float]]]
    shown_lines: dict[int, str]
    """The lines of the program that the report names."""
