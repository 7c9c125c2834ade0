"""How a travel is read against a square, drawn."""

from __future__ import annotations

from truing.checks.travel_square.setup import SIDES, WAYS, TravelSquareSetup
from truing.drawing.sketches import Easel, SketchFigure
from truing.machine import RISERS, Machine
from truing.measure.words import plain


def set_up(setup: TravelSquareSetup, machine: Machine) -> SketchFigure:
    """The square as it is first set down, the dial on it, and what moves."""
    if setup.upright is None:
        return _lying(setup, machine)
    riser, way = setup.upright
    easel = Easel(machine, "front" if way == "left_right" else "side")
    points = setup.points(1)
    low, high = min(setup.heights_mm), max(setup.heights_mm)
    tall = high + 0.15 * (high - low)
    reach, thick = 0.35 * tall, 0.14 * tall
    edge = points * reach
    back = edge + points * thick
    if setup.way == "cylinder":
        wide = edge + points * 0.3 * tall
        easel.line((edge, 0), (edge, tall), (wide, tall), (wide, 0), closed=True)
        what = "A cylinder stands on the table"
    else:
        foot = edge + points * 0.5 * tall
        easel.line(
            (edge, 0),
            (edge, tall),
            (back, tall),
            (back, thick),
            (foot, thick),
            (foot, 0),
            closed=True,
        )
        what = "A square stands on the table"
    middle = (low + high) / 2
    easel.line((0, max(easel.nose, middle)), (0, middle))
    easel.dial((0, middle), (edge, middle))
    easel.moves((-points * 0.3 * tall, low), (-points * 0.3 * tall, high), by="slide")
    side = SIDES[way][points > 0]
    shows = (
        f"{what}; the dial is held by the spindle, its tip to the {side} on the edge. The "
        f"{RISERS[riser]} takes it from low to high."
    )
    if setup.way == "reversed":
        shows += " Then the square is turned half round and the tip goes to its other side."
    return easel.done(plain(f"The {RISERS[riser]} up {WAYS[setup.way]}"), shows)


def _lying(setup: TravelSquareSetup, machine: Machine) -> SketchFigure:
    easel = Easel(machine, "plan")
    long, wide = max(setup.blade_mm) * 1.15, max(setup.stock_mm) * 1.15
    thick = 0.14 * long
    v = -long / 2
    easel.line(
        (0, v),
        (0, v + long),
        (thick, v + long),
        (thick, v + thick),
        (wide, v + thick),
        (wide, v),
        closed=True,
    )
    first = v + min(setup.blade_mm)
    easel.dial((-0.45 * long, first), (0, first))
    easel.moves((-0.6 * long, first), (-0.6 * long, v + max(setup.blade_mm)), by="slide")
    shows = (
        "A square lies on the table, its blade to the rear and its stock to the right. The dial "
        "runs along the blade by the front–back travel, then along the stock from the front by the "
        "left–right travel."
    )
    return easel.done(plain("Along a square that lies"), shows)
