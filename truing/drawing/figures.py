"""Figures of results, as data: what to draw and how it is labelled, never how it is computed.

Every kind of check describes its figures with these; the screen draws each type in one way.
Coordinates are mm in the frame of the machine; `factor` says how often an error is magnified.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import BaseModel, Field

from truing.measure.words import InBoth, Words

FACTORS = (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000)


def magnification(worst_mm: float, length_mm: float, share: float = 0.12) -> int:
    """The round factor at which the worst error draws about `share` of the length."""
    if worst_mm <= 0:
        return FACTORS[-1]
    wanted = share * length_mm / worst_mm
    return min(FACTORS, key=lambda f: abs(math.log(f / wanted)))


class WarpPoint(BaseModel):
    """A place on a surface and how high it stands."""

    label: InBoth
    x_mm: float
    y_mm: float
    z_mm: float
    words: Words


class WarpFigure(BaseModel):
    """A surface that is warped, over the flat one it should be; corners in order round it."""

    type: Literal["warp"] = "warp"
    title: Words
    points: list[WarpPoint]
    factor: int


class CurvePoint(BaseModel):
    """A place along a line, and how far it stands off it."""

    label: InBoth
    at_mm: float
    off_mm: float
    words: Words


class Curve(BaseModel):
    """One line: a rail, an edge, a slide's play."""

    name: str
    points: list[CurvePoint]
    reference: bool = False
    """Drawn thin: what it is compared with."""


class CurveFigure(BaseModel):
    """Errors along a travel or a rail against the line they should keep to."""

    type: Literal["curve"] = "curve"
    title: Words
    curves: list[Curve]
    bolts: bool
    """Whether the places are bolts."""
    up: str
    """What is up in the figure, such as “toward the rear”."""
    band_mm: float | None
    """Half of the width that is allowed."""
    band_words: Words | None
    factor: int


class Bar(BaseModel):
    """One step of a waterfall, from one height to another."""

    label: InBoth
    from_mm: float
    to_mm: float
    words: Words
    sort: Literal["whole", "share", "deduced", "gain", "loss"]


class WaterfallFigure(BaseModel):
    """How a whole is made up, and what each remedy took off it."""

    type: Literal["waterfall"] = "waterfall"
    title: Words
    bars: list[Bar]
    limit_mm: float | None
    limit_words: Words | None


class Spot(BaseModel):
    """A place seen from above, and what is done or stands there."""

    label: InBoth
    x_mm: float
    y_mm: float
    words: Words
    detail: Words | None = None
    sort: Literal["up", "down", "in", "out", "stay", "shim"]


class PlanFigure(BaseModel):
    """What goes where, seen from above, the operator at the front."""

    type: Literal["plan"] = "plan"
    title: Words
    spots: list[Spot]
    width_mm: float
    depth_mm: float


class Rung(BaseModel):
    """One step of a ladder."""

    label: Words
    value: float
    result: Literal["clean", "rattles", "stalls", "lost", "ahead", "not_reached"]
    words: Words | None
    """What was missed; None for one that was not run."""


class LadderFigure(BaseModel):
    """Steps up to where it fails, with what was proven and what is recommended."""

    type: Literal["ladder"] = "ladder"
    title: Words
    rungs: list[Rung]
    recommended: float | None
    recommended_words: Words | None


class PolarTrace(BaseModel):
    """One turn: how far the surface stands out at each angle, and the circle through it."""

    name: InBoth
    angles_rad: list[float]
    """From the first mark, which is drawn up, the way the marks are counted."""
    off_mm: list[float]
    x_mm: float
    """The fitted circle's centre, toward the first mark, and a quarter of a turn on."""
    y_mm: float
    words: Words
    """How much it runs out."""


class PolarFigure(BaseModel):
    """Turns of something round about its axis, each with its circle."""

    type: Literal["polar"] = "polar"
    title: Words
    traces: list[PolarTrace]
    radius_mm: float
    """Of the circle that runs true, as drawn."""
    factor: int


class ChainLink(BaseModel):
    """What one part of a chain adds, as a vector."""

    name: str
    x_mm: float
    """Toward the first mark, and a quarter of a turn on."""
    y_mm: float
    words: Words
    """How much it runs out by itself."""


