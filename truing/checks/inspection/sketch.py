"""A slide that is run from stop to stop, drawn."""

from __future__ import annotations

from truing.checks.inspection.setup import InspectionSetup
from truing.drawing.sketches import SketchFigure
from truing.drawing.slides import Seen
from truing.machine import Machine
from truing.machine.parts import DIRECTIONS
from truing.measure.words import plain


def set_up(setup: InspectionSetup, machine: Machine) -> SketchFigure | None:
    """A rule along the first travel that is run; None where none is."""
    if not setup.travels or not setup.directions:
        return None
    slide = setup.directions[0]
    seen = Seen(machine, slide)
    reach = 0.5 * seen.half_along
    for n in range(9):
        at = reach * (n - 4) / 4
        tick = (0.3 if n % 4 == 0 else 0.15) * seen.clear
        seen.easel.line(
            seen.beside(at, -1, 0.4 * seen.clear), seen.beside(at, -1, 0.4 * seen.clear + tick)
        )
    seen.easel.line(
        seen.beside(-reach, -1, 0.4 * seen.clear), seen.beside(reach, -1, 0.4 * seen.clear)
    )
    seen.easel.moves(seen.at(-reach, 0), seen.at(reach, 0), by="hand")
    shows = (
        f"The slide that goes {DIRECTIONS[slide]} is run from stop to stop by hand, a rule beside "
        "it. The rest is looked at, place by place."
    )
    return seen.easel.done(plain("From stop to stop, beside a rule"), shows)
