"""Mills: a table before a column that carries the head."""

from __future__ import annotations

from truing.machine import Machine
from truing.machine.ghost.sketch import Sketch, View, box, outline, ring, spot

ACROSS: tuple[tuple[View, int], ...] = (("front", 0), ("side", 1))


def draw_mill(s: Sketch, m: Machine) -> None:
    """Draw a mill from its dimensions; what has no dimension follows the table's depth."""
    unit = m.table_y_mm
    half = (m.table_x_mm / 2, m.table_y_mm / 2)
    rise = m.slide("up_down")
    knee = m.form == "knee_mill"
    travel = min(rise.travel_mm, 6 * unit) if rise else 1.2 * unit
    head_low, head_high = 0.95 * unit, 1.75 * unit
    tall = head_high + (0.4 * unit if knee else max(0.5 * unit, 0.6 * travel))
    floor = -0.6 * unit - (travel if knee else 0)
    back = half[1] + 0.25 * unit
    _table(s, m, half, unit)
    if knee:
        for view, i in ACROSS:
            s.add("Knee", view, [box(-0.8 * half[i], 0.8 * half[i], -0.75 * unit, -0.22 * unit)])
    _column(s, m, unit, back, floor, tall)
    _stand(s, m, unit, back, floor)
    if m.spindle:
        _head(s, m, unit, back, head_low, head_high)


def _table(s: Sketch, m: Machine, half: tuple[float, float], unit: float) -> None:
    for view, i in ACROSS:
        s.add("Table", view, [box(-half[i], half[i], -0.22 * unit, 0)], known=True)
    s.add("Table", "plan", [box(-half[0], half[0], -half[1], half[1])], known=True)
    at, long, wide = m.table_y_mm / 3.6, 0.96 * half[0], 0.03 * unit
    slots = [box(-long, long, y - wide, y + wide) for y in (-at, 0, at)]
    s.add("Slots", "plan", slots, detail=True)


def _column(s: Sketch, m: Machine, unit: float, back: float, floor: float, tall: float) -> None:
    is_round = m.column is not None and m.column.shape == "round"
    wide = 0.24 * unit if is_round else 0.42 * unit
    deep = 2 * wide if is_round else 0.7 * unit
    s.add("Column", "front", [box(-wide, wide, floor, tall)])
    s.add("Column", "side", [box(back, back + deep, floor, tall)])
    plan = ring(0, back + wide, wide) if is_round else box(-wide, wide, back, back + deep)
    s.add("Column", "plan", [plan])
    if m.base is None:
        return
    xs, ys = [p.x_mm for p in m.base.pads], [p.y_mm for p in m.base.pads]
    width = m.base.width_mm or 1.2 * (max(xs) - min(xs))
    depth = m.base.depth_mm or 1.2 * (max(ys) - min(ys))
    middle = back + deep / 2
    thick = 0.1 * unit
    foot_x = box(-width / 2, width / 2, floor, floor + thick)
    foot_y = box(middle - depth / 2, middle + depth / 2, floor, floor + thick)
    s.add("Column's foot", "front", [foot_x], detail=True)
    s.add("Column's foot", "side", [foot_y], detail=True)
    plan_foot = box(-width / 2, width / 2, middle - depth / 2, middle + depth / 2)
    bolts = [spot(p.x_mm, middle + p.y_mm, 0.04 * unit) for p in m.base.pads]
    s.add("Column's foot", "plan", [plan_foot, *bolts], detail=True)


def _stand(s: Sketch, m: Machine, unit: float, back: float, floor: float) -> None:
    low = floor - 0.35 * unit
    middle = (back - 0.2 * unit) / 2
    wide, front, rear = 0.7 * unit, -1.0 * unit, back + 0.8 * unit
    if m.feet is not None:
        # a stand reaches at least to its feet
        wide = max(wide, *(abs(f.x_mm) for f in m.feet.places))
        front = min(front, *(middle + f.y_mm for f in m.feet.places))
        rear = max(rear, *(middle + f.y_mm for f in m.feet.places))
    s.add("Base", "front", [box(-wide, wide, low, floor)])
    s.add("Base", "side", [box(front, rear, low, floor)])
    if m.feet is None:
        return
    for view, _ in ACROSS:
        at = {f.x_mm if view == "front" else middle + f.y_mm for f in m.feet.places}
        stubs = [box(u - 0.06 * unit, u + 0.06 * unit, low - 0.14 * unit, low) for u in sorted(at)]
        s.add("Feet", view, stubs, detail=True)
    spots = [spot(f.x_mm, middle + f.y_mm, 0.07 * unit) for f in m.feet.places]
    s.add("Feet", "plan", spots, detail=True)


def _head(s: Sketch, m: Machine, unit: float, back: float, low: float, high: float) -> None:
    nose, spindle = 0.55 * unit, 0.13 * unit
    cutter = outline((-0.05 * unit, nose), (0.05 * unit, nose), (0, 0.12 * unit))
    quill = box(-spindle, spindle, nose, low)
    pivot = (low + high) / 2
    px = m.head.pivot_x_mm if m.head else 0.0
    front = [box(-0.34 * unit, 0.34 * unit, low, high), quill, cutter]
    s.add("Spindle", "front", front, pivot=(px, pivot), lean="lean_x")
    if m.head is not None and m.head.turns:
        s.add("Pivot", "front", [ring(px, pivot, 0.05 * unit)], detail=True)
    side = [box(-0.36 * unit, back, low, high), quill, cutter]
    s.add("Spindle", "side", side, pivot=(back, pivot), lean="nod")
    s.add("Spindle", "plan", [box(-0.34 * unit, 0.34 * unit, -0.36 * unit, back)])
    s.add("Cutter", "plan", [ring(0, 0, m.cutter_mm / 2)], detail=True)
