"""How each error of the machine reaches each feature: one share for each, and none forgotten.

A demand is one thing that a feature asks for, with its tolerance. Its shares add up to the worst
that may come out; formulas are those of `truing.effects`.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import product

from truing.effects import reach
from truing.effects.ridges import hollow, ridge
from truing.effects.runout import tooth_load
from truing.jobs.features import (
    AnyFeature,
    Axis,
    Engraving,
    Face,
    Faced,
    Feature,
    Hole,
    Outline,
    Sided,
    Slot,
    SmallCutter,
    Thickness,
    TwoSides,
    Wall,
)
from truing.jobs.ground import Ground, Span
from truing.machine import DIRECTIONS, RISERS, Machine
from truing.machine.parts import Direction

At = Callable[[str], Span | None]
"""Between what a source lies; None for one that the machine has not."""
BOTH: tuple[Axis, Axis] = ("x", "y")


@dataclass(frozen=True, slots=True)
class Share:
    """What some errors take of a tolerance, in its unit."""

    sources: tuple[str, ...]
    least: float
    value: float
    most: float
    text: str
    """In the words of the part, with {v} for the figure and {l} for a length."""
    length_mm: float = 0.0


@dataclass(frozen=True, slots=True)
class Demand:
    """One thing that a feature asks for."""

    key: str
    title: str
    tolerance: float
    shares: Callable[[At], list[Share]]
    load: bool = False
    """Its unit is a share of a tooth's chip rather than mm."""


class Needs:
    """What a machine needs for a feature: travel each way, and other parts."""

    def __init__(self, machine: Machine) -> None:
        self.machine = machine
        self.missing: list[str] = []

    def reach(self, direction: Direction, mm: float, beyond: float = 0.0) -> None:
        """A travel of so much; `beyond` is what the cutter reaches past it."""
        slide = self.machine.slide(direction)
        if direction == "up_down" and self.machine.lifts:
            # a quill or knee is no slide of its own everywhere
            if slide is None:
                return
        elif slide is None:
            self.missing.append(f"it does not move {DIRECTIONS[direction]}")
            return
        assert slide is not None
        if mm > slide.travel_mm + beyond:
            self.missing.append(
                f"{mm:g} mm {DIRECTIONS[direction]} is more than its travel of "
                f"{slide.travel_mm:g} mm"
            )


def outside(feature: AnyFeature, machine: Machine) -> list[str]:
    """Why this machine cannot make a feature at all; nothing where it can."""
    needs = Needs(machine)
    if not machine.spindle:
        return ["it has no spindle yet"]
    if isinstance(feature, (Face, Thickness)):
        needs.reach("left_right", feature.x_mm, feature.cutter_mm)
        needs.reach("front_back", feature.y_mm, feature.cutter_mm)
    elif isinstance(feature, (Outline, Engraving)):
        needs.reach("left_right", feature.x_mm)
        needs.reach("front_back", feature.y_mm)
    elif isinstance(feature, (Wall, TwoSides)):
        needs.reach("left_right" if feature.runs == "x" else "front_back", feature.length_mm)
        needs.reach("up_down", feature.depth_mm)
        _holds(needs, feature.held)
    elif isinstance(feature, Slot):
        needs.reach("left_right" if feature.runs == "x" else "front_back", feature.length_mm)
    elif isinstance(feature, Hole):
        needs.reach("up_down", feature.depth_mm)
        if feature.by != "usual" and feature.by not in machine.lifts:
            needs.missing.append(f"it has no {RISERS[feature.by]} to go down with")
        elif not machine.lifts:
            needs.missing.append("nothing takes its tool down")
    return needs.missing


def _holds(needs: Needs, held: str) -> None:
    if held != "table" and not any(t.sort == held for t in needs.machine.things):
        needs.missing.append(f"no {held} is described for it")


def demands(feature: AnyFeature, ground: Ground) -> list[Demand]:
    """What a feature asks for, each with what reaches it on this machine."""
    return list(_DEMANDS[type(feature)](feature, ground))


# --- pieces that several features are made of -----------------------------------------------------


