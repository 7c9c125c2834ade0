"""How a slide is brought to a place from either side, drawn."""

from __future__ import annotations

from truing.checks.lost_motion.setup import LostMotionSetup
from truing.contract.move import Move
from truing.drawing.sketches import SketchFigure
from truing.drawing.slides import Seen
from truing.machine import Machine
from truing.machine.parts import DIRECTIONS, Direction
from truing.measure.words import plain


def set_up(setup: LostMotionSetup, machine: Machine) -> SketchFigure:
    """A dial along the travel, and the way past the place and back to it."""
    seen = Seen(machine, setup.slide)
    seen.dial_before(1)
    far, lane = 0.55 * seen.half_along, 0.25 * seen.half_across
    path = [(0.5 * far, lane), (-far, lane), (-far, -lane), (0.5 * far, -lane)]
    seen.easel.moves(*(seen.at(along, across) for along, across in path), by="hand")
    shows = (
        "A dial that stands still touches the end of the slide, along its travel "
        f"({DIRECTIONS[setup.slide]}); the slide goes a full turn away and comes back to the place."
    )
    return seen.easel.done(plain("Come to a place from one side, then from the other"), shows)


AT_THE_END = ("wheel", "clutch", "coupling", "pulley", "worm", "bearing")
"""Links that sit where the drive comes in; the others move the slide itself."""


def cured(move: Move, machine: Machine, slide: Direction) -> SketchFigure | None:
    """Where along the drive the hand goes; None for what is typed into a controller."""
    if move.entries:
        return None
    seen = Seen(machine, slide)
    out = seen.half_along + 0.8 * seen.clear
    seen.easel.line(seen.at(-out, 0), seen.at(out, 0))
    at_end = move.about in AT_THE_END
    along = out if at_end else 0.0
    size = max(0.25 * seen.clear, 0.09 * seen.half_along)
    u, v = seen.at(along, 0)
    seen.easel.box(u - size, u + size, v - size, v + size)
    seen.easel.swings((u, v), 2.2 * size, -60, 240)
    for side in (-1, 1):
        seen.easel.bolt(seen.at(along, side * size))
    where = "where the drive comes in" if at_end else "under the slide, on what moves it"
    return seen.easel.done(move.title, f"The hand is {where}: loosened, taken up, closed again.")
