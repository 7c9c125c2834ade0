"""A nose that is pushed and pulled, and its bearings closed, drawn."""

from __future__ import annotations

from truing.contract.move import Move
from truing.drawing.noses import Nose
from truing.drawing.sketches import SketchFigure
from truing.machine import Machine
from truing.measure.words import plain


def set_up(machine: Machine) -> SketchFigure:
    """A dial against the nose, and the hand across from it."""
    nose = Nose(machine)
    inside = -0.5 * nose.half
    nose.dial(0.93 * nose.half, inside)
    v = nose.at(inside)
    nose.easel.moves((-3 * nose.half, v), (-1.1 * nose.half, v), by="hand")
    shows = (
        "A dial on the table touches the nose of the spindle from the side; a hand pushes it away, "
        "then pulls it toward the dial. Then the same from the front, and up and down."
    )
    return nose.easel.done(plain("The nose pushed and pulled by hand"), shows)


def preloaded(move: Move, machine: Machine) -> SketchFigure | None:
    """The nut over the upper bearing; None without a spindle."""
    nose = Nose(machine)
    if not nose.easel.has("Spindle"):
        return None
    _, _, _, top = nose.easel.edges("Spindle")
    nose.easel.box(-nose.half, nose.half, top, top + 0.5 * nose.half)
    nose.easel.line((0, top + 0.5 * nose.half), (0, top + 0.9 * nose.half))
    nose.easel.turns((0, top + 0.25 * nose.half), 2.2 * nose.half, 0.4 * nose.half)
    shows = "The preload nut at the top of the spindle is closed by a sixteenth of a turn."
    return nose.easel.done(move.title, shows)