class TurnedLink(BaseModel):
    """Where a chain ends when one part of it is turned."""

    name: str
    after: int
    """How many links stay as they are."""
    x_mm: float
    y_mm: float
    words: Words


class ChainFigure(BaseModel):
    """What the parts of a chain add, end to end, all to one scale, and its best seat."""

    type: Literal["chain"] = "chain"
    title: Words
    links: list[ChainLink]
    whole: Words
    turned: TurnedLink | None
    limit_mm: float
    """How far the end may stand off."""
    limit_words: Words
    scale_mm: float
    """A round length to show the scale by."""
    scale_words: Words


class RankedRow(BaseModel):
    """One piece among its like: between what it lies, and what it is good for."""

    name: str
    value_mm: float
    low_mm: float
    high_mm: float
    words: Words
    good_for: Words
    sort: Literal["good", "doubt", "bad", "retired"]


class RankedFigure(BaseModel):
    """Pieces of one sort, best first, on one scale from nothing."""

    type: Literal["ranked"] = "ranked"
    title: Words
    rows: list[RankedRow]
    limit_mm: float
    limit_words: Words


class ContourPoint(BaseModel):
    """A place on a map and its height."""

    label: InBoth
    x_mm: float
    y_mm: float
    words: Words


class ContourFigure(BaseModel):
    """Heights over an area in steps, seen from above, the operator at the front."""

    type: Literal["contour"] = "contour"
    title: Words
    x_mm: list[float]
    """Middles of the cells, left to right."""
    y_mm: list[float]
    """Front to rear."""
    up_mm: list[list[float | None]]
    """Over the lowest point, row by row from the front; None outside of what was read."""
    step_mm: float
    """Of one band."""
    step_words: Words
    most_words: Words
    """From the lowest to the highest point."""
    limit_mm: float
    points: list[ContourPoint]


class AxisPoint(BaseModel):
    """How far an axis stands off the one it turns about, at a distance from the nose."""

    label: InBoth
    at_mm: float
    off_mm: float
    low_mm: float
    high_mm: float
    words: Words
    read: bool
    """Whether it was read there; else it lies on the line."""


class AxisFigure(BaseModel):
    """An axis that leans, from the nose outward, with how well it is known."""

    type: Literal["axis"] = "axis"
    title: Words
    points: list[AxisPoint]
    """In order from the nose outward."""
    factor: int


class RidgeStrip(BaseModel):
    """A section across the passes of one patch."""

    name: str
    low_end: str
    high_end: str
    """What lies at its left and its right end."""
    at_mm: list[float]
    up_mm: list[float]
    words: Words


class RidgesFigure(BaseModel):
    """What passes beside one another leave, in section, heights magnified by `factor`."""

    type: Literal["ridges"] = "ridges"
    title: Words
    strips: list[RidgeStrip]
    factor: int


class BesideRow(BaseModel):
    """One thing as it was foretold and as it came out, each between two limits."""

    name: str
    foretold: list[float]
    found: list[float]
    """Limits as shares of the row's own scale, from −1 to 1."""
    foretold_words: Words
    found_words: Words
    by: str
    """What foretold it."""
    agrees: bool


class BesideFigure(BaseModel):
    """What was foretold beside what came out, row by row."""

    type: Literal["beside"] = "beside"
    title: Words
    rows: list[BesideRow]


Figure = Annotated[
    WarpFigure
    | CurveFigure
    | WaterfallFigure
    | PlanFigure
    | LadderFigure
    | PolarFigure
    | ContourFigure
    | ChainFigure
    | RankedFigure
    | AxisFigure
    | RidgesFigure
    | BesideFigure,
    Field(discriminator="type"),
]


def plan_figure(title: Words, spots: Sequence[Spot]) -> PlanFigure:
    """A plan just large enough for its spots."""
    return PlanFigure(
        title=title,
        spots=list(spots),
        width_mm=2 * max([abs(s.x_mm) for s in spots] + [1.0]),
        depth_mm=2 * max([abs(s.y_mm) for s in spots] + [1.0]),
    )
