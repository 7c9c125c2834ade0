"""An empty spindle that is turned under a dial, or with a bar in it, drawn."""

from __future__ import annotations

from truing.checks.spindle_runout.setup import SpindleRunoutSetup
from truing.drawing.noses import Nose
from truing.drawing.sketches import SketchFigure
from truing.machine import Machine
from truing.measure.words import plain


def set_up(setup: SpindleRunoutSetup, machine: Machine) -> SketchFigure:
    """Where the tip runs, and what is turned."""
    heights = sorted(setup.distances_mm)
    nose = Nose(machine, heights)
    nose.bore()
    often = "mark by mark" if setup.way == "angles" else "once round"
    if setup.surface == "bar":
        half = 0.4 * nose.half
        nose.down(half, 0.0, max([*heights, 10.0]) * 1.15)
        for z in heights[:-1]:
            if z > 0:
                nose.easel.line((-half, nose.at(z)), (half, nose.at(z)), thin=True)
        nose.dial(half, heights[-1])
        nose.turns(-0.3 * nose.half / nose.scale, nose.half)
        shows = (
            f"A test bar in the spindle, a dial on the table against it {len(heights)} "
            f"time{'s' if len(heights) != 1 else ''} along its length; the spindle is turned by "
            f"hand, {often}."
        )
        if setup.turned == (0, 1):
            shows += " Then the bar is seated half round, and all of it read again."
        return nose.easel.done(plain(f"On a bar, {often}"), shows)
    z = heights[0]
    inside = min(-z if z < 0 else 5.0, 60.0)
    v, u = nose.at(-inside), nose.bore_at(inside)
    base = (2.6 * nose.half, 0.45 * nose.v)
    nose.easel.stand((base[0] + 0.6 * nose.half, 0.0), base)
    # a lever reaches up into the bore
    nose.easel.line(base, (0.35 * nose.half, nose.v - 0.4 * nose.half))
    nose.easel.dial((0.35 * nose.half, nose.v - 0.4 * nose.half), (u, v))
    nose.turns(-0.3 * nose.half / nose.scale, nose.half)
    shows = (
        "A lever dial on the table reaches up into the empty taper; the spindle is turned by hand, "
        f"{often}."
    )
    return nose.easel.done(plain(f"In the empty taper, {often}"), shows)
