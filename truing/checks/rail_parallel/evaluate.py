"""From distances along two rails to their taper and waviness."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

from truing.checks.common import peak_to_valley, quantity
from truing.checks.rail_parallel.setup import RailParallelSetup, stations
from truing.contract.finding import Finding
from truing.contract.gather import gather
from truing.contract.history import History
from truing.contract.readings import Reading
from truing.drawing.figures import Curve, CurveFigure, CurvePoint, magnification
from truing.kit.instruments import Instrument
from truing.measure.estimate import Estimate
from truing.measure.lines import line_through
from truing.measure.problem import Problem
from truing.measure.words import place, plain, say, show, show_estimate


class RailParallelFinding(Finding):
    """How far the second rail stands off at each bolt (mm, plus = away from the first)."""

    kind: Literal["rail_parallel"] = "rail_parallel"
    off_mm: dict[str, float]
    """From the mean distance."""
    taper: Estimate
    """Change of the distance from the fixed end to the other (mm)."""
    wave: Estimate


def evaluate(
    setup: RailParallelSetup,
    readings: Sequence[Reading],
    instrument: Instrument,
    history: History,
) -> RailParallelFinding:
    """See `Check.evaluate`."""
    got = gather(stations(setup), readings, instrument, history, sign=setup.sign)
    if len(got.means) < 3:
        raise Problem(
            f"{len(got.means)} of the places have been read, which is too few.",
            expected="Read three or more; all of them is best.",
            field="readings",
        )
    keys = list(got.means)
    xs = [float(k) for k in keys]
    ys = [got.means[k].mean_mm for k in keys]
    line = line_through(xs, ys, "least_squares")
    span = max(xs) - min(xs)
    mid = sum(xs) / len(xs)
    sxx = sum((x - mid) ** 2 for x in xs)
    weights = {k: (x - mid) / sxx * span for k, x in zip(keys, xs, strict=True)}
    taper, gain = got.combine(weights)
    left = dict(zip(keys, line.left, strict=True))
    u = max(m.u_mm for m in got.means.values())
    wave, floor = peak_to_valley(left, u)
    mean = sum(ys) / len(ys)
    off = {k: y - mean for k, y in zip(keys, ys, strict=True)}
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
            measure="length",
            tolerance_key="taper",
        ),
        quantity(
            "wave",
            "Waviness",
            wave,
            say(
                "Beside that the distance wavers by {w}.",
                w=show_estimate(wave.value, wave.expanded, "length"),
            ),
            gain=math.sqrt(2),
            measure="length",
            tolerance_key="wave",
            floor=floor,
            signed=False,
        ),
    ]
    return RailParallelFinding(
        quantities=quantities,
        stations=got.station_means(left),
        notes=got.notes("The shape stands, but check the dial’s clamp."),
        spread=got.own,
        s_mm=got.s_mm,
        step_mm=instrument.step_mm,
        figures=[
            CurveFigure(
                title=plain("The second rail against the first"),
                curves=[
                    Curve(
                        name="second rail",
                        points=[
                            CurvePoint(
                                label=place(float(k)),
                                at_mm=float(k),
                                off_mm=v,
                                words=show(v, 0.001, signed=True),
                            )
                            for k, v in off.items()
                        ],
                    )
                ],
                bolts=True,
                up="away from the first rail",
                band_mm=0.015,
                band_words=show(0.03, 0.001),
                factor=magnification(max(1e-4, *(abs(v) for v in off.values())), span),
            )
        ],
        off_mm=off,
        taper=taper,
        wave=wave,
    )
