"""A head, or a spindle's bracket, that is turned about its pivot bolt: how it is tapped, drawn."""

from __future__ import annotations

from truing.contract.move import Move
from truing.drawing.sketches import Easel, SketchFigure
from truing.machine import Machine


def turn_drawn(move: Move, machine: Machine) -> SketchFigure:
    """What holds, what is loose, and which way a mallet taps the top."""
    [act] = move.acts
    sideways = act.way in ("left", "right")
    easel = Easel(machine, "front" if sideways else "side")
    left, right, _, top = easel.edges("Spindle")
    pu, pv = easel.pivot("Spindle")
    way = 1.0 if act.way in ("right", "rear") else -1.0
    half = (right - left) / 2
    easel.bolt((pu, pv), holds=True)
    for du in (-0.6, 0.6):
        easel.bolt((pu + du * half, pv))
    struck = (right if way < 0 else left, top - 0.1 * half)
    easel.moves((struck[0] - way * 1.2 * half, struck[1]), struck, by="mallet")
    shows = f"The pivot bolt holds, the others are loose; a mallet taps {act.end} to the {act.way}."
    _dialled(easel, move)
    return easel.done(move.title, shows)


def _dialled(easel: Easel, move: Move) -> None:
    """The dial where the needle is watched from."""
    if move.targets and easel.view == "front":
        right = move.targets[0].label.metric.startswith(("3", "1:30", "2"))
        r = (0.8 if right else -0.8) * easel.machine.table_x_mm / 4
        nose = easel.nose
        easel.line((0, nose), (0, 0.72 * nose), (r, 0.72 * nose))
        easel.dial((r, 0.72 * nose), (r, 0))
