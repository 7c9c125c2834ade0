"""A holder set up on its own bore, read and trued, drawn."""

from __future__ import annotations

from truing.checks.taper_truing.setup import TaperTruingSetup
from truing.contract.move import Move
from truing.drawing.sketches import Easel, SketchFigure
from truing.machine import Machine
from truing.measure.words import plain

LONG = 100.0


def _held(machine: Machine) -> Easel:
    """Chuck at the left, the mandrel in the holder's own bore, the taper to the right."""
    easel = Easel(machine, "front", bare=True)
    easel.pencil((-70, -45), (-45, -45), (-45, 45), (-70, 45))
    easel.pencil((-45, -9), (-14, -9), (-14, 9), (-45, 9))
    # flange, then the taper with its thin end out
    easel.box(-14, 0, -30, 30)
    easel.line((0, 24), (LONG, 13), (LONG, -13), (0, -24), closed=True)
    easel.line((-80, 0), (LONG + 25, 0), thin=True)
    return easel


def _top(at: float) -> float:
    return 24 - 11 * at / LONG


def set_up(setup: TaperTruingSetup, machine: Machine) -> SketchFigure:
    """A dial on the taper, read at both ends and in the middle."""
    easel = _held(machine)
    easel.dial((85, 52), (85, _top(85)))
    for at in (15.0, 50.0):
        easel.line((at, _top(at) + 4), (at, _top(at) + 12), thin=True)
    easel.turns((-57, 0), 8, 62)
    shows = (
        "The holder is held by its own good bore on a mandrel; it is turned by hand under a dial, "
        "in the bore first, then at three places of its taper."
    )
    return easel.done(plain("On its own bore, the dial on its taper"), shows)


def passed(move: Move, machine: Machine) -> SketchFigure:
    """The tool that takes a light pass along the taper, set over to its angle."""
    easel = _held(machine)
    out = 3.0
    start, end = (LONG + 8, _top(LONG + 8) + out), (12.0, _top(12.0) + out)
    easel.line(
        (start[0], start[1] - out),
        (start[0] - 7, start[1] + 22),
        (start[0] + 9, start[1] + 22),
        closed=True,
    )
    easel.moves((start[0] - 10, start[1] + 8), (end[0], end[1] + 8), by="slide")
    shows = (
        "A tool, set over to the angle of the taper, takes one light pass from its thin end; "
        "then all places are read again."
    )
    return easel.done(move.title, shows)
