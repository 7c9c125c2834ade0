"""Sketches of how a machine is set up, read and moved, as data: its form in pencil, the indicator
with its base and tip, the hand or mallet, bolts that are loose and the one that holds, one arrow.

Coordinates are those of the machine's own drawing (`truing.machine.ghost`): mm, u across the view
and v up it, the table's top at v = 0 in front and side views, the spindle over the origin.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

from pydantic import BaseModel

from truing.machine import Machine
from truing.machine.ghost import ghost
from truing.machine.ghost.sketch import Point, View
from truing.measure.words import Words

By = Literal["hand", "mallet", "slide"]
UV = tuple[float, float]


class SketchLine(BaseModel):
    """Something that is set up: a square, a jaw, an arm."""

    points: list[Point]
    closed: bool = False
    thin: bool = False
    """What is only thought of, such as a path."""


class SketchDial(BaseModel):
    """An indicator: where it is held, and where its tip is."""

    base: Point
    tip: Point


class SketchBolt(BaseModel):
    """A bolt: open when it is loose, filled when it holds."""

    at: Point
    holds: bool


class SketchArrow(BaseModel):
    """The one thing that moves, which way, and by what."""

    points: list[Point]
    by: By


class SketchFigure(BaseModel):
    """A sketch in one view."""

    type: Literal["sketch"] = "sketch"
    title: Words
    shows: str
    """What is to be seen, for those who cannot see it."""
    view: View
    form: list[list[Point]]
    lines: list[SketchLine]
    dials: list[SketchDial]
    bolts: list[SketchBolt]
    arrow: SketchArrow | None
    low: Point
    """Lower left and upper right of what is shown."""
    high: Point


ROOM = 0.3
"""Of what is set up, left free about it."""
LEAST = 0.5
"""Share of the machine's own width that is shown at least."""
LOWEST, TALLEST = 0.62, 1.0
"""How high a sketch is, of its width."""


def _point(at: UV) -> Point:
    return Point(u=at[0], v=at[1])


