"""The end blocks of a screw, read and set, drawn from where their float is seen."""

from __future__ import annotations

from truing.checks.screw_centre.setup import ACROSS, ScrewCentreSetup
from truing.contract.move import Move
from truing.drawing.sketches import SketchFigure
from truing.drawing.slides import Seen
from truing.machine import Machine
from truing.machine.ghost.sketch import View
from truing.machine.parts import Direction
from truing.measure.words import plain

VIEWS: dict[Direction, dict[str, View]] = {
    "left_right": {"up and down": "front", "in and out": "plan"},
    "front_back": {"up and down": "side", "left and right": "plan"},
    "up_down": {"left and right": "front", "in and out": "side"},
}
"""Where each way across a screw is seen."""


def _blocks(
    setup: ScrewCentreSetup, machine: Machine, way: str, end: int
) -> tuple[Seen, float, float]:
    """The screw with its blocks, the one at `end` loose, a dial on that one; how far out they
    are, and half of their size."""
    seen = Seen(machine, setup.slide, VIEWS[setup.slide][way])
    out = seen.half_along + seen.clear
    size = max(0.45 * seen.clear, 0.14 * seen.half_along)
    seen.easel.line(seen.at(-out, 0), seen.at(out, 0))
    for e in (-1, 1):
        u, v = seen.at(e * out, 0)
        seen.easel.box(u - size, u + size, v - size, v + size)
        for across in (-0.75, 0.75):
            seen.easel.bolt(seen.at(e * out, across * size), holds=e != end)
    seen.easel.dial(seen.at(end * out, -4 * size), seen.at(end * out, -size))
    return seen, out, size


def set_up(setup: ScrewCentreSetup, machine: Machine) -> SketchFigure:
    """A dial on one end block, and the hand that pushes it to its limits."""
    way = ACROSS[setup.slide][1]
    seen, out, size = _blocks(setup, machine, way, -1)
    low, high = seen.at(-out, 3.5 * size), seen.at(-out, 1.3 * size)
    seen.easel.moves(low, high, by="hand")
    shows = (
        f"A dial on the {setup.end_names()[0]} end block, {way}: as it stands, then slack and "
        "pushed to either limit of its float. The other block stays tight."
    )
    return seen.easel.done(plain("Each end block, and how far it can float"), shows)


def centred(move: Move, setup: ScrewCentreSetup, machine: Machine) -> SketchFigure | None:
    """Which block is slack, and which way it goes."""
    if not move.targets:
        return None
    first = move.targets[0]
    end = -1 if move.about == setup.end_names()[0] else 1
    seen, out, size = _blocks(setup, machine, first.label.metric, end)
    # pushed in reads more: the block comes toward the dial
    nearer = (first.to_mm - first.from_mm) * first.per_mm > 0
    ends = (seen.at(end * out, 3.5 * size), seen.at(end * out, 1.3 * size))
    seen.easel.moves(*(ends if nearer else ends[::-1]), by="hand")
    toward = "toward the dial" if nearer else "away from the dial"
    shows = (
        f"The {move.about} end block is slack and goes {toward}, {first.label.metric}; the other "
        "holds."
    )
    return seen.easel.done(move.title, shows)
