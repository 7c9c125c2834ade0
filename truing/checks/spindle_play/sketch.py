"""A nose that is pushed and pulled, and its bearings closed, drawn."""

from __future__ import annotations

from truing.contract.move import Move
from truing.drawing.noses import Nose
from truing.drawing.sketches import SketchFigure
from truing.machine import Machine
from truing.measure.words import plain


def set_up(machine: Machine, out_mm: float) -> SketchFigure:
    """A dial against the nose, or a bar so far out from it, and the hand across from it."""
    nose = Nose(machine, [out_mm])
    half, at = 0.93 * nose.half, -0.5 * nose.half
    if out_mm:
        half, at = 0.4 * nose.half, out_mm
        nose.down(half, 0.0, 1.15 * out_mm)
    nose.dial(half, at)
    v = nose.at(at)
    nose.easel.moves((-3 * nose.half, v), (-1.1 * nose.half, v), by="hand")
    what = "a bar in the spindle" if out_mm else "the nose of the spindle"
    shows = (
        f"A dial on the table touches {what} from the side; a hand pushes it away, then pulls it "
        "toward the dial. Then the same from the front, and up and down."
    )
    title = "A bar pushed and pulled by hand" if out_mm else "The nose pushed and pulled by hand"
    return nose.easel.done(plain(title), shows)


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
