"""How a slide is pulled and pushed, and its gib closed, drawn."""

from __future__ import annotations

from truing.checks.slide_play.setup import SlidePlaySetup
from truing.contract.move import Move
from truing.drawing.sketches import SketchFigure
from truing.drawing.slides import Seen
from truing.machine import Machine
from truing.machine.parts import DIRECTIONS, Direction
from truing.measure.words import plain


def set_up(setup: SlidePlaySetup, machine: Machine) -> SketchFigure:
    """A dial square to the travel, and the hand across from it."""
    seen = Seen(machine, setup.slide)
    at = 0.6 * seen.half_along
    seen.dial_beside(at, -1)
    seen.easel.moves(seen.beside(at, 1, seen.clear), seen.beside(at, 1, 0), by="hand")
    shows = (
        f"A dial that stands still touches the slide that goes {DIRECTIONS[setup.slide]} from the "
        "side, square to its travel; across from it a hand pulls, then pushes toward it."
    )
    return seen.easel.done(plain("Pulled and pushed across its travel"), shows)


def closed(move: Move, machine: Machine, slide: Direction) -> SketchFigure | None:
    """What sets the slide's play, and which way it is turned."""
    if not move.amounts:
        return None
    seen = Seen(machine, slide)
    inward, n = move.amounts[0].amount_mm > 0, len(move.amounts)
    is_set = machine.slide(slide)
    gib = is_set.gib if is_set else "strip"
    if gib == "tapered":
        # a tapered gib is drawn in from its end, beside the way
        out, flank = seen.clear, 0.7 * seen.half_across
        ends = (seen.before(1, out, flank), seen.before(1, 0.0, flank))
        seen.easel.bolt(seen.before(1, 0.0, flank))
        seen.easel.bolt(seen.before(-1, 0.0, flank))
        seen.easel.line(seen.before(-1, 0.0, flank), seen.before(1, 0.0, flank), thin=True)
        what = "The screw at the gib’s end"
    else:
        reach = max(abs(a.x_mm) for a in move.amounts) or 1.0
        places = [0.8 * seen.half_along * a.x_mm / reach for a in move.amounts]
        for along in places:
            seen.easel.bolt(seen.beside(along, -1, 0.0))
        middle = places[len(places) // 2]
        ends = (seen.beside(middle, -1, seen.clear), seen.beside(middle, -1, 0.0))
        turned, bears = ("eccentric", "slide") if gib == "rollers" else ("screw", "gib")
        what = f"The {n} {turned}s along the {bears}, from the middle outwards,"
        what = f"The {turned} beside the {bears}" if n == 1 else what
    seen.easel.moves(*(ends if inward else ends[::-1]), by="hand")
    if gib == "rollers":
        goes = f"turned {'toward the way' if inward else 'away from it'}"
        goes = f"is {goes}" if n == 1 else f"are {goes}"
    else:
        goes = f"{'goes' if n == 1 else 'go'} {'in' if inward else 'back out'}"
    return seen.easel.done(move.title, f"{what} {goes}; each lock nut is nipped again.")
