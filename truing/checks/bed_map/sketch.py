"""How a bed is touched or swept, drawn."""

from __future__ import annotations

from truing.checks.bed_map.setup import BedMapSetup
from truing.drawing.sketches import Easel, SketchFigure
from truing.machine import Machine
from truing.measure.words import plain


def set_up(setup: BedMapSetup, machine: Machine) -> SketchFigure:
    """What comes down, or runs over it, place by place."""
    if setup.way == "log":
        return _log(setup, machine)
    easel = Easel(machine, "front")
    nose, places = easel.nose, sorted(setup.x_places_mm)
    easel.empty()
    for x in places:
        easel.line((x, -0.12 * nose), (x, 0), thin=True)
    if setup.way == "dial":
        easel.line((0, nose), (0, 0.7 * nose))
        easel.dial((0, 0.7 * nose), (0, 0))
        easel.moves((places[0] / 2, -0.3 * nose), (places[-1] / 2, -0.3 * nose), by="slide")
        shows = (
            "A dial in the spindle, which does not turn, its tip on the bed; it is taken over "
            f"{len(setup.x_places_mm)} by {len(setup.y_places_mm)} places."
        )
        return easel.done(plain("A dial over the bed, place by place"), shows)
    easel.line((-0.12 * nose, nose), (0, 0.12 * nose), (0.12 * nose, nose))
    easel.box(-0.3 * nose, 0.3 * nose, 0, 0.05 * nose)
    easel.moves((0.5 * nose, nose), (0.5 * nose, 0.2 * nose), by="slide")
    shows = (
        "A pointed tool that stands still comes down on a piece of foil or a touch plate, at "
        f"{len(setup.x_places_mm)} by {len(setup.y_places_mm)} places of the bed."
    )
    return easel.done(plain("Touched off, place by place"), shows)


def _log(setup: BedMapSetup, machine: Machine) -> SketchFigure:
    """The way of a probe over the whole grid, from above."""
    easel = Easel(machine, "plan")
    xs, ys = sorted(setup.x_places_mm), sorted(setup.y_places_mm)
    size = 0.06 * easel.unit
    for y in ys:
        for x in xs:
            easel.line((x - size, y), (x + size, y))
            easel.line((x, y - size), (x, y + size))
    way = [
        (x, y) for i, y in enumerate(ys[:2]) for x in (xs if i % 2 == 0 else xs[::-1])
    ]  # two rows tell the rest
    easel.moves(*way, by="slide")
    shows = (
        "A probe in the spindle goes over the bed by itself, row by row, and its controller writes "
        "down every point."
    )
    return easel.done(plain("A probe’s log of the whole bed"), shows)
