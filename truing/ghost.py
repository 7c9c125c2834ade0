"""The ghost of a machine: line work of its ideal form, and how far each part is known to lean.

One parametric description for the front (X, Z), side (Y, Z) and plan (X, Y) views, in mm. A
drawing turns each part about its pivot by its lean × a factor; a part whose lean is not known has
none, and is drawn dotted, never square.
"""

from __future__ import annotations

import math
from typing import Literal

from pydantic import BaseModel

from truing.machine import Machine

View = Literal["front", "side", "plan"]


class Point(BaseModel):
    """A place in a view, mm: u across it, v up it."""

    u: float
    v: float


DRAWN_DEG = 5.0
"""The worst error is drawn at about this angle."""

FACTORS = (50, 75, 100, 150, 200, 300, 400, 500, 650, 800, 1000)


class GhostPart(BaseModel):
    """One part in one view: closed outlines in mm, the pivot it leans about, and its lean."""

    name: str
    view: View
    outlines: list[list[Point]]
    pivot: Point
    known: bool
    """False: not measured, to be drawn dotted."""
    lean_mm_per_m: float
    """Plus = its top to +u (right, or to the rear) in this view; 0 for the reference itself."""


class Ghost(BaseModel):
    """All parts, and the factor at which the worst lean draws about five degrees."""

    parts: list[GhostPart]
    factor: int
    factors: list[int]
    worst_mm_per_m: float


def _outline(*points: tuple[float, float]) -> list[Point]:
    return [Point(u=u, v=v) for u, v in points]


def _box(u0: float, u1: float, v0: float, v1: float) -> list[Point]:
    return _outline((u0, v0), (u1, v0), (u1, v1), (u0, v1))


class _Sketch:
    def __init__(self, leans: dict[str, float | None]) -> None:
        self.leans = leans
        self.parts: list[GhostPart] = []

    def add(
        self,
        name: str,
        view: View,
        outlines: list[list[Point]],
        *,
        pivot: tuple[float, float] = (0.0, 0.0),
        lean: str | None = None,
        known: bool = False,
    ) -> None:
        value = self.leans.get(lean) if lean else None
        self.parts.append(
            GhostPart(
                name=name,
                view=view,
                outlines=outlines,
                pivot=Point(u=pivot[0], v=pivot[1]),
                known=known or value is not None,
                lean_mm_per_m=value or 0.0,
            )
        )


def ghost(machine: Machine, leans: dict[str, float | None]) -> Ghost:
    """The ghost of `machine`; `leans` are the latest lean_x and nod in mm/m, None if not known."""
    sketch = _Sketch(leans)
    if machine.form == "gantry_router":
        _gantry(sketch, machine)
    else:
        _column(sketch, machine)
    worst = max((abs(v) for v in leans.values() if v is not None), default=0.0)
    return Ghost(
        parts=sketch.parts, factor=_factor(worst), factors=list(FACTORS), worst_mm_per_m=worst
    )


def _factor(worst_mm_per_m: float) -> int:
    if worst_mm_per_m <= 0:
        return FACTORS[-1]
    wanted = math.tan(math.radians(DRAWN_DEG)) * 1000 / worst_mm_per_m
    return min(FACTORS, key=lambda f: abs(math.log(f / wanted)))


def _column(s: _Sketch, m: Machine) -> None:
    half_x, half_y = m.table_x_mm / 2, m.table_y_mm / 2
    unit = m.table_y_mm
    wide, tall, back = 0.42 * unit, 2.9 * unit, half_y + 0.25 * unit
    nose, head_low, head_high = 0.55 * unit, 0.95 * unit, 1.75 * unit
    spindle = 0.13 * unit
    s.add("Table", "front", [_box(-half_x, half_x, -0.22 * unit, 0)], known=True)
    s.add("Column", "front", [_box(-wide, wide, -0.6 * unit, tall)])
    s.add("Base", "front", [_box(-0.7 * unit, 0.7 * unit, -0.95 * unit, -0.6 * unit)])
    head = [
        _box(-0.34 * unit, 0.34 * unit, head_low, head_high),
        _box(-spindle, spindle, nose, head_low),
        _outline((-0.05 * unit, nose), (0.05 * unit, nose), (0, 0.12 * unit)),
    ]
    s.add("Spindle", "front", head, pivot=(0, (head_low + head_high) / 2), lean="lean_x")
    s.add("Table", "side", [_box(-half_y, half_y, -0.22 * unit, 0)], known=True)
    s.add("Column", "side", [_box(back, back + 0.7 * unit, -0.6 * unit, tall)])
    s.add("Base", "side", [_box(-1.0 * unit, back + 0.8 * unit, -0.95 * unit, -0.6 * unit)])
    nodding = [
        _box(-0.36 * unit, back, head_low, head_high),
        _box(-spindle, spindle, nose, head_low),
        _outline((-0.05 * unit, nose), (0.05 * unit, nose), (0, 0.12 * unit)),
    ]
    s.add("Spindle", "side", nodding, pivot=(back, (head_low + head_high) / 2), lean="nod")
    s.add("Table", "plan", [_box(-half_x, half_x, -half_y, half_y)], known=True)
    s.add("Column", "plan", [_box(-wide, wide, back, back + 0.7 * unit)])
    s.add("Spindle", "plan", [_box(-0.34 * unit, 0.34 * unit, -0.36 * unit, back)])


def _gantry(s: _Sketch, m: Machine) -> None:
    half_x, half_y = m.table_x_mm / 2, m.table_y_mm / 2
    unit = m.table_x_mm / 4
    out, beam_low, beam_high = half_x + 0.35 * unit, 1.2 * unit, 1.9 * unit
    nose = 0.55 * unit
    s.add("Bed", "front", [_box(-half_x, half_x, -0.25 * unit, 0)], known=True)
    legs = [_box(-out, -half_x - 0.1 * unit, -0.4 * unit, 2.0 * unit)]
    legs.append(_box(half_x + 0.1 * unit, out, -0.4 * unit, 2.0 * unit))
    s.add("Legs", "front", legs)
    s.add("Beam", "front", [_box(-out, out, beam_low, beam_high)])
    cutter = _outline((-0.05 * unit, nose), (0.05 * unit, nose), (0, 0.1 * unit))
    spindle = [_box(-0.3 * unit, 0.3 * unit, 0.95 * unit, 2.3 * unit)]
    spindle += [_box(-0.16 * unit, 0.16 * unit, nose, 0.95 * unit), cutter]
    s.add("Spindle", "front", spindle, pivot=(0, 1.55 * unit), lean="lean_x")
    s.add("Bed", "side", [_box(-half_y, half_y, -0.25 * unit, 0)], known=True)
    s.add("Legs", "side", [_box(0.2 * unit, 0.9 * unit, -0.4 * unit, 2.0 * unit)])
    s.add("Beam", "side", [_box(0.3 * unit, 0.8 * unit, beam_low, beam_high)])
    side = [_box(-0.3 * unit, 0.25 * unit, 0.95 * unit, 2.3 * unit)]
    side += [_box(-0.16 * unit, 0.16 * unit, nose, 0.95 * unit), cutter]
    s.add("Spindle", "side", side, pivot=(0.3 * unit, 1.55 * unit), lean="nod")
    s.add("Bed", "plan", [_box(-half_x, half_x, -half_y, half_y)], known=True)
    s.add("Beam", "plan", [_box(-out, out, 0.3 * unit, 0.8 * unit)])
    s.add("Spindle", "plan", [_box(-0.3 * unit, 0.3 * unit, -0.3 * unit, 0.25 * unit)])