def _size(at: At, name: str, weight: float, text: str, length: float = 0.0) -> list[Share]:
    """A source times a weight."""
    span = at(name)
    if span is None:
        return []
    return [
        Share(
            (name,),
            span.least * weight,
            abs(span.value) * weight,
            span.most * weight,
            text,
            length,
        )
    ]


def _slope(at: At, name: str, length_mm: float, text: str) -> list[Share]:
    """A source in mm per m, over a length."""
    return _size(at, name, reach.over_mm(1.0, length_mm), text, length_mm)


def _zero(name: str, at: At) -> Span:
    return at(name) or Span(0.0, 0.0, 0.0)


def _marks(at: At, f: Faced) -> list[Share]:
    """What the cutter leaves of a plane: one share for all that leans it against its travel, since
    mending one lean alone may make it worse."""
    spans = [_zero(f"lean_{a}", at) - _zero(f"slope_{a}", at) for a in BOTH]
    along, across = spans if f.feed == "x" else spans[::-1]
    here = tuple(n for n in ("lean_x", "lean_y", "slope_x", "slope_y") if at(n) is not None)
    if not here:
        return []
    least, value, most = _left_by(f.cutter_mm, f.across_mm if f.one_pass else None, f.stepover_mm)(
        along, across
    )
    what = "the cutter leaves it hollow by {v}" if f.one_pass else "ridges of {v} between passes"
    return [Share(here, least, value, most, what)]


@lru_cache(maxsize=64)
def _left_by(
    cutter_mm: float, across_mm: float | None, stepover_mm: float
) -> Callable[[Span, Span], tuple[float, float, float]]:
    """Of two leans (mm per m, along the feed and across it), the least, likely and most that a
    cutter leaves (mm); in one pass where a width is given. A shop has few cutters and many faces:
    what was worked out for one stands for the next."""

    def height(a: float, b: float) -> float:
        a, b = a / 1000, b / 1000
        if across_mm is not None:
            return hollow(cutter_mm, across_mm, a, b)
        return ridge(cutter_mm, stepover_mm, a, b).height_mm

    @lru_cache(maxsize=256)
    def heights(along: Span, across: Span) -> tuple[float, float, float]:
        found = [height(a, b) for a, b in product(_corners(along), _corners(across))]
        if along.least or across.least:
            found += [height(a, b) for a, b in product(_between(along), _between(across))]
        else:
            found.append(0.0)
        return min(found), height(along.value, across.value), max(found)

    return heights


def _corners(s: Span) -> set[float]:
    """Sizes at which a ridge is highest: the ends, and nothing where it may be that."""
    ends = {abs(s.low), abs(s.high)}
    return ends | {0.0} if s.low < 0 < s.high else ends


def _between(s: Span) -> set[float]:
    return {abs(s.low + (s.high - s.low) * share) for share in (0.25, 0.5, 0.75)}


def _travel(ground: Ground, riser: str, axis: Axis) -> list[str]:
    """What the lean of a travel that takes the tool down is made of, against the table: as it was
    read against the travel that carries the work, and the table's own slope to that. A quill that
    was not read by itself slides along its spindle."""
    name = f"rise_{riser}_{axis}"
    own = ground.source(name)
    if own is None or (riser == "quill" and own.state == "not_measured"):
        return [f"lean_{axis}"]
    return [name, f"slope_{axis}"]


def _whole(at: At, parts: list[str]) -> Span:
    return sum((_zero(name, at) for name in parts), Span(0.0, 0.0, 0.0))


def _upright(at: At, ground: Ground, f: Sided, times: int = 1) -> list[Share]:
    """How far a wall that is cut level by level is off over its depth."""
    riser = ground.machine.lifts[0] if ground.machine.lifts else "head"
    lean = f"lean_{f.faces}"
    ways = []
    weights = reach.wall_weights(f.depth_mm, f.level_mm, f.flute_mm)
    # what takes nothing now stays in the list: it would, were it worse
    travelled = any(by_travel > 0 for _, by_travel in weights)
    for by_spindle, by_travel in weights:
        shares = _slope(at, lean, by_spindle * times, "the spindle leans it by {v}")
        for name in _travel(ground, riser, f.faces) if travelled else ():
            what = "the way down" if name.startswith("rise") else "what it lies on"
            shares += _slope(at, name, by_travel * times, f"{what} leans it by {{v}}")
        ways.append(shares)
    return max(ways, key=lambda shares: sum(s.most for s in shares))


