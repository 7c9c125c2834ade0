"""A slide that runs out and back to its mark, drawn."""

from __future__ import annotations

from truing.checks.drive_proof.setup import DriveProofSetup
from truing.drawing.sketches import SketchFigure
from truing.drawing.slides import Seen
from truing.machine import Machine
from truing.machine.parts import DIRECTIONS
from truing.measure.words import plain


def set_up(setup: DriveProofSetup, machine: Machine) -> SketchFigure:
    """The mark it has to come back to, and the way out and back."""
    seen = Seen(machine, setup.slide)
    seen.dial_before(-1)
    lane = 0.2 * seen.half_across
    far = seen.half_along + 1.6 * seen.clear
    path = [(0.0, lane), (far, lane), (far, -lane), (0.0, -lane)]
    seen.easel.moves(*(seen.at(along, across) for along, across in path), by="slide")
    shows = (
        f"The slide runs {DIRECTIONS[setup.slide]} out and back by itself, again and again, and "
        "has to come back to the mark where the dial stands. Nobody’s hand is near it."
    )
    return seen.easel.done(plain("Out and back to its mark"), shows)
