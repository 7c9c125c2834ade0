"""A needle on a drawn dial, as a reading and back."""

from __future__ import annotations

import math

from pydantic import BaseModel, Field

from truing.kit.instruments.base import BaseInstrument
from truing.measure.lengths import Length
from truing.measure.problem import Problem

MOST_TURNS = 1000


class DialPosition(BaseModel):
    """A needle dragged on the drawn dial: degrees clockwise from zero, and whole turns."""

    angle_deg: float = Field(ge=-360, le=360, allow_inf_nan=False)
    turns: int = Field(0, ge=-MOST_TURNS, le=MOST_TURNS)


def dial_reading(instrument: BaseInstrument, at: DialPosition) -> Length:
    """What a dragged needle means, to the step that can be read; typed for the record.

    Problem when the instrument has no needle.
    """
    turn, division = instrument.turn_mm, instrument.division_mm
    if turn is None or division is None:
        raise Problem("This instrument has no needle.", expected="Type the reading instead.")
    mm = (at.angle_deg / 360 + at.turns) * turn
    mm = round(mm / instrument.step_mm) * instrument.step_mm
    divisions = round(mm / division, 3)
    return Length(mm=mm, text=f"{divisions:+g} div", unit="div", signed=True)


def needle_at(instrument: BaseInstrument, shown_mm: float) -> DialPosition | None:
    """Where the needle stands for a shown value; None without a needle, or where none could be."""
    turn = instrument.turn_mm
    if turn is None or abs(shown_mm / turn) > MOST_TURNS:
        return None
    turns = math.trunc(shown_mm / turn)
    return DialPosition(angle_deg=round((shown_mm / turn - turns) * 360, 3), turns=turns)