# --- the features ---------------------------------------------------------------------------------


def _face(f: Face, g: Ground) -> Iterator[Demand]:
    assert f.flat_tol_mm is not None
    yield Demand(
        "flat",
        "flat",
        f.flat_tol_mm,
        lambda at: [
            *_marks(at, f),
            *_may_follow(at),
        ],
    )


def _may_follow(at: At) -> list[Share]:
    """What is not flat of table or bed against its travel: it may be the travel's, which a face
    follows, or the table's own, which it does not."""
    text = "it may follow what is not flat of table and travel, {v}"
    return [replace(s, least=0.0) for s in _size(at, "flat", 1.0, text)]


def _thickness(f: Thickness, g: Ground) -> Iterator[Demand]:
    assert f.thick_tol_mm is not None
    yield Demand(
        "thick",
        "the same thickness",
        f.thick_tol_mm,
        lambda at: [
            *_slope(at, "slope_x", f.x_mm, "{v} thicker at one end over {l}, left to right"),
            *_slope(at, "slope_y", f.y_mm, "{v} thicker at one end over {l}, front to rear"),
            *_marks(at, f),
        ],
    )


def _wall(f: Wall, g: Ground) -> Iterator[Demand]:
    if f.upright_tol_mm is not None:
        yield Demand("upright", "upright", f.upright_tol_mm, lambda at: _upright(at, g, f))
    if f.along_tol_mm is not None:
        yield Demand(
            "along",
            f"parallel to the {'jaw' if f.held == 'vice' else 'fence'}",
            f.along_tol_mm,
            lambda at: _slope(at, f"jaw_{f.held}", f.length_mm, "it runs off by {v} over {l}"),
        )


def _hole(f: Hole, g: Ground) -> Iterator[Demand]:
    lifts = g.machine.lifts
    riser = f.by if f.by != "usual" else lifts[0] if lifts else "head"
    if f.upright_tol_mm is not None:
        yield Demand(
            "upright",
            "upright",
            f.upright_tol_mm,
            lambda at: [
                s
                for axis in BOTH
                for name in _travel(g, riser, axis)
                for s in _slope(at, name, f.depth_mm, "it wanders by {v} over {l}")
            ],
        )
    if f.place_tol_mm is not None:
        lost = "its place is missed by {v}, come to from the other side"
        turned = ["lost_x", "lost_y"] if f.approach == "both" else []
        yield Demand(
            "place",
            "in its place",
            f.place_tol_mm,
            lambda at: [
                *(s for name in turned for s in _size(at, name, 1.0, lost)),
                *_size(at, "shake", 1.0, "the spindle gives way by {v} as the cut takes hold"),
            ],
        )
    if f.size_tol_mm is not None:
        yield Demand("size", "of its size", f.size_tol_mm, lambda at: _bore(at, g, f, riser))


def _bore(at: At, g: Ground, f: Hole, riser: str) -> list[Share]:
    shares = _size(at, "tir", 1.0, "the tool’s runout opens it by up to {v}")
    if f.cutter != "fluted":
        return shares
    for axis in BOTH:
        parts = _travel(g, riser, axis)
        if parts == [f"lean_{axis}"]:
            # a quill that slides along its spindle plunges the cutter along itself
            continue
        apart = _zero(f"lean_{axis}", at) - _whole(at, parts)
        here = tuple(n for n in (f"lean_{axis}", *parts) if at(n) is not None)
        sizes = (apart.least, apart.value, apart.most)
        least, value, most = (reach.mouth_mm(size, 0.0, f.depth_mm) for size in sizes)
        text = "its mouth is {v} wider, over {l}"
        shares.append(Share(here, least, value, most, text, f.depth_mm))
    return shares


