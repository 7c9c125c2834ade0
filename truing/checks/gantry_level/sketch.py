"""How a gantry is touched off and levelled, drawn."""

from __future__ import annotations

from truing.checks.gantry_level.setup import GantryLevelSetup
from truing.contract.move import Move
from truing.drawing.sketches import Easel, SketchFigure
from truing.machine import Machine
from truing.measure.words import plain


def set_up(setup: GantryLevelSetup, machine: Machine) -> SketchFigure:
    """Touches across the bed, from the front."""
    easel = Easel(machine, "front")
    for x in setup.places_mm:
        easel.dial((x, 0.7 * easel.nose), (x, 0))
    at = min(setup.places_mm)
    side = 0.12 * machine.table_x_mm
    easel.moves((at - side, easel.nose), (at - side, 0.2 * easel.nose), by="slide")
    shows = f"The carriage comes down on the bed at {len(setup.places_mm)} places across it."
    return easel.done(plain("Touch off across the bed"), shows)


def corrected(move: Move, machine: Machine) -> SketchFigure | None:
    """Which end of the beam goes up or down at its motor."""
    lift = machine.lift
    take = next((t.amount for t in move.takes), 0.0)
    if lift is None or not take:
        return None
    easel = Easel(machine, "front")
    _, _, low, high = easel.edges("Beam")
    tall = high - low
    # what is taken off is how much the right end stands too high
    end, other = (lift.right_x_mm, lift.left_x_mm)
    way = -1.0 if take > 0 else 1.0
    easel.bolt((other, high), holds=True)
    easel.bolt((end, high))
    easel.moves((end, high - way * 0.4 * tall), (end, high + way * tall), by="slide")
    shows = f"The right end of the beam comes {'up' if way > 0 else 'down'} against the left one."
    return easel.done(move.title, shows)
