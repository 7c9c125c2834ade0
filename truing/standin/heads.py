"""What a tap makes of a head or bracket that turns."""

from __future__ import annotations

from truing.contract.move import Move
from truing.standin.hands import Hands
from truing.standin.truth import Truth


def turned(move: Move, truth: Truth, hands: Hands) -> Truth:
    """It goes by about what was meant, and tightening takes it a little further."""
    gain = hands.tap(truth)
    about_x, about_y = truth.head_about_x_mrad, truth.head_about_y_mrad
    for take in move.takes:
        if take.sort == "lean_x":
            about_y -= gain * take.amount - truth.tighten_about_y_mrad
        else:
            about_x += gain * take.amount + truth.tighten_about_x_mrad
    return truth.model_copy(update={"head_about_x_mrad": about_x, "head_about_y_mrad": about_y})
