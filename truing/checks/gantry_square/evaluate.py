"""From the lengths of a rectangle that the machine made to its skew and the scale of its axes.

d₁² − d₂² = 4·W·H·sin γ, with d₁ from the front left to the rear right: where it is the longer one,
the right end of the gantry is ahead.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

from truing.checks.cutting import CORNERS, LENGTHS
from truing.checks.gantry_square.setup import DIAGONALS, GantrySquareSetup, stations
from truing.contract.case import Case
from truing.contract.finding import Finding, Note, Quantity, quantity
from truing.contract.gather import Gathered, gather
from truing.drawing.figures import PlanFigure, Spot
from truing.measure.estimate import Estimate
from truing.measure.problem import Problem
from truing.measure.words import Words, plain, say, show, show_estimate

TYPO = 0.02
"""A rectangle whose lengths disagree by more than this share is another rectangle, or a slip."""


class GantrySquareFinding(Finding):
    """How square a gantry stands across its bed."""

    kind: Literal["gantry_square"] = "gantry_square"
    skew: Estimate
    """Plus = the right end is ahead (mm/m)."""
    lengths_mm: dict[str, float]
    """Each length as read, by name."""


SquareCase = Case[GantrySquareSetup, GantrySquareFinding]


def evaluate(case: SquareCase) -> GantrySquareFinding:
    """See `Check.evaluate`."""
    setup = case.setup
    got = gather(case, stations(setup))
    if not got.has(*DIAGONALS):
        raise Problem(
            "Both diagonals are needed.",
            expected="Measure the one that is missing, the same way as the other.",
            field="readings",
        )
    lengths = {key: got.means[key].mean_mm for key in got.means}
    width = _side(lengths, ("front", "rear"), setup.width_mm)
    depth = _side(lengths, ("left", "right"), setup.depth_mm)
    _fits(setup, lengths, width, depth)
    d1, d2 = lengths["d1"], lengths["d2"]
    # the larger the rectangle, the less a millimetre of a diagonal means
    size = 2 * width * depth / 1000
    weights = {"d1": d1 / size, "d2": -d2 / size}
    linear, gain = got.combine(weights, "slope")
    sine = (d1 * d1 - d2 * d2) / (4 * width * depth)
    skew = linear.model_copy(update={"value": math.asin(max(-1.0, min(1.0, sine))) * 1000})
    return GantrySquareFinding(
        quantities=[_square(case, skew, gain), *_scales(setup, got)],
        **got.told("The skew stands, but check the tape.", more=_closure(got, width, depth)),
        lines=_lines(case, skew, d1, d2),
        skew=skew,
        lengths_mm=lengths,
    )


def _side(lengths: dict[str, float], both: tuple[str, str], stated: float) -> float:
    read = [lengths[s] for s in both if s in lengths]
    return sum(read) / len(read) if read else stated


def _fits(setup: GantrySquareSetup, lengths: dict[str, float], width: float, depth: float) -> None:
    """Problem when these lengths cannot be of one rectangle of about this size."""
    for what, read in lengths.items():
        ax, ay = CORNERS[LENGTHS[what][0]]
        bx, by = CORNERS[LENGTHS[what][1]]
        should = math.hypot((bx - ax) / 2 * setup.width_mm, (by - ay) / 2 * setup.depth_mm)
        if abs(read - should) > TYPO * should:
            start, end = LENGTHS[what]
            raise Problem(
                f"From {start} to {end} {read:g} mm were read, where a rectangle of "
                f"{setup.width_mm:g} × {setup.depth_mm:g} mm has {should:.1f} mm.",
                expected="Correct the reading, its unit, or the size in Set up.",
                field="readings",
            )


def _square(case: SquareCase, skew: Estimate, gain: float) -> Quantity:
    size = show_estimate(abs(skew.value), skew.expanded, "slope")
    ahead, behind = ("right", "left") if skew.value > 0 else ("left", "right")
    sentence = (
        say(
            "The {ahead} end of the gantry is ahead of the {behind} one by {size}.",
            ahead=ahead,
            behind=behind,
            size=size,
        )
        if skew.visible
        else say("The diagonals cannot be told apart: {size}.", size=size)
    )
    return quantity("square", "Out of square", skew, sentence, gain=gain, tolerance_key="square")


def scales(setup: GantrySquareSetup, got: Gathered) -> dict[str, Estimate]:
    """What each axis moves too far for each metre (mm/m), where its sides were read."""
    found = {}
    for axis, both, told in (
        ("x", ("front", "rear"), setup.width_mm),
        ("y", ("left", "right"), setup.depth_mm),
    ):
        read = [s for s in both if got.has(s)]
        if read:
            mean, _ = got.combine(dict.fromkeys(read, 1 / len(read)))
            moved = mean.model_copy(update={"value": mean.value - told})
            found[axis] = moved.times(1000 / told, "slope")
    return found


def _scales(setup: GantrySquareSetup, got: Gathered) -> list[Quantity]:
    names = {"x": "left–right", "y": "front–back"}
    found = []
    for axis, off in scales(setup, got).items():
        told = setup.width_mm if axis == "x" else setup.depth_mm
        way = "too far" if off.value > 0 else "too short"
        sentence = say(
            "It moves {size} {way} {axis}. Where that matters, multiply its steps per millimetre "
            "by {factor}: a tape is seldom good enough for it.",
            size=show_estimate(abs(off.value), off.expanded, "slope"),
            way=way,
            axis=names[axis],
            factor=f"{1 / (1 + off.value / 1000):.5f}",
        )
        found.append(
            quantity(
                f"scale_{axis}",
                f"Scale, {names[axis]}",
                off,
                sentence if off.visible else None,
                gain=1000 / told,
                tolerance_key=None,
            )
        )
    return found


def _closure(got: Gathered, width: float, depth: float) -> list[Note]:
    """In any parallelogram both diagonals and the sides go together; where they do not, one of them
    was read from another edge."""
    if not got.has(*LENGTHS):
        return []
    d1, d2 = got.means["d1"].mean_mm, got.means["d2"].mean_mm
    diagonal = math.sqrt((d1 * d1 + d2 * d2) / 2)
    from_sides = math.hypot(width, depth)
    big = max(m.expanded_mm + m.bound_mm for m in got.means.values())
    if abs(diagonal - from_sides) <= 2.5 * big:
        return []
    text = say(
        "By the sides the diagonals should be {a} on the average; they are {b}. Were both read "
        "from the same edge of the marks?",
        a=show(from_sides, got.step_mm / 10),
        b=show(diagonal, got.step_mm / 10),
    )
    return [Note(tone="look", text=text)]


def _lines(case: SquareCase, skew: Estimate, d1: float, d2: float) -> list[Words]:
    drive = case.machine.gantry_drive
    lines = [
        say(
            "The diagonal from front left to rear right is {d} {longer} than the other.",
            d=show(abs(d1 - d2), case.instrument.step_mm / 10),
            longer="longer" if d1 > d2 else "shorter",
        )
    ]
    if drive:
        span = drive.right_x_mm - drive.left_x_mm
        ahead = skew.times(span / 1000, "length")
        lines.append(
            say(
                "At the motors, {span} apart, that is {ahead}.",
                span=show(span, 1),
                ahead=show_estimate(abs(ahead.value), ahead.expanded, "length"),
            )
        )
    return lines


def plan(case: SquareCase) -> PlanFigure:
    """The rectangle from above, with both diagonals' ends and what each is longer by."""
    setup, lengths = case.setup, case.finding.lengths_mm
    mean = (lengths["d1"] + lengths["d2"]) / 2
    spots = []
    for name, (sx, sy) in CORNERS.items():
        key = "d1" if name in LENGTHS["d1"] else "d2"
        off = lengths[key] - mean
        spots.append(
            Spot(
                label=name,
                x_mm=sx * setup.width_mm / 2,
                y_mm=sy * setup.depth_mm / 2,
                words=show(off, case.instrument.step_mm / 10, signed=True),
                detail=plain("its diagonal"),
                sort="out" if off > 0 else "in" if off < 0 else "stay",
            )
        )
    return PlanFigure(
        title=plain("Both diagonals against their mean, seen from above"),
        spots=spots,
        width_mm=setup.width_mm,
        depth_mm=setup.depth_mm,
    )


def needed(widths: Sequence[float], tolerance: float) -> float:
    """How well a diagonal has to be known (mm) to decide a skew of so much (mm/m) on a rectangle of
    this width and depth."""
    width, depth = widths
    diagonal = math.hypot(width, depth)
    return tolerance / 4 / 1000 * 2 * width * depth / (math.sqrt(2) * diagonal)