def _slot(f: Slot, g: Ground) -> Iterator[Demand]:
    assert f.width_tol_mm is not None
    across = "y" if f.runs == "x" else "x"

    def shares(at: At) -> list[Share]:
        found = _size(at, "tir", 1.0, "the tool’s runout widens it by up to {v}")
        found += _size(at, f"play_{f.runs}", 1.0, "the slide steps aside by {v}")
        if f.ways == "both":
            found += _size(at, f"lost_{across}", 1.0, "{v} is lost where the second side is cut")
        return found

    yield Demand("width", "of its width", f.width_tol_mm, shares)


def _outline(f: Outline, g: Ground) -> Iterator[Demand]:
    if f.square_tol_mm is not None:
        longer = max(f.x_mm, f.y_mm)
        yield Demand(
            "square",
            "square",
            f.square_tol_mm,
            lambda at: _slope(at, "square", longer, "out of square by {v} over {l}"),
        )
    if f.size_tol_mm is None:
        return
    for axis, mm, way in (("x", f.x_mm, "left to right"), ("y", f.y_mm, "front to rear")):

        def shares(at: At, axis: str = axis, mm: float = mm) -> list[Share]:
            return [
                *_slope(at, f"scale_{axis}", mm, "the scale is off by {v} over {l}"),
                *_size(at, f"lost_{axis}", 1.0, "{v} is lost where the travel turns round"),
            ]

        yield Demand(f"size_{axis}", f"of its size {way}", f.size_tol_mm, shares)


def _engraving(f: Engraving, g: Ground) -> Iterator[Demand]:
    def heights(at: At, wide: float, texts: tuple[str, str, str]) -> list[Share]:
        if g.machine.board is not None:
            return _size(at, "bed", wide, texts[0])
        return [
            *_size(at, "slope_x", wide * reach.over_mm(1.0, f.x_mm), texts[1], f.x_mm),
            *_size(at, "slope_y", wide * reach.over_mm(1.0, f.y_mm), texts[1], f.y_mm),
            *_size(at, "flat", wide, texts[2]),
        ]

    if f.line_tol_mm is not None:
        yield Demand(
            "line",
            "lines of one width",
            f.line_tol_mm,
            lambda at: [
                *heights(
                    at,
                    reach.line_width_mm(1.0, f.angle_deg),
                    (
                        "the bed’s heights change the line by {v}",
                        "the slope of what it lies on changes the line by {v} over {l}",
                        "what is not flat changes the line by {v}",
                    ),
                ),
                *_size(at, "tir", 1.0, "the tool’s runout widens the line by up to {v}"),
            ],
        )
    yield Demand(
        "there",
        "no line missing",
        f.depth_mm,
        lambda at: heights(
            at,
            1.0,
            (
                "the bed’s heights take {v} of its depth",
                "the slope of what it lies on takes {v} of its depth over {l}",
                "what is not flat takes {v} of its depth",
            ),
        ),
    )


def _small_cutter(f: SmallCutter, g: Ground) -> Iterator[Demand]:
    def shares(at: At) -> list[Share]:
        span = at("tir")
        if span is None:
            return []
        sizes = (span.least, abs(span.value), span.most)
        least, value, most = (tooth_load(mm, f.teeth, f.chip_mm) - 1 for mm in sizes)
        return [Share(("tir",), least, value, most, "one tooth takes {v} more than its chip")]

    yield Demand("load", "no tooth overloaded", f.over, shares, load=True)


def _two_sides(f: TwoSides, g: Ground) -> Iterator[Demand]:
    assert f.match_tol_mm is not None
    text = "it lies askew by {v} over {l}, once each way"

    def shares(at: At) -> list[Share]:
        held = _slope(at, f"jaw_{f.held}", f.length_mm, text) if f.held != "table" else []
        twice = [
            Share(s.sources, 2 * s.least, 2 * s.value, 2 * s.most, s.text, s.length_mm)
            for s in held
        ]
        return [*twice, *_upright(at, g, f, 2)]

    yield Demand("match", "sides that match", f.match_tol_mm, shares)


_DEMANDS: dict[type[Feature], Callable[..., Iterator[Demand]]] = {
    Face: _face,
    Thickness: _thickness,
    Wall: _wall,
    Hole: _hole,
    Slot: _slot,
    Outline: _outline,
    Engraving: _engraving,
    SmallCutter: _small_cutter,
    TwoSides: _two_sides,
}
