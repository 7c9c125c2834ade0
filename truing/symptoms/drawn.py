"""Symptoms, drawn: what is seen on the part or at the machine, as strokes on a small sheet.

The sheet is `WIDE` × `TALL`, u to the right and v up. What is wrong is drawn in the pen for errors,
how it should be in thin dashes, what is only there to be recognised in pencil.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Literal

from pydantic import BaseModel

from truing.machine.ghost.sketch import Point

WIDE, TALL = 120.0, 80.0
Pen = Literal["pencil", "ink", "error", "ideal"]
UV = tuple[float, float]


class Stroke(BaseModel):
    """A line drawn with one pen."""

    points: list[Point]
    pen: Pen
    closed: bool = False


class SymptomFigure(BaseModel):
    """What is seen, drawn."""

    shows: str
    """What is to be seen, for those who cannot see it."""
    wide: float = WIDE
    tall: float = TALL
    strokes: list[Stroke]


def _line(pen: Pen, *points: UV, closed: bool = False) -> Stroke:
    return Stroke(points=[Point(u=u, v=v) for u, v in points], pen=pen, closed=closed)


def _box(pen: Pen, left: float, low: float, right: float, high: float) -> Stroke:
    return _line(pen, (left, low), (right, low), (right, high), (left, high), closed=True)


def _arc(pen: Pen, u: float, v: float, radius: float, start: float = 0, end: float = 360) -> Stroke:
    """Part of a circle, from one angle to another in degrees, counterclockwise from the right."""
    n = max(8, round(abs(end - start) / 8))
    turns = [math.radians(start + (end - start) * i / n) for i in range(n + 1)]
    points = [(u + radius * math.cos(t), v + radius * math.sin(t)) for t in turns]
    return _line(pen, *points)


def _turned(strokes: Sequence[Stroke], degrees: float, about: UV, pen: Pen) -> list[Stroke]:
    """The same strokes turned about a place, in another pen."""
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    u, v = about

    def turn(p: Point) -> UV:
        return u + c * (p.u - u) - s * (p.v - v), v + s * (p.u - u) + c * (p.v - v)

    return [_line(pen, *(turn(p) for p in x.points), closed=x.closed) for x in strokes]


def _head(pen: Pen, at: UV, degrees: float) -> Stroke:
    """The head of an arrow that points this way."""
    t = math.radians(degrees)
    sides = [(at[0] - 6 * math.cos(t + d), at[1] - 6 * math.sin(t + d)) for d in (0.45, -0.45)]
    return _line(pen, sides[0], at, sides[1])


def _ridges() -> list[Stroke]:
    steps = [(u, v) for i in range(4) for u, v in ((14 + 23 * i, 30), (37 + 23 * i, 38))]
    cutter = [_box("ink", 54, 40, 78, 50), _line("ink", (66, 50), (66, 74))]
    return [
        _line("pencil", (106, 38), (106, 8), (14, 8), (14, 30)),
        _line("ideal", (8, 30), (112, 30)),
        _line("error", *steps),
        *_turned(cutter, 19, (60, 38), "ink"),
    ]


def _engraving() -> list[Stroke]:
    strokes = [_box("pencil", 10, 6, 110, 74)]
    for i in range(24):
        t = math.radians(15 * i)
        c, s = math.cos(t), math.sin(t)
        inner = 16.0 if i % 2 else 10.0
        pen: Pen = "ideal" if c > 0.1 else "error"
        strokes.append(_line(pen, (60 + inner * c, 40 + inner * s), (60 + 28 * c, 40 + 28 * s)))
    return [*strokes, _arc("error", 60, 40, 31, 85, 275), _arc("ideal", 60, 40, 31, -85, 85)]


def _one_sided() -> list[Stroke]:
    arcs = [_arc("error", 18 + 11 * i, 40, 24, -78, 78) for i in range(6)]
    return [
        _line("pencil", (6, 16), (114, 16)),
        _line("pencil", (6, 64), (114, 64)),
        *arcs,
        _arc("ideal", 73, 40, 24, 90, 270),
    ]


def _thickness() -> list[Stroke]:
    return [
        _line("pencil", (6, 18), (114, 18)),
        _line("ideal", (16, 40), (104, 40)),
        _line("error", (16, 18), (104, 18), (104, 58), (16, 40), closed=True),
        _line("ink", (8, 18), (8, 40)),
        _head("ink", (8, 40), 90),
        _head("ink", (8, 18), 270),
        _line("ink", (112, 18), (112, 58)),
        _head("ink", (112, 58), 90),
        _head("ink", (112, 18), 270),
    ]


def _holes() -> list[Stroke]:
    strokes = [_box("pencil", 8, 8, 112, 72)]
    for u, v, du, dv in ((32, 56, 5, -2), (88, 56, -4, 3), (32, 24, -4, -3), (88, 24, 5, 2)):
        strokes += [
            _line("ideal", (u - 10, v), (u + 10, v)),
            _line("ideal", (u, v - 10), (u, v + 10)),
            _arc("error", u + du, v + dv, 7),
        ]
    return strokes


def _walls() -> list[Stroke]:
    return [
        _line("pencil", (6, 58), (6, 8), (114, 8), (114, 58)),
        _line("ideal", (32, 58), (32, 22)),
        _line("ideal", (88, 58), (88, 22)),
        _line("error", (6, 58), (32, 58), (40, 22), (96, 22), (88, 58), (114, 58)),
    ]


def _lozenge() -> list[Stroke]:
    return [
        _box("ideal", 22, 12, 92, 68),
        _line("error", (22, 12), (92, 12), (104, 68), (34, 68), closed=True),
        _line("ink", (22, 20), (30, 20), (30, 12)),
    ]


def _slots() -> list[Stroke]:
    return [
        _box("pencil", 6, 8, 114, 72),
        _line("error", (114, 56), (44, 56)),
        _arc("error", 44, 40, 16, 90, 270),
        _line("error", (44, 24), (114, 24)),
        _line("ideal", (114, 50), (44, 50)),
        _line("ideal", (44, 30), (114, 30)),
        _arc("ink", 76, 44, 10),
        _line("ink", (70, 40), (82, 48)),
        _arc("pencil", 76, 40, 4),
    ]


def _slack() -> list[Stroke]:
    wheel = [_arc("ink", 36, 40, 26), _arc("ink", 36, 40, 5), _arc("ink", 36, 60, 3.5)]
    return [
        *wheel,
        _arc("error", 36, 40, 33, 150, 72),
        _head("error", (36 + 33 * math.cos(1.26), 40 + 33 * math.sin(1.26)), -18),
        _line("pencil", (41, 40), (112, 40)),
        _box("ink", 82, 26, 104, 54),
        _line("ideal", (108, 26), (108, 54)),
        _line("pencil", (70, 22), (116, 22)),
    ]


def _reversal() -> list[Stroke]:
    return [
        _arc("ideal", 60, 40, 28),
        _arc("error", 57, 43, 28, 92, 268),
        _arc("error", 63, 37, 28, -88, 88),
        _line("error", (56, 71), (64, 65)),
        _line("error", (56, 15), (64, 9)),
    ]


def _stalls() -> list[Stroke]:
    bent = [(14 + 92 * i / 20, 34 + 12 * (i / 20) ** 3) for i in range(21)]
    return [
        _line("pencil", (6, 14), (114, 14)),
        _line("ideal", (14, 34), (106, 34)),
        _box("ink", 8, 14, 18, 42),
        _box("ink", 102, 14, 112, 54),
        _line("error", *bent),
        _box("ink", 74, 24, 94, 50),
        _line("ink", (34, 62), (66, 62)),
        _head("ink", (66, 62), 0),
        _line("error", (72, 56), (72, 68)),
    ]


def _chatter() -> list[Stroke]:
    waves = [(44 + i, 34 + 3 * math.sin(2 * math.pi * i / 8)) for i in range(65)]
    rays = [
        _line("ink", *((30 + r * math.cos(t), 50 + r * math.sin(t)) for r in (6, 16)))
        for t in (math.radians(90 * i + 20) for i in range(4))
    ]
    return [
        _line("pencil", (108, 34), (108, 8), (12, 8), (12, 52)),
        _line("ideal", (44, 34), (108, 34)),
        _arc("ink", 30, 50, 16),
        *rays,
        _line("error", *waves),
    ]


def _moved() -> list[Stroke]:
    mill = [
        _box("ink", 28, 12, 92, 22),
        _line("ink", (70, 22), (70, 70), (84, 70), (84, 22)),
        _line("ink", (70, 62), (42, 62), (42, 44), (70, 44)),
        _line("ink", (49, 44), (49, 34)),
        _box("ink", 32, 24, 64, 30),
    ]
    return [
        _line("pencil", (6, 10), (114, 10)),
        *_turned(mill, 0, (60, 12), "ideal"),
        *_turned(mill, 6, (28, 12), "error"),
    ]


def _building() -> list[Stroke]:
    bolts = [_arc("ink", u, v, 2) for v in (19, 61) for u in (20, 40, 60, 80, 100)]
    return [
        _box("ink", 8, 14, 112, 24),
        _box("ink", 8, 56, 112, 66),
        *bolts,
        _box("ideal", 52, 6, 68, 74),
        _line("pencil", (8, 14), (8, 6)),
        _line("pencil", (112, 14), (112, 6)),
    ]


_DRAWN: dict[str, tuple[str, Callable[[], list[Stroke]]]] = {
    "ridges": ("A leaning cutter over a face that goes up and down in steps.", _ridges),
    "engraving": (
        "A dial with divisions cut on one half and missing on the other.",
        _engraving,
    ),
    "one_sided": ("Marks of a cutter as half circles that all bend the same way.", _one_sided),
    "thickness": ("A piece from the side, thicker at its right end.", _thickness),
    "holes": ("Four holes, each beside the cross that marks its place.", _holes),
    "walls": ("A pocket cut through: both its walls lean to the right.", _walls),
    "out_of_square": ("A lozenge over the rectangle that it should be.", _lozenge),
    "slots": ("A slot that is wider than the cutter in it, whose middle swings about.", _slots),
    "slack": ("A handwheel that is turned while its slide stays where it is.", _slack),
    "reversal": ("A circle of two halves that do not meet.", _reversal),
    "stalls": ("A screw that one of its end blocks bends, and a nut that stops near it.", _stalls),
    "chatter": ("A cutter that leaves waves on the face behind it.", _chatter),
    "moved": ("A mill that stands aslant, over how it should stand.", _moved),
    "building": (
        "Two rails with their bolts, and the beam to go on them in dashes.",
        _building,
    ),
}


def drawn(key: str) -> SymptomFigure:
    """The drawing of a symptom; KeyError where there is none."""
    shows, strokes = _DRAWN[key]
    return SymptomFigure(shows=shows, strokes=strokes())
