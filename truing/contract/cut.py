"""Something that has to be cut before it can be read: its program, or the same by handwheel."""

from __future__ import annotations

from pydantic import BaseModel

from truing.measure.words import Words


class CutProgram(BaseModel):
    """One piece to be cut."""

    key: str
    title: Words
    needs: list[Words]
    """The piece it takes, the cutter, where zero is, how long it takes."""
    file_name: str
    program: str
    """RS-274, read back by the checker without a finding; "" where there is none to offer."""
    air_program: str
    """The same path raised, for a run in the air."""
    by_hand: list[Words]
    """The same as lines for handwheels."""
    refused: Words | None = None
    """Why no program is offered, where one was asked for."""
