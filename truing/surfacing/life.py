"""How often a board can still be skimmed."""

from __future__ import annotations

import math
from collections.abc import Sequence

from truing.machine.board import Board

MARGIN_MM = 2.0
"""Room about what must not be cut, where no plan says otherwise."""


def more_times(rooms_mm: Sequence[float], usual_mm: float) -> int | None:
    """Skims of a usual depth that fit into the least of these rooms; None for no depth."""
    if usual_mm <= 0:
        return None
    return max(0, math.floor(min(rooms_mm) / usual_mm + 1e-9))


def rooms(board: Board, margin_mm: float = MARGIN_MM) -> list[float]:
    """What can come off a board before it is too thin, and before the room about each thing in it
    that must not be cut is met (mm)."""
    deep = [-k.top_mm for k in board.keep_outs if k.top_mm < 0 and not k.may_cut]
    return [board.thickness_mm - board.least_mm, *(d - margin_mm for d in deep)]
