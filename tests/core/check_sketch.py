"""The contract of a sketch, held against every way of reading and every move of every kind."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import Any

from truing.contract.case import Case
from truing.contract.check import Check
from truing.drawing.sketches import SketchFigure
from truing.machine.ghost.sketch import Point


def check_sketch(core: Check[Any, Any], case: Case[Any, Any]) -> None:
    """How it is read is drawn on the machine: every tip on something, one thing that moves."""
    figure = core.sketch(case.setup, case.machine)
    assert figure is not None, "nobody sees how it is set up"
    drawn(figure)
    for dial in figure.dials:
        assert on_something(figure, dial.tip), f"{figure.title.metric}: the tip is in the air"
        # further from its clamp than its own round face reaches, so that the tip can be seen
        out = math.hypot(dial.base.u - dial.tip.u, dial.base.v - dial.tip.v)
        assert out > 0.055 * (figure.high.u - figure.low.u), figure.title.metric


def drawn(figure: SketchFigure) -> None:
    """The form in pencil, one arrow, all that is set up inside the picture, and told in words."""
    assert figure.form
    assert figure.arrow is not None, figure.title.metric
    assert figure.shows.endswith(".")
    assert "  " not in figure.shows
    told = [p for line in figure.lines for p in line.points] + figure.arrow.points
    told += [p for d in figure.dials for p in (d.base, d.tip)] + [b.at for b in figure.bolts]
    for p in told:
        assert figure.low.u <= p.u <= figure.high.u
        assert figure.low.v <= p.v <= figure.high.v
    # an arrow that is no longer than its head tells no direction
    ends = [math.hypot(b.u - a.u, b.v - a.v) for a, b in pairwise(figure.arrow.points)]
    assert sum(ends) > 0.06 * (figure.high.u - figure.low.u), figure.title.metric


def on_something(figure: SketchFigure, tip: Point) -> bool:
    """Whether a place lies on a line that is drawn, or on what such lines enclose."""
    closed = [*figure.form, *(line.points for line in figure.lines if line.closed)]
    near = (figure.high.u - figure.low.u) / 1000
    edges = [pair for line in closed for pair in pairwise([*line, line[0]])]
    edges += [pair for line in figure.lines if not line.closed for pair in pairwise(line.points)]
    return any(away(tip, *edge) < near for edge in edges) or any(inside_of(tip, c) for c in closed)


def away(place: Point, one: Point, other: Point) -> float:
    """From a place to the nearest of a line's, in mm."""
    du, dv = other.u - one.u, other.v - one.v
    along = ((place.u - one.u) * du + (place.v - one.v) * dv) / ((du * du + dv * dv) or 1.0)
    t = min(1.0, max(0.0, along))
    return math.hypot(place.u - one.u - t * du, place.v - one.v - t * dv)


def inside_of(place: Point, outline: Sequence[Point]) -> bool:
    """Whether a ray to the right crosses the outline an odd number of times."""
    crossed = False
    for a, b in pairwise([*outline, outline[0]]):
        if (a.v > place.v) != (b.v > place.v):
            crossed ^= place.u < a.u + (place.v - a.v) / (b.v - a.v) * (b.u - a.u)
    return crossed
