"""A move on one sheet of paper, to be taken to the machine: what goes where, the steps, the
cautions."""

from __future__ import annotations

import math
import textwrap
from itertools import pairwise
from typing import Literal

from truing.contract.move import Move
from truing.drawing.figures import PlanFigure
from truing.drawing.shapes import Circle, Drawing, Layer, Line, Shape, Text, rectangle
from truing.drawing.sketches import SketchFigure
from truing.machine.ghost.sketch import Point
from truing.measure.words import Words

WIDE_MM, HIGH_MM = 190.0, 277.0
"""An A4 sheet less its margins."""
PLAN_MM = (150.0, 95.0)
SKETCH_MM = (110.0, 66.0)
LEAST_SKETCH_MM = 25.0
"""A sketch that is lower than this shows nothing: it is left out."""
SMALL = 2.8
"""Of what is told beside a drawing, mm high."""
COLUMNS = 96
System = Literal["metric", "inch"]


class _Page:
    """Writes downwards from the top of the sheet."""

    def __init__(self, system: System) -> None:
        self.system = system
        self.y = HIGH_MM
        self.shapes: list[Shape] = []

    def told(self, words: Words | str) -> str:
        if isinstance(words, str):
            return words
        return words.metric if self.system == "metric" else words.inch

    def write(self, words: Words | str, size: float = 3.4, indent: float = 0.0) -> None:
        for line in textwrap.wrap(self.told(words), int(COLUMNS * 3.4 / size)) or [""]:
            self.y -= size * 1.45
            self.shapes.append(Text(x_mm=indent, y_mm=self.y, text=line, size_mm=size))

    def gap(self, mm: float) -> None:
        self.y -= mm


def move_sheet(move: Move, machine: str, system: System) -> Drawing:
    """The sheet of one move; its plan is not to scale, the figures are what counts."""
    page = _Page(system)
    page.write(machine, 3.0)
    page.write(move.title, 5.5)
    page.gap(3)
    for caution in move.cautions:
        page.write(f"Mind: {caution}")
    for figure in move.figures:
        if isinstance(figure, PlanFigure):
            page.gap(4)
            _plan(page, figure)
    if move.sketch is not None:
        # what has to be read comes first: the sketch takes what that leaves
        rest = _Page(system)
        rest.gap(2)
        rest.write(move.sketch.shows, SMALL)
        _told(rest, move)
        room = page.y + rest.y - HIGH_MM
        if room > LEAST_SKETCH_MM:
            page.gap(2)
            _sketch(page, move.sketch, min(room, SKETCH_MM[1]))
    _told(page, move)
    return Drawing(
        title=f"{machine}: {page.told(move.title)}",
        width_mm=WIDE_MM,
        height_mm=HIGH_MM,
        shapes=page.shapes,
    )


def _told(page: _Page, move: Move) -> None:
    """Figures, steps and what to expect, in words."""
    page.gap(3)
    for amount in move.amounts:
        detail = f" – {page.told(amount.detail)}" if amount.detail else ""
        page.write(f"{page.told(amount.called)}: {page.told(amount.words)}{detail}", indent=3)
    for stack in move.stacks:
        page.write(f"{page.told(stack.called)}: {page.told(stack.words)}", indent=3)
    for entry in move.entries:
        page.write(f"{entry.setting}: {page.told(entry.words)}", indent=3)
    for target in move.targets:
        page.write(f"{page.told(target.label)}: {page.told(target.words)}", indent=3)
    page.gap(3)
    for i, step in enumerate(move.steps, 1):
        page.write(f"{i}. {page.told(step)}")
    for note in move.notes:
        page.write(note)
    for p in move.predicted:
        page.write(f"{page.told(p.label)} should then be {page.told(p.words)}. Read: ____________")


