"""A tapered gib on the bench, and in its slide with what lies behind it, drawn."""

from __future__ import annotations

from truing.checks.gib_shim.setup import GibShimSetup
from truing.contract.move import Move
from truing.drawing.sketches import Easel, SketchFigure
from truing.machine import Machine
from truing.measure.words import plain

LONG, THICK, THIN = 200.0, 26.0, 14.0
"""Of the gib as it is drawn: its taper is far less than can be seen."""


def _gib(easel: Easel, from_mm: float = 0.0) -> None:
    """Its thick end to the right, its straight face down."""
    end = from_mm + LONG
    easel.line((from_mm, 0), (end, 0), (end, THICK), (from_mm, THIN), closed=True)


def _height(at: float) -> float:
    return THIN + (THICK - THIN) * at / LONG


def _slide(easel: Easel) -> None:
    """Base and slide, with the wedge-shaped gap between them."""
    easel.pencil((0, -45), (LONG, -45), (LONG, 0), (0, 0))
    easel.pencil((0, THIN + 4), (LONG, THICK + 4), (LONG, 75), (0, 75))


def set_up(setup: GibShimSetup, machine: Machine) -> SketchFigure:
    """Where its thickness is taken, or how far it has come out."""
    easel = Easel(machine, "front", bare=True)
    if setup.way == "fitted":
        _slide(easel)
        _gib(easel, 22.0)
        easel.line((22, THIN + 2.5), (LONG, THICK + 2.5))
        easel.line((LONG, -18), (LONG, -6))
        easel.line((LONG + 22, -18), (LONG + 22, -6))
        easel.line((LONG, -12), (LONG + 22, -12))
        easel.moves((LONG + 75, THICK / 2), (LONG + 26, THICK / 2), by="hand")
        shows = (
            "The gib in its slide with the shim behind it; from its thick end to the end of the "
            "slide is measured, before the shim and with it."
        )
        return easel.done(plain("How far it sits out with a shim behind it"), shows)
    easel.pencil((0, 0), (LONG, 0), (LONG, THICK), (0, THIN))
    for at in (0.88 * LONG, 0.12 * LONG):
        high = _height(at)
        easel.line(
            (at, high), (at, high + 12), (at + 16, high + 12), (at + 16, -12), (at, -12), (at, 0)
        )
    easel.moves((0.8 * LONG, 62), (0.2 * LONG, 62), by="hand")
    shows = (
        "The gib on the bench: its thickness is taken near the thick end, then a stated way nearer "
        "the thin end."
    )
    return easel.done(plain("Its thickness at two places"), shows)


def fitted(move: Move, machine: Machine) -> SketchFigure:
    """The shim behind the gib, which goes in after it."""
    easel = Easel(machine, "front", bare=True)
    _slide(easel)
    easel.line((0, THIN + 2), (LONG - 12, THICK + 2), (LONG - 12, THICK + 20))
    _gib(easel, 40.0)
    easel.moves((LONG + 110, THICK / 2), (LONG + 46, THICK / 2), by="hand")
    shows = (
        "The shim lies at the back of the gib, its tab over the end of the slide; the gib goes in "
        "thin end first."
    )
    return easel.done(move.title, shows)
