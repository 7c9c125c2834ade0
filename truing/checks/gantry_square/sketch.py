"""How a gantry is measured and squared, drawn from above."""

from __future__ import annotations

from truing.checks.cutting import CORNERS, LENGTHS
from truing.checks.gantry_square.setup import GantrySquareSetup
from truing.contract.move import Move
from truing.drawing.sketches import Easel, SketchFigure
from truing.machine import Machine
from truing.measure.words import plain


def set_up(setup: GantrySquareSetup, machine: Machine) -> SketchFigure:
    """The four marks, and both diagonals between them."""
    easel = Easel(machine, "plan")
    at = {
        name: (sx * setup.width_mm / 2, sy * setup.depth_mm / 2)
        for name, (sx, sy) in CORNERS.items()
    }
    easel.line(*at.values(), closed=True, thin=True)
    for key in ("d1", "d2"):
        start, end = LENGTHS[key]
        easel.line(at[start], at[end])
    # the same bar, laid from one diagonal to the other
    (_, first), (_, second) = LENGTHS["d1"], LENGTHS["d2"]
    from_, to = at[first], at[second]
    short = 0.85
    easel.moves((short * from_[0], short * from_[1]), (short * to[0], short * to[1]), by="hand")
    shows = (
        "Four marks that the machine has made: a bar with two points is laid from one diagonal to "
        "the other, and then along the sides."
    )
    return easel.done(plain("Four marks and their diagonals"), shows)


def corrected(move: Move, machine: Machine) -> SketchFigure | None:
    """Which end of the gantry is held back, and which way."""
    drive = machine.gantry_drive
    if drive is None:
        return None
    # the right end against the left one
    ahead = sum(
        change.after - change.before for change in move.changes if "right" in change.path
    ) - sum(change.after - change.before for change in move.changes if "left" in change.path)
    ahead *= 1 if drive.homes == "front" else -1
    for act in move.acts:
        ahead += (act.by_mm if act.way == "rear" else -act.by_mm) * (
            1 if "right" in act.end else -1
        )
    if not ahead:
        return None
    easel = Easel(machine, "plan")
    _, _, front, rear = easel.edges("Beam")
    deep = rear - front
    way = 1.0 if ahead > 0 else -1.0
    middle = (front + rear) / 2
    easel.bolt((drive.left_x_mm, middle), holds=True)
    easel.bolt((drive.right_x_mm, middle))
    easel.moves(
        (drive.right_x_mm, middle - way * 0.5 * deep),
        (drive.right_x_mm, middle + way * 1.5 * deep),
        by="slide",
    )
    side = "rear" if way > 0 else "front"
    return easel.done(move.title, f"The right end of the gantry goes to the {side}.")
