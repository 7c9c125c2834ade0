"""From divisions of a level to slope and twist.

The base is taken as z = a·x + b·y + t·x·y: lengthwise stations read a + t·y, crosswise ones
b + t·x. A level that is turned end for end reads ±slope + its own error.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import Literal

from truing.checks.base_level.setup import BaseLevelSetup, LevelStation, stations
from truing.contract.case import Case
from truing.contract.design import Design
from truing.contract.finding import Finding, Quantity, quantity
from truing.contract.gather import gather
from truing.drawing.figures import WarpFigure, WarpPoint, magnification
from truing.kit.instruments import Instrument
from truing.measure.estimate import Estimate
from truing.measure.problem import Problem
from truing.measure.words import Measure, Words, plain, say, show, show_estimate


class BaseLevelFinding(Finding):
    """Slopes of the base (mm/m), its twist (mm/m per m), and the level's own error (mm/m)."""

    kind: Literal["base_level"] = "base_level"
    slope_x: Estimate | None
    slope_y: Estimate
    twist: Estimate
    own_error: Estimate | None


MEASURES: dict[str, Measure] = {
    "slope_y": "slope",
    "twist": "twist",
    "slope_x": "slope",
    "own": "slope",
}
"""What is found, and what each of it measures."""


def design(
    setup: BaseLevelSetup,
    plan: Sequence[LevelStation],
    read: Collection[str],
    instrument: Instrument,
) -> Design:
    """What a station's reading (mm over the level's base) is of slopes, twist and the level's own
    error. Problem when the stations that were read cannot tell the twist."""
    used = [s for s in plan if s.key in read]
    across = {s.x_mm for s in used if s.lies == "y"}
    if len(across) < 2:
        raise Problem(
            "Crosswise it has been read at one place only, which tells no twist.",
            expected="Read a second crosswise place, far from the first.",
            field="across_x_mm",
        )
    lengthwise = any(s.lies == "x" for s in used)
    turned = setup.way == "ends"
    if turned and not any(s.marked == -1 for s in used):
        raise Problem(
            "The level has not been turned yet, so its own error is still in the readings.",
            expected="Turn it end for end at a station and read again.",
            field="readings",
        )
    names = [n for n in MEASURES if (n != "slope_x" or lengthwise) and (n != "own" or turned)]
    per = instrument.level_base_mm / 1000  # mm over the base for each mm/m
    rows = {}
    for s in used:
        # plus toward the marked end: turning the level turns the sign of the slope, not of its own
        slope = s.marked if setup.recorded == "marked" else 1
        own = 1 if setup.recorded == "marked" else s.marked
        here = {
            "slope_x": slope * (s.lies == "x"),
            "slope_y": slope * (s.lies == "y"),
            "twist": slope * (s.x_mm if s.lies == "y" else s.y_mm) / 1000,
            "own": own,
        }
        rows[s.key] = {n: here[n] * per for n in names}
    found = Design(rows)
    if not {"twist", "slope_y"} <= found.weights.keys():
        raise Problem(
            "The level’s own error cannot be told from the base yet.",
            expected="Read it both ways round, at two crosswise places at least.",
            field="readings",
        )
    return found


def evaluate(case: Case[BaseLevelSetup, BaseLevelFinding]) -> BaseLevelFinding:
    """See `Check.evaluate`."""
    setup, instrument = case.setup, case.instrument
    plan = stations(setup)
    got = gather(case, plan)
    fit = got.fit(design(setup, plan, got.means, instrument))
    found = {name: fit.estimate(name, MEASURES[name]) for name in fit.weights}
    twist, slope_y = found["twist"][0], found["slope_y"][0]
    slope_x = found["slope_x"][0] if "slope_x" in found else None
    own = found["own"][0] if "own" in found else None
    return BaseLevelFinding(
        **got.told("Let the level take the temperature of the room.", fit=fit),
        quantities=_quantities(setup, found),
        lines=_lines(setup, plan, twist, own),
        slope_x=slope_x,
        slope_y=slope_y,
        twist=twist,
        own_error=own,
    )


def _quantities(setup: BaseLevelSetup, found: dict[str, tuple[Estimate, float]]) -> list[Quantity]:
    twist, gain = found["twist"]
    size = show_estimate(abs(twist.value), twist.expanded, "twist")
    high = "right" if twist.value > 0 else "left"
    sentence = (
        say(
            "Twisted by {size}: the rear {high} corner and the one diagonal to it stand high.",
            size=size,
            high=high,
        )
        if twist.visible
        else say("No twist that can be told from nothing: {size}.", size=size)
    )
    quantities = [quantity("twist", "Twist", twist, sentence, gain=gain, tolerance_key="twist")]
    judged = "level" if setup.school == "earth" else None
    for key, label, sides in (
        ("slope_x", "Slope, left to right", ("right", "left")),
        ("slope_y", "Slope, front to rear", ("rear", "front")),
    ):
        if key not in found:
            continue
        slope, gain = found[key]
        size = show_estimate(abs(slope.value), slope.expanded, "slope")
        side = sides[0] if slope.value > 0 else sides[1]
        quantities.append(
            quantity(
                key,
                label,
                slope,
                say("It rises to the {side} by {size}.", side=side, size=size),
                gain=gain,
                tolerance_key=judged,
            )
        )
    return quantities


def _lines(
    setup: BaseLevelSetup, plan: Sequence[LevelStation], twist: Estimate, own: Estimate | None
) -> list[Words]:
    xs = [s.x_mm for s in plan if s.lies == "y"]
    apart = max(xs) - min(xs)
    lines = [
        say(
            "Between your outer stations, {apart} apart, one end is turned against the other by "
            "{turn}.",
            apart=show(apart, 1),
            turn=show_estimate(
                abs(twist.value) * apart / 1000, twist.expanded * apart / 1000, "slope"
            ),
        )
    ]
    if setup.way == "single":
        lines.append(
            plain(
                "The level was not turned: its own error, if it has one, is in the slopes. "
                "The twist is free of it."
            )
        )
    elif own is not None:
        lines.append(
            say(
                "The level’s own error: {e}. Turning it has taken that out.",
                e=show_estimate(own.value, own.expanded, "slope", signed=True),
            )
        )
    return lines


def warp(setup: BaseLevelSetup, finding: BaseLevelFinding) -> WarpFigure:
    """The base, warped as the readings say; level or not where that is wanted."""
    plan, twist = stations(setup), finding.twist
    slope_x, slope_y = finding.slope_x, finding.slope_y
    half_x = max([abs(s.x_mm) for s in plan] + [50.0])
    half_y = max([abs(s.y_mm) for s in plan] + [half_x * 0.6])
    level = setup.school == "earth"
    a = slope_x.value if slope_x and level else 0.0
    b = slope_y.value if level else 0.0
    points = []
    for label, x, y in (
        ("front left", -half_x, -half_y),
        ("front right", half_x, -half_y),
        ("rear right", half_x, half_y),
        ("rear left", -half_x, half_y),
    ):
        z = (a * x + b * y) / 1000 + twist.value * x * y / 1e6
        points.append(
            WarpPoint(label=label, x_mm=x, y_mm=y, z_mm=z, words=show(z, 0.001, signed=True))
        )
    return WarpFigure(
        title=plain("The base, its corners as far from flat as the readings say"),
        points=points,
        factor=magnification(max(abs(p.z_mm) for p in points), 2 * half_x),
    )
