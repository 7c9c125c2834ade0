"""How a tram is read and corrected, drawn."""

from __future__ import annotations

from truing.checks.bases import shims_drawn
from truing.checks.heads import turn_drawn
from truing.checks.spindle_tram.setup import WAYS, SpindleTramSetup
from truing.contract.move import Move
from truing.drawing.sketches import Easel, SketchFigure
from truing.machine import Machine
from truing.measure.words import plain

SHOWS = {
    "swing": "An arm in the spindle holds a dial over the table; the spindle is turned by hand, so "
    "that the tip goes round on the table.",
    "trigger": "An arm in the spindle holds a dial; the head comes down until the tip touches, and "
    "its scale is read.",
    "gap": "A bent rod in the spindle ends just over the table; a blade gauges the gap under it.",
    "two_bolts": "A bar in the spindle has a bolt at each end; a blade gauges the gap under one.",
    "scrape": "A bent rod in the spindle is lowered in steps, turned by hand, until it touches.",
    "gauges": "A bent rod in the spindle ends just over the table; the thin gauge goes under it "
    "and the thick one does not.",
}


def set_up(setup: SpindleTramSetup, machine: Machine) -> SketchFigure:
    """What stands in the spindle, seen from the front, and what is turned or lowered."""
    easel = Easel(machine, "front")
    nose, r = easel.nose, setup.radius_mm
    easel.empty()
    gap = 0.05 * nose
    arm = 0.72 * nose
    if setup.way in ("swing", "trigger"):
        easel.line((0, nose), (0, arm), (r, arm))
        easel.dial((r, arm), (r, 0))
    elif setup.way == "two_bolts":
        easel.line((-r, arm), (r, arm))
        easel.line((0, nose), (0, arm))
        for end in (-r, r):
            easel.line((end, arm), (end, gap))
    else:
        easel.line((0, nose), (0, arm), (r, arm), (r, gap))
    if setup.way in ("gap", "two_bolts", "gauges"):
        easel.line((r - 0.3 * nose, gap / 2), (r + 0.5 * nose, gap / 2))
    if setup.way == "gauges":
        # the thicker one, held beside the rod that it must not go under
        thick = (r + 0.1 * nose, r + 0.6 * nose)
        easel.line(
            (thick[0], 2 * gap),
            (thick[1], 2 * gap),
            (thick[1], 5 * gap),
            (thick[0], 5 * gap),
            closed=True,
        )
    if setup.way in ("trigger", "scrape"):
        easel.moves((-0.35 * r, nose), (-0.35 * r, 0.55 * nose), by="slide")
    else:
        easel.turns((0, (nose + arm) / 2), 0.35 * r, 0.08 * nose)
    easel.line((-r, 0), (r, 0), thin=True)
    return easel.done(plain(WAYS[setup.way]), SHOWS[setup.way])


def corrected(move: Move, machine: Machine) -> SketchFigure | None:
    """What is loosened, what holds, and which way it goes; None for a move without a picture."""
    if move.mechanism == "column_base":
        return shims_drawn(move, machine)
    if move.mechanism in ("head_pivot", "bracket_pivot"):
        return turn_drawn(move, machine)
    return _on_the_beam(move, machine)


def _on_the_beam(move: Move, machine: Machine) -> SketchFigure | None:
    """A bracket or an end plate, from the side: the operator stands at the left."""
    easel = Easel(machine, "side")
    amount = move.takes[0].amount if move.takes else 0.0
    if not easel.has("Spindle") or amount == 0:
        return None
    _, _, low, top = easel.edges("Spindle")
    pu, pv = easel.pivot("Spindle")
    reach = (top - low) / 4
    way = -1.0 if amount > 0 else 1.0
    if move.mechanism == "bracket":
        # the row that has a stack stands off its plate
        upper = sum(move.stacks[0].after_mm) >= sum(move.stacks[1].after_mm)
        for dv in (reach, -reach):
            stacked = (dv > 0) == upper
            easel.bolt((pu, pv + dv), holds=not stacked)
        at = pv + (reach if upper else -reach)
        easel.moves((pu - 0.2 * reach, at), (pu - 1.1 * reach, at), by="hand")
        row = "upper" if upper else "lower"
        shows = f"The {row} screws are slack and the stack goes behind them."
        return easel.done(move.title, shows)
    if machine.gantry is None:
        return None
    [act] = move.acts
    way = 1.0 if act.way == "rear" else -1.0
    fixed = machine.gantry.fixed_bolt_y_mm
    easel.bolt((fixed, pv), holds=True)
    for dv in (-reach, reach):
        easel.bolt((fixed + 0.3 * reach, pv + dv))
    easel.moves((fixed - way * reach, top), (fixed + way * 0.6 * reach, top), by="mallet")
    shows = (
        f"The end plate seen from the side: its fixed bolt holds, the others are loose; {act.end} "
        f"goes to the {act.way}."
    )
    return easel.done(move.title, shows)
