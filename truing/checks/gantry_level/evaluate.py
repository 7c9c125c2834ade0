"""From touches across the bed to how much higher one end of the gantry hangs than the other.

The gantry is low where it touches early: there the contact is higher. Touches lie inside the
motors, so that the difference between them is smaller than that between the gantry's ends.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Literal

import numpy as np
from pydantic import BaseModel

from truing.checks.common import off_one_line
from truing.checks.gantry_level.setup import APART_MM, GantryLevelSetup, beyond, lift_of, stations
from truing.contract.case import Case
from truing.contract.design import Design
from truing.contract.finding import Finding, Note, Quantity, quantity, shown
from truing.contract.gather import gather
from truing.contract.readings import LengthReading, LogReading, Reading
from truing.contract.setup import Station
from truing.drawing.figures import Curve, CurveFigure, CurvePoint, magnification
from truing.machine.parts import Lift
from truing.measure.estimate import Estimate
from truing.measure.problem import Problem
from truing.measure.words import Words, place, plain, say, show, show_estimate, tick


class TouchAt(BaseModel):
    """How much higher the gantry hangs over one place than over their line's middle (mm)."""

    at_mm: float
    high_mm: float


class GantryLevelFinding(Finding):
    """How a gantry hangs over its bed."""

    kind: Literal["gantry_level"] = "gantry_level"
    touches: list[TouchAt]
    """From left to right."""
    level: Estimate
    """The right end's height less the left one's, at the motors (mm)."""
    bow: Estimate | None
    """What three or more places leave: bow of bed or beam."""


LevelCase = Case[GantryLevelSetup, GantryLevelFinding]


def evaluate(case: LevelCase) -> GantryLevelFinding:
    """See `Check.evaluate`."""
    plan, readings, fast = _touches(case)
    if not readings:
        raise Problem(
            "Nothing has been read yet.", expected="Enter the first touch.", field="readings"
        )
    got = gather(case.but(readings=readings), plan, sign=case.setup.sign)
    at = {s.key: s.at_mm or 0.0 for s in plan if s.key in got.means}
    lift = lift_of(case.machine)
    if len(at) < 2:
        raise Problem(
            "One place has been touched, which tells nothing of level.",
            expected="Touch a second one, far from it.",
            field="readings",
        )
    fit = got.fit(design(lift, at))
    level, gain = fit.estimate("level")
    xs = list(at.values())
    ys = [got.means[k].mean_mm for k in at]
    bow = off_one_line(got, xs, ys) if len(xs) > 2 else None
    height = sum(ys) / len(ys)
    notes = _overrun(fast, readings, case.setup.sign)
    notes += [Note(tone="look", text=text) for text in beyond(lift, xs)]
    told = got.told("The level stands, but check the probe.", fit=fit, more=notes)
    if case.setup.way == "log":
        # its places are its own
        told["stations"] = []
    return GantryLevelFinding(
        **told,
        quantities=[_level(level, gain), *_bowed(bow)],
        lines=_lines(lift, level, max(xs) - min(xs)),
        touches=[TouchAt(at_mm=x, high_mm=height - y) for x, y in zip(xs, ys, strict=True)],
        level=level,
        bow=bow,
    )


def design(lift: Lift, at: Mapping[str, float]) -> Design:
    """How much higher the right end hangs than the left one, at the motors, by touches at these
    places (mm) by station: where it touches higher it hangs lower. Bed or beam may be bowed."""
    span = lift.right_x_mm - lift.left_x_mm
    return Design(
        {key: {"height": 1.0, "level": -x / span} for key, x in at.items()},
        {key: {"bow": (2 * x / span) ** 2} for key, x in at.items()},
    )


def _touches(case: LevelCase) -> tuple[list[Station], list[Reading], list[LengthReading]]:
    """(places, the touches that count, the fast ones beside them)."""
    setup = case.setup
    if setup.way == "log":
        return _logged(case)
    plan = stations(setup)
    fast = {s.key for s in plan if s.tip == "fast"}
    lengths = [r for r in case.readings if isinstance(r, LengthReading)]
    return (
        [s for s in plan if s.key not in fast],
        [r for r in case.readings if r.station not in fast],
        [r for r in lengths if r.station in fast],
    )


