"""The piece that is cut to accept a machine, drawn."""

from __future__ import annotations

from truing.checks.test_cut.setup import TestCutSetup
from truing.drawing.sketches import Easel, SketchFigure
from truing.machine import Machine
from truing.measure.words import plain


def set_up(setup: TestCutSetup, machine: Machine) -> SketchFigure:
    """What is cut into the piece, from above, and the first pass."""
    easel = Easel(machine, "plan", near=0.2)
    half_x, half_y = setup.width_mm / 2, setup.depth_mm / 2
    easel.box(-half_x, half_x, -half_y, half_y)
    cut = []
    if setup.face:
        # the left half is fed left to right, the right half front to back
        for share in (-1 / 3, 1 / 3):
            easel.line((-half_x, share * half_y), (0, share * half_y), thin=True)
            easel.line(
                (half_x / 2 + share * half_x / 2, -half_y),
                (half_x / 2 + share * half_x / 2, half_y),
                thin=True,
            )
        cut.append("its face cut both ways")
    if setup.square:
        easel.box(-1.12 * half_x, 1.12 * half_x, -1.12 * half_y, 1.12 * half_y, thin=True)
        cut.append("its outline")
    if setup.hole:
        easel.ring((0, 0), setup.hole_mm / 2)
        cut.append("a hole")
    if setup.thickness:
        cut.append("its thickness at the corners")
    y = -half_y / 3 if setup.face else -1.06 * half_y
    easel.moves((-0.95 * half_x, y), (-0.1 * half_x, y), by="slide")
    shows = f"A block, clamped on the table: {', '.join(cut) or 'a cut'}, each measured afterwards."
    return easel.done(plain("One piece, cut and measured"), shows)