class Easel:
    """A sketch being made on a machine, in one view; `near` is the share of the machine's width
    that is shown at least. A `bare` one begins without the machine: for a piece that is taken off
    it, or one that its drawing is too small to show."""

    def __init__(
        self, machine: Machine, view: View, *, near: float = LEAST, bare: bool = False
    ) -> None:
        self.machine, self.view, self.near = machine, view, near
        whole = ghost(machine, {}).parts
        parts = [p for p in whole if p.view == view and not bare]
        routers = any(p.name == "Bed" for p in whole)
        self.unit = machine.table_x_mm / 4 if routers else machine.table_y_mm
        """What goes by no dimension of the machine, mm: its own drawing goes by the same."""
        # what a tip stands on is never left out
        self.form = [
            line for p in parts if not p.detail or p.name == "Board" for line in p.outlines
        ]
        self._spindle = [line for p in parts if p.name == "Spindle" for line in p.outlines]
        self._parts = {p.name: p for p in parts}
        self.lines: list[SketchLine] = []
        self.dials: list[SketchDial] = []
        self.bolts: list[SketchBolt] = []
        self.arrow: SketchArrow | None = None

    @property
    def nose(self) -> float:
        """How high the spindle's nose is over the table, in front and side views."""
        cutter = min(self._spindle, key=lambda line: min(p.v for p in line), default=None)
        return max(p.v for p in cutter) if cutter else 0.5 * self.machine.table_y_mm

    def edges(self, name: str) -> tuple[float, float, float, float]:
        """(left, right, low, high) of a part of the machine. KeyError for one it does not show."""
        points = [p for line in self._parts[name].outlines for p in line]
        us, vs = [p.u for p in points], [p.v for p in points]
        return min(us), max(us), min(vs), max(vs)

    def body(self, name: str) -> tuple[float, float, float, float]:
        """(left, right, low, high) of the largest piece of a part: a head without its cutter.
        KeyError for one it does not show."""
        spans = [(*_span(line, "u"), *_span(line, "v")) for line in self._parts[name].outlines]
        return max(spans, key=lambda s: (s[1] - s[0]) * (s[3] - s[2]))

    def middles(self, name: str) -> list[UV]:
        """The middle of each outline of a part, such as every foot. KeyError for one it does not
        show."""
        return [
            (sum(p.u for p in line) / len(line), sum(p.v for p in line) / len(line))
            for line in self._parts[name].outlines
        ]

    def empty(self) -> None:
        """Take the cutter out of the spindle, in front and side views."""
        cutters = [line for line in self._spindle if min(p.v for p in line) < self.nose]
        self.form = [line for line in self.form if line not in cutters]

    def pencil(self, *points: UV) -> None:
        """Something of the machine that its own drawing leaves out: a way, a rail."""
        self.form.append([_point(p) for p in points])

    def pivot(self, name: str) -> UV:
        """What a part of the machine leans about."""
        at = self._parts[name].pivot
        return at.u, at.v

    def has(self, name: str) -> bool:
        """Whether the view shows this part."""
        return name in self._parts

    def line(self, *points: UV, closed: bool = False, thin: bool = False) -> None:
        """Something set up, through these places."""
        found = SketchLine(points=[_point(p) for p in points], closed=closed, thin=thin)
        self.lines.append(found)

    def box(
        self, left: float, right: float, low: float, high: float, *, thin: bool = False
    ) -> None:
        """A block, upright in the view."""
        corners = ((left, low), (right, low), (right, high), (left, high))
        self.line(*corners, closed=True, thin=thin)

    def ring(self, centre: UV, radius: float, *, thin: bool = False) -> None:
        """A round thing, seen from its end."""
        turns = [2 * math.pi * i / 24 for i in range(24)]
        points = [
            (centre[0] + radius * math.cos(t), centre[1] + radius * math.sin(t)) for t in turns
        ]
        self.line(*points, closed=True, thin=thin)

    def stand(self, foot: UV, base: UV) -> None:
        """What holds a dial: a foot, and the post from it to where the dial is clamped."""
        half = 0.07 * self.unit
        self.box(foot[0] - half, foot[0] + half, foot[1], foot[1] + 1.4 * half)
        self.line((foot[0], foot[1] + 1.4 * half), base)

    def dial(self, base: UV, tip: UV) -> None:
        """An indicator with its tip on something."""
        self.dials.append(SketchDial(base=_point(base), tip=_point(tip)))

    def bolt(self, at: UV, *, holds: bool = False) -> None:
        """A bolt, loose or holding."""
        self.bolts.append(SketchBolt(at=_point(at), holds=holds))

    def moves(self, *points: UV, by: By) -> None:
        """What moves, from the first place to the last."""
        self.arrow = SketchArrow(points=[_point(p) for p in points], by=by)

    def turns(self, centre: UV, across: float, up: float) -> None:
        """A turn by hand about an upright through a place, seen from the side."""
        turns = [math.pi * (0.85 - 1.7 * i / 16) for i in range(17)]
        path = [(centre[0] + across * math.sin(t), centre[1] - up * math.cos(t)) for t in turns]
        self.moves(*path, by="hand")

    def swings(self, centre: UV, radius: float, start: float, end: float) -> None:
        """A turn by hand in the plane of the view, from one angle to another in degrees,
        counterclockwise from the right."""
        turns = [math.radians(start + (end - start) * i / 16) for i in range(17)]
        path = [(centre[0] + radius * math.cos(t), centre[1] + radius * math.sin(t)) for t in turns]
        self.moves(*path, by="hand")

    def done(self, title: Words, shows: str) -> SketchFigure:
        """The sketch, close enough to be seen."""
        low, high = self._window()
        return SketchFigure(
            title=title,
            shows=shows,
            view=self.view,
            form=self.form,
            lines=self.lines,
            dials=self.dials,
            bolts=self.bolts,
            arrow=self.arrow,
            low=low,
            high=high,
        )

    def _window(self) -> tuple[Point, Point]:
        drawn: list[Point] = [p for line in self.lines for p in line.points]
        drawn += [p for d in self.dials for p in (d.base, d.tip)]
        drawn += [b.at for b in self.bolts]
        drawn += self.arrow.points if self.arrow else []
        every = [p for line in self.form for p in line]
        whole = max(p.u for p in every) - min(p.u for p in every)
        u0, u1 = _span(drawn or every, "u")
        v0, v1 = _span(drawn or every, "v")
        room = ROOM * max(u1 - u0, v1 - v0)
        wide = max(u1 - u0 + 2 * room, self.near * whole)
        tall = max(v1 - v0 + 2 * room, wide * LOWEST)
        wide = max(wide, tall / TALLEST)
        middle_u, middle_v = (u0 + u1) / 2, (v0 + v1) / 2
        return (
            Point(u=middle_u - wide / 2, v=middle_v - tall / 2),
            Point(u=middle_u + wide / 2, v=middle_v + tall / 2),
        )


def _span(points: Sequence[Point], axis: Literal["u", "v"]) -> tuple[float, float]:
    values = [getattr(p, axis) for p in points]
    return min(values), max(values)
