"""What a tap makes of a head or bracket that turns."""

from __future__ import annotations

from truing.contract.move import Act, Move
from truing.standin.hands import Hands
from truing.standin.truth import Truth


def tap_mrad(act: Act) -> float:
    """How far something turns until the needle has gone from where to where it is said; or by the
    figure that is told."""
    if act.target is None:
        return act.by_mm / act.over_mm * 1000
    return abs((act.target.to_mm - act.target.from_mm) * act.target.per_mm)


def turned(move: Move, truth: Truth, hands: Hands) -> Truth:
    """It goes by about what was meant, and tightening takes it a little further."""
    gain = hands.tap(truth)
    about_x, about_y = truth.head_about_x_mrad, truth.head_about_y_mrad
    for act in move.acts:
        goes = gain * tap_mrad(act)
        if act.way in ("left", "right"):
            about_y += (goes if act.way == "right" else -goes) + truth.tighten_about_y_mrad
        else:
            about_x += (goes if act.way == "front" else -goes) + truth.tighten_about_x_mrad
    return truth.model_copy(update={"head_about_x_mrad": about_x, "head_about_y_mrad": about_y})
