"""Two patches that were faced with the spindle as it stands, and how they are felt, drawn."""

from __future__ import annotations

from truing.checks.heads import turn_drawn
from truing.checks.ridge_reading.setup import RidgeReadingSetup
from truing.contract.move import Move
from truing.drawing.sketches import Easel, SketchFigure
from truing.machine import Machine
from truing.measure.words import plain

HOW = {
    "step": (
        "The step from band to band",
        "a dial is set to zero on one band, close to its edge, and lifted over to the next",
    ),
    "dial": ("A dial across the bands", "a dial is dragged across the bands"),
    "nail": ("A fingernail across the bands", "a fingernail goes across the bands, both ways"),
    "finger": ("A finger across the bands", "a finger goes across the bands, both ways"),
    "look": ("By the marks alone", "light from the side shows which way the arcs run"),
}


def set_up(setup: RidgeReadingSetup, machine: Machine) -> SketchFigure:
    """Both patches from above, their bands, and what goes across them."""
    easel = Easel(machine, "plan", near=0.2)
    wide = 0.8 * min(machine.table_x_mm, machine.table_y_mm) / 2
    half, gap = wide / 2, 0.1 * wide
    for key, left in (("x", -wide - gap), ("y", gap)):
        thin = setup.patches not in ("both", key)
        easel.box(left, left + wide, -half, half, thin=thin)
        for share in (-1 / 3, 1 / 3):
            at = share * half
            # a band runs the way it was fed
            ends = (
                ((left, at), (left + wide, at))
                if key == "x"
                else ((left + half + at, -half), (left + half + at, half))
            )
            easel.line(*ends, thin=True)
    across_y = setup.patches != "y"
    middle = (-half - gap, 0.0) if across_y else (gap + half, 0.0)
    reach = 0.75 * half

    def across(share: float) -> tuple[float, float]:
        return (middle[0], share * reach) if across_y else (middle[0] + share * reach, 0.0)

    title, how = HOW[setup.way]
    if setup.way in ("step", "dial"):
        tip = across(-0.3)
        base = (tip[0] - 0.5 * half, tip[1] - 0.5 * half)
        easel.dial(base, tip)
        easel.moves(tip, across(0.75), by="hand" if setup.way == "step" else "slide")
    elif setup.way == "look":
        radius = 0.5 * half
        easel.ring(middle, radius, thin=True)
        easel.moves(
            (middle[0] - 1.6 * half, -1.5 * half), (middle[0] - 0.6 * half, -0.5 * half), by="hand"
        )
    else:
        easel.moves(across(-1), across(1), by="hand")
    patches = "Two faced patches, one fed left to right and one front to back, on the table"
    return easel.done(plain(title), f"{patches}: {how}.")


def corrected(move: Move, machine: Machine) -> SketchFigure:
    """The head tapped as it is for a tram."""
    return turn_drawn(move, machine)