def _sketch(page: _Page, figure: SketchFigure, tall_mm: float) -> None:
    """The sketch, no higher than there is room for: its form in the thin line that explains, what
    is set up in the cut one."""
    wide, tall = figure.high.u - figure.low.u, figure.high.v - figure.low.v
    scale = min(SKETCH_MM[0] / wide, tall_mm / tall)
    left, low = 15.0, page.y - tall * scale

    def at(p: Point) -> tuple[float, float]:
        return left + (p.u - figure.low.u) * scale, low + (p.v - figure.low.v) * scale

    for outline in figure.form:
        for one, other in pairwise([*outline, outline[0]]):
            cut = _within(figure, one, other)
            if cut is not None:
                page.shapes.append(Line(points=[at(cut[0]), at(cut[1])], layer="paper"))
    for line in figure.lines:
        points = [at(p) for p in line.points]
        layer: Layer = "paper" if line.thin else "mark"
        page.shapes.append(Line(points=points, closed=line.closed, layer=layer))
    for dial in figure.dials:
        (x, y), tip = at(dial.base), at(dial.tip)
        page.shapes.append(Line(points=[(x, y), tip], layer="mark"))
        page.shapes.append(Circle(x_mm=x, y_mm=y, radius_mm=3.2, layer="mark"))
    for bolt in figure.bolts:
        x, y = at(bolt.at)
        for radius in (1.8, 1.2, 0.6) if bolt.holds else (1.8,):
            page.shapes.append(Circle(x_mm=x, y_mm=y, radius_mm=radius, layer="cut"))
    if figure.arrow is not None:
        points = [at(p) for p in figure.arrow.points]
        page.shapes.append(Line(points=points, layer="cut"))
        page.shapes.append(Line(points=_head(points[-2], points[-1]), layer="cut"))
    page.y = low
    page.write(figure.shows, SMALL)


def _head(
    before: tuple[float, float], tip: tuple[float, float], size: float = 2.6
) -> list[tuple[float, float]]:
    """Both barbs of an arrow."""
    toward = math.atan2(tip[1] - before[1], tip[0] - before[0])
    barbs = [
        (tip[0] - size * math.cos(toward + turn), tip[1] - size * math.sin(toward + turn))
        for turn in (0.5, -0.5)
    ]
    return [barbs[0], tip, barbs[1]]


def _within(figure: SketchFigure, one: Point, other: Point) -> tuple[Point, Point] | None:
    """The part of a line that lies in the window, by its parameter from one end to the other; None
    for one outside."""
    low, high = 0.0, 1.0
    for start, end, least, most in (
        (one.u, other.u, figure.low.u, figure.high.u),
        (one.v, other.v, figure.low.v, figure.high.v),
    ):
        if abs(end - start) < 1e-9:
            if not least <= start <= most:
                return None
            continue
        first, last = sorted(((least - start) / (end - start), (most - start) / (end - start)))
        low, high = max(low, first), min(high, last)
    if low >= high:
        return None

    def along(t: float) -> Point:
        return Point(u=one.u + (other.u - one.u) * t, v=one.v + (other.v - one.v) * t)

    return along(low), along(high)


def _plan(page: _Page, figure: PlanFigure) -> None:
    scale = min(PLAN_MM[0] / (figure.width_mm or 1), PLAN_MM[1] / (figure.depth_mm or 1), 1.0)
    width, depth = figure.width_mm * scale, max(figure.depth_mm * scale, 8.0)
    page.write(figure.title)
    page.gap(6)
    left, low = 15.0, page.y - depth
    page.shapes.append(rectangle(left, low, width, depth, layer="mark"))
    for spot in figure.spots:
        x = left + width / 2 + spot.x_mm * scale
        y = low + depth / 2 + spot.y_mm * scale
        page.shapes.append(Circle(x_mm=x, y_mm=y, radius_mm=1.6, layer="cut"))
        if spot.sort != "stay":
            page.shapes.append(Circle(x_mm=x, y_mm=y, radius_mm=3.0, layer="cut"))
        at = x + 4 if x < left + width * 0.75 else x - 34
        page.shapes.append(Text(x_mm=at, y_mm=y + 0.6, text=page.told(spot.label), size_mm=2.5))
        text = page.told(spot.words)
        page.shapes.append(Text(x_mm=at, y_mm=y - 2.8, text=text, size_mm=2.8))
    page.y = low - 6
    page.write("You stand here. Not to scale.", 2.6)
    page.shapes.append(Line(points=[(left, low - 2), (left + width, low - 2)], layer="paper"))
