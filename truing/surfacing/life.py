"""How often a board can still be skimmed: one figure, on every screen."""

from __future__ import annotations

import math

import numpy as np

from truing.surfacing.facts import Facts

MARGIN_MM = 2.0
"""Room about what must not be cut, where no plan says otherwise."""


def metal_mm(facts: Facts) -> list[float]:
    """How deep each thing that must not be cut lies below the highest place of the face (mm)."""
    face = facts.face if facts.map else None
    highest = face.highest_mm if face else 0.0
    return [
        (highest - face.high_at(k.outline) if face else 0.0) - k.top_mm
        for k in facts.board.keep_outs
        if k.top_mm < 0 and not k.may_meet
    ]


def more_times(
    facts: Facts, margin_mm: float = MARGIN_MM, after_mm: float = 0.0
) -> tuple[int, float] | None:
    """How many skims are left until the board is too thin, or the room about metal is met, and how
    much one takes off: what they took so far, or the one that is planned and takes `after_mm`,
    which is counted as done. None where nothing is known to take off."""
    usual = float(np.median(facts.taken_mm)) if facts.taken_mm else after_mm
    if usual <= 0:
        return None
    board = facts.board
    rooms = [board.thickness_mm - board.least_mm, *(d - margin_mm for d in metal_mm(facts))]
    return max(0, math.floor((min(rooms) - after_mm) / usual + 1e-9)), usual
