"""From one rail to the other, drawn."""

from __future__ import annotations

from truing.checks.rail_parallel.setup import RailParallelSetup
from truing.checks.rails import RailsSeen
from truing.drawing.sketches import SketchFigure
from truing.machine import Machine
from truing.measure.words import plain


def set_up(setup: RailParallelSetup, machine: Machine) -> SketchFigure:
    """A dial carried by the first rail's carriage, or a stick between the rails."""
    seen = RailsSeen(machine)
    long, u, apart = seen.rails.length_mm, seen.unit, seen.rails.apart_mm
    at, flank = 0.3 * long, 0.04 * seen.unit
    if setup.way == "distance":
        # from flank to flank
        ends = (seen.at("first", at, -flank), seen.at("second", at, -flank))
        seen.easel.line(*ends)
        for which in ("first", "second"):
            tick = [seen.at(which, at + d, -flank) for d in (-0.08 * u, 0.08 * u)]
            seen.easel.line(*tick)
        seen.easel.line(
            seen.at("first", 0.7 * long, -flank), seen.at("second", 0.7 * long, -flank), thin=True
        )
        seen.along("second", at + 0.05 * long, 0.65 * long, -0.5 * apart)
        shows = (
            "An inside micrometer from rail to rail, square across, at one place after the other."
        )
        return seen.easel.done(plain("The distance from rail to rail"), shows)
    seen.carriage("first", at)
    side = -1 if setup.tip_on == "inner" else 1
    tip = seen.at("second", at, side * flank)
    base = seen.at("second", at, side * (flank + 0.6 * u))
    arm = [seen.at("first", at)]
    if side > 0:
        # over the second rail, and back to its outer flank
        past = at + 0.3 * u
        arm += [seen.at("first", past), seen.at("second", past, flank + 0.6 * u)]
    seen.easel.line(*arm, base)
    seen.easel.dial(base, tip)
    seen.along("first", at + 0.1 * long, at + 0.4 * long, 0.25 * u)
    shows = (
        "The carriage of the first rail carries the dial on an arm; its tip runs on the "
        f"{setup.tip_on} flank of the second rail."
    )
    return seen.easel.done(plain("An arm from the first rail’s carriage"), shows)
