"""Routers: a beam across a bed, on two legs or end plates."""

from __future__ import annotations

from truing.machine import Machine
from truing.machine.ghost.sketch import Sketch, box, outline, ring, spot


def draw_router(s: Sketch, m: Machine) -> None:
    """Draw a router, or a frame that is to become one, from its dimensions."""
    half_x, half_y = m.table_x_mm / 2, m.table_y_mm / 2
    unit = m.table_x_mm / 4
    left, right = -half_x - 0.1 * unit, half_x + 0.1 * unit
    if m.gantry is not None:
        left, right = m.gantry.left_plate_x_mm, m.gantry.right_plate_x_mm
    plate = 0.2 * unit
    _bed(s, m, half_x, half_y, unit)
    if m.gantry is not None or m.spindle:
        beam_low, beam_high = 1.2 * unit, 1.9 * unit
        ends = [box(left - plate, left, -0.4 * unit, 2.0 * unit)]
        ends.append(box(right, right + plate, -0.4 * unit, 2.0 * unit))
        s.add("End plates", "front", ends)
        s.add("Beam", "front", [box(left, right, beam_low, beam_high)])
        s.add("End plates", "side", [box(0.2 * unit, 0.9 * unit, -0.4 * unit, 2.0 * unit)])
        s.add("Beam", "side", [box(0.3 * unit, 0.8 * unit, beam_low, beam_high)])
        s.add("Beam", "plan", [box(left, right, 0.3 * unit, 0.8 * unit)])
        _motors(s, m, unit)
    if m.spindle:
        _spindle(s, m, unit)


def _bed(s: Sketch, m: Machine, half_x: float, half_y: float, unit: float) -> None:
    board = min(m.board.thickness_mm, 0.3 * unit) if m.board else 0.0
    s.add("Bed", "front", [box(-half_x, half_x, -0.25 * unit - board, -board)], known=True)
    s.add("Bed", "side", [box(-half_y, half_y, -0.25 * unit - board, -board)], known=True)
    s.add("Bed", "plan", [box(-half_x, half_x, -half_y, half_y)], known=True)
    if m.board is not None:
        s.add("Board", "front", [box(-half_x, half_x, -board, 0)], detail=True)
        s.add("Board", "side", [box(-half_y, half_y, -board, 0)], detail=True)
    if m.rails is not None:
        at, end, wide = m.rails.apart_mm / 2, m.rails.length_mm / 2, 0.04 * unit
        rails = [box(x - wide, x + wide, -end, end) for x in (-at, at)]
        s.add("Rails", "plan", rails, detail=True)
        low = -0.25 * unit - board
        ends = [box(x - wide, x + wide, low - 2 * wide, low) for x in (-at, at)]
        s.add("Rails", "front", ends, detail=True)
    if m.feet is not None:
        low = -0.45 * unit - board
        stub = 0.06 * unit
        for view, places in (
            ("front", {f.x_mm for f in m.feet.places}),
            ("side", {f.y_mm for f in m.feet.places}),
        ):
            stubs = [box(u - stub, u + stub, low - 2 * stub, low) for u in sorted(places)]
            s.add("Feet", "front" if view == "front" else "side", stubs, detail=True)
        spots = [spot(f.x_mm, f.y_mm, 0.07 * unit) for f in m.feet.places]
        s.add("Feet", "plan", spots, detail=True)


def _motors(s: Sketch, m: Machine, unit: float) -> None:
    size = 0.12 * unit
    if m.lift is not None:
        at = (m.lift.left_x_mm, m.lift.right_x_mm)
        tops = [box(x - size, x + size, 2.0 * unit, 2.35 * unit) for x in at]
        s.add("Lifting motors", "front", tops, detail=True)
    if m.gantry_drive is not None:
        at = (m.gantry_drive.left_x_mm, m.gantry_drive.right_x_mm)
        spots = [box(x - size, x + size, 0.9 * unit, 1.2 * unit) for x in at]
        s.add("Driving motors", "plan", spots, detail=True)
    if m.gantry is not None:
        bolt = ring(m.gantry.fixed_bolt_y_mm, 1.1 * unit, 0.05 * unit)
        s.add("Fixed bolt", "side", [bolt], detail=True)


def _spindle(s: Sketch, m: Machine, unit: float) -> None:
    nose, middle = 0.55 * unit, 1.55 * unit
    cutter = outline((-0.05 * unit, nose), (0.05 * unit, nose), (0, 0.1 * unit))
    body = box(-0.16 * unit, 0.16 * unit, nose, 0.95 * unit)
    front = [box(-0.3 * unit, 0.3 * unit, 0.95 * unit, 2.3 * unit), body, cutter]
    s.add("Spindle", "front", front, pivot=(0, middle), lean="lean_x")
    side = [box(-0.3 * unit, 0.25 * unit, 0.95 * unit, 2.3 * unit), body, cutter]
    s.add("Spindle", "side", side, pivot=(0.3 * unit, middle), lean="nod")
    s.add("Spindle", "plan", [box(-0.3 * unit, 0.3 * unit, -0.3 * unit, 0.25 * unit)])
    s.add("Cutter", "plan", [ring(0, 0, m.cutter_mm / 2)], detail=True)
    if m.bracket is not None:
        half = m.bracket.spacing_mm / 2
        screws = [
            spot(u, middle + v, 0.04 * unit)
            for u in (-0.2 * unit, 0.2 * unit)
            for v in (-half, half)
        ]
        s.add("Bracket screws", "front", screws, detail=True)
