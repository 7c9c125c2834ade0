"""From distances along two rails to their taper and waviness."""

from __future__ import annotations

import math
from typing import Literal

from pydantic import BaseModel

from truing.checks.common import off_one_line
from truing.checks.rail_parallel.setup import RailParallelSetup, stations
from truing.contract.case import Case
from truing.contract.finding import Finding, quantity, shown
from truing.contract.gather import gather
from truing.drawing.figures import Curve, CurveFigure, CurvePoint, magnification
from truing.measure.estimate import Estimate
from truing.measure.lines import line_through
from truing.measure.problem import Problem
from truing.measure.words import plain, say, show, show_estimate, tick


class BoltApart(BaseModel):
    """How far the second rail stands off the mean distance there (plus = away from the first)."""

    at_mm: float
    off_mm: float


class RailParallelFinding(Finding):
    """How the distance between the rails changes along them."""

    kind: Literal["rail_parallel"] = "rail_parallel"
    bolts: list[BoltApart]
    """In order along the rails."""
    taper: Estimate
    """Change of the distance from the fixed end to the other (mm)."""
    wave: Estimate


def evaluate(case: Case[RailParallelSetup, RailParallelFinding]) -> RailParallelFinding:
    """See `Check.evaluate`."""
    setup = case.setup
    plan = stations(setup)
    got = gather(case, plan, sign=setup.sign)
    if len(got.means) < 3:
        raise Problem(
            f"{len(got.means)} of the places have been read, which is too few.",
            expected="Read three or more; all of them is best.",
            field="readings",
        )
    keys = list(got.means)
    at = {s.key: s.at_mm or 0.0 for s in plan}
    xs = [at[k] for k in keys]
    ys = [got.means[k].mean_mm for k in keys]
    line = line_through(xs, ys, "least_squares")
    span = max(xs) - min(xs)
    mid = sum(xs) / len(xs)
    sxx = sum((x - mid) ** 2 for x in xs)
    weights = {k: (x - mid) / sxx * span for k, x in zip(keys, xs, strict=True)}
    taper, gain = got.combine(weights)
    left = dict(zip(keys, line.left, strict=True))
    wave = off_one_line(got, xs, ys)
    mean = sum(ys) / len(ys)
    off = [BoltApart(at_mm=x, off_mm=y - mean) for x, y in zip(xs, ys, strict=True)]
    size = show_estimate(abs(taper.value), taper.expanded, "length")
    wider = "far" if taper.value > 0 else "fixed"
    quantities = [
        quantity(
            "taper",
            "Taper, end to end",
            taper,
            say("The rails are {size} wider apart at the {end} end.", size=size, end=wider)
            if taper.visible
            else say("No taper that can be told from nothing: {size}.", size=size),
            gain=gain,
            tolerance_key="taper",
        ),
        quantity(
            "wave",
            "Waviness",
            wave,
            say(
                "The distance wavers by {w} about an even taper.",
                w=shown(wave),
            ),
            gain=math.sqrt(2),
            tolerance_key="wave",
            signed=False,
        ),
    ]
    return RailParallelFinding(
        quantities=quantities,
        **got.told("The shape stands, but check the dial’s clamp.", left=left),
        bolts=off,
        taper=taper,
        wave=wave,
    )


def curve(case: Case[RailParallelSetup, RailParallelFinding]) -> CurveFigure:
    """The second rail against the first, with the owner's limit as a band."""
    bolts = case.finding.bolts
    limit = case.tolerances["taper"]
    span = bolts[-1].at_mm - bolts[0].at_mm
    return CurveFigure(
        title=plain("The second rail against the first"),
        curves=[
            Curve(
                name="second rail",
                points=[
                    CurvePoint(
                        label=tick(b.at_mm),
                        at_mm=b.at_mm,
                        off_mm=b.off_mm,
                        words=show(b.off_mm, 0.001, signed=True),
                    )
                    for b in bolts
                ],
            )
        ],
        bolts=True,
        up="away from the first rail",
        band_mm=limit / 2,
        band_words=show(limit, limit / 10),
        factor=magnification(max(1e-4, *(abs(b.off_mm) for b in bolts)), span),
    )
