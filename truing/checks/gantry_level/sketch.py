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
    places, nose = sorted(setup.places_mm), easel.nose
    for x in places:
        easel.line((x, -0.12 * nose), (x, 0), thin=True)
    if setup.way == "dial":
        easel.empty()
        easel.line((0, nose), (0, 0.7 * nose))
        easel.dial((0, 0.7 * nose), (0, 0))
        easel.moves((places[0] / 2, -0.3 * nose), (places[-1] / 2, -0.3 * nose), by="slide")
        shows = (
            "A dial in the spindle, which does not turn, its tip on the bed; the carriage takes it "
            f"to {len(places)} places across."
        )
        return easel.done(plain("A dial across the bed"), shows)
    if setup.way == "log":
        way = [(x, up * nose) for x in places for up in (0.5, 0.02, 0.5)]
        easel.moves(*way, by="slide")
        shows = (
            "A probe in the spindle goes across the bed by itself, down and up at every place, and "
            "its controller writes down the points."
        )
        return easel.done(plain("A probe’s log across the bed"), shows)
    for x in places:
        easel.dial((x, 0.7 * nose), (x, 0))
    at = places[0] - 0.12 * machine.table_x_mm
    easel.moves((at, nose), (at, 0.2 * nose), by="slide")
    shows = f"The carriage comes down on the bed at {len(places)} places across it."
    return easel.done(plain("Touch off across the bed"), shows)


def corrected(move: Move, machine: Machine) -> SketchFigure | None:
    """Which end of the beam goes up or down at its motor."""
    lift = machine.lift
    if lift is None:
        return None
    # the right end against the left one
    backed = sum(
        change.after - change.before for change in move.changes if "right" in change.path
    ) - sum(change.after - change.before for change in move.changes if "left" in change.path)
    up = -backed if lift.homes == "top" else backed
    for act in move.acts:
        up += (act.by_mm if act.way == "up" else -act.by_mm) * (1 if "right" in act.end else -1)
    if not up:
        return None
    easel = Easel(machine, "front")
    _, _, low, high = easel.edges("Beam")
    tall = high - low
    end, other = (lift.right_x_mm, lift.left_x_mm)
    way = 1.0 if up > 0 else -1.0
    easel.bolt((other, high), holds=True)
    easel.bolt((end, high))
    easel.moves((end, high - way * 0.4 * tall), (end, high + way * tall), by="slide")
    shows = f"The right end of the beam comes {'up' if way > 0 else 'down'} against the left one."
    return easel.done(move.title, shows)