def _logged(case: LevelCase) -> tuple[list[Station], list[Reading], list[LengthReading]]:
    """The points of a log, by place; of touches at several feeds the slowest count."""
    plan: dict[float, Station] = {}
    slow: list[Reading] = []
    fast: list[LengthReading] = []
    for log in (r for r in case.readings if isinstance(r, LogReading)):
        xs, zs = log.columns["x"], log.columns["z"]
        feeds = log.columns.get("feed") or [0.0] * len(xs)
        places = _places(xs)
        for i, (x, z, feed) in enumerate(zip(xs, zs, feeds, strict=True)):
            at = min(places, key=lambda p: abs(p - x))
            plan.setdefault(at, _station(at))
            slowest = min(f for f, p in zip(feeds, xs, strict=True) if abs(p - at) < APART_MM)
            touch = LengthReading(
                id=f"{log.id}/{i}", station=f"{at:g}", read_at=log.read_at, shown_mm=z
            )
            (slow if feed <= slowest + 1e-9 else fast).append(touch)
    return [plan[x] for x in sorted(plan)], slow, fast


def _places(xs: Sequence[float]) -> list[float]:
    """The places that touches lie at, those closer than `APART_MM` taken for one."""
    groups: list[list[float]] = []
    for x in sorted(xs):
        if groups and x - groups[-1][-1] < APART_MM:
            groups[-1].append(x)
        else:
            groups.append([x])
    return [round(float(np.mean(g)), 3) for g in groups]


def _station(at: float) -> Station:
    return Station(key=f"{at:g}", label=f"x {place(at)} mm", prompt="", x_mm=at, y_mm=0.0, at_mm=at)


def _level(level: Estimate, gain: float) -> Quantity:
    size = show_estimate(abs(level.value), level.expanded, "length")
    high, low = ("right", "left") if level.value > 0 else ("left", "right")
    sentence = (
        say("The {high} end hangs {size} higher than the {low} one.", high=high, size=size, low=low)
        if level.visible
        else say("Left and right cannot be told apart: {size}.", size=size)
    )
    return quantity(
        "level", "Right end over left", level, sentence, gain=gain, tolerance_key="level"
    )


def _bowed(bow: Estimate | None) -> list[Quantity]:
    if bow is None:
        return []
    sentence = say(
        "Beside that the places stand off one line by {b}: the bed or the beam is bowed. Touches "
        "cannot tell which.",
        b=shown(bow),
    )
    return [
        quantity(
            "bow",
            "Off one line",
            bow,
            sentence if bow.visible else None,
            gain=2**0.5,
            tolerance_key=None,
            signed=False,
        )
    ]


def _overrun(fast: Sequence[LengthReading], counted: Sequence[Reading], sign: int) -> list[Note]:
    """How much further a fast touch runs before it stops."""
    slow = [r for r in counted if isinstance(r, LengthReading)]
    stations_read = {r.station.partition(":")[0] for r in slow}
    runs = []
    for at in stations_read:
        quick = [r.shown_mm for r in fast if r.station.partition(":")[0] == at]
        calm = [r.shown_mm for r in slow if r.station.partition(":")[0] == at]
        if quick and calm:
            runs.append(sign * (np.mean(calm) - np.mean(quick)))
    if not runs:
        return []
    text = say(
        "Fast touches run on by {d} on the average; only the slow ones count.",
        d=show(float(np.mean(runs)), 0.001, signed=True),
    )
    return [Note(tone="info", text=text)]


def _lines(lift: Lift, level: Estimate, touched: float) -> list[Words]:
    span = lift.right_x_mm - lift.left_x_mm
    slope = level.times(1000 / span, "slope")
    return [
        say(
            "That is {slope} across. The motors stand {span} apart and the outer touches "
            "{touched}: the difference between the touches alone would be {raw}.",
            slope=show_estimate(slope.value, slope.expanded, "slope", signed=True),
            span=show(span, 1),
            touched=show(touched, 1),
            raw=show(abs(level.value) * touched / span, 0.001),
        ),
        plain(
            "It touches higher where the gantry hangs low, or where the bed is high: two touches "
            "cannot tell which."
        ),
    ]


def curve(case: LevelCase) -> CurveFigure:
    """The gantry over its bed, seen from the front, with the owner's limit as a band."""
    lift = case.machine.lift
    span = lift.right_x_mm - lift.left_x_mm if lift else 1.0
    touches, limit = case.finding.touches, case.tolerances["level"]
    wide = touches[-1].at_mm - touches[0].at_mm
    band = limit * wide / span
    return CurveFigure(
        title=plain("How the gantry hangs over the bed, seen from the front"),
        curves=[
            Curve(
                name="gantry",
                points=[
                    CurvePoint(
                        label=tick(t.at_mm),
                        at_mm=t.at_mm,
                        off_mm=t.high_mm,
                        words=show(t.high_mm, 0.001, signed=True),
                    )
                    for t in touches
                ],
            )
        ],
        bolts=False,
        up="higher over the bed",
        band_mm=band / 2,
        band_words=show(band, band / 10),
        factor=magnification(max(1e-4, *(abs(t.high_mm) for t in touches)), wide),
    )
