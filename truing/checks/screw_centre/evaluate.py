"""From the limits of each end block's float to how far it stands off the middle."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

from truing.checks.common import quantity
from truing.checks.screw_centre.setup import ACROSS, WAYS, ScrewCentreSetup, stations
from truing.contract.finding import Finding
from truing.contract.gather import gather
from truing.contract.history import History
from truing.contract.readings import Reading
from truing.kit.instruments import Instrument
from truing.measure.estimate import Estimate
from truing.measure.problem import Problem
from truing.measure.words import Words, capital, say, show_estimate

MIDDLE = {"now": 1.0, "low": -0.5, "high": -0.5}


class ScrewCentreFinding(Finding):
    """How far each block stands off the middle of its float (mm, in the dial's own sense)."""

    kind: Literal["screw_centre"] = "screw_centre"
    off: dict[str, Estimate]
    """By end (0 minus, 1 plus) and way across (v, h), such as 0v."""
    middle_mm: dict[str, float]
    """What the dial shows with the block in the middle, as shown."""


def evaluate(
    setup: ScrewCentreSetup,
    readings: Sequence[Reading],
    instrument: Instrument,
    history: History,
) -> ScrewCentreFinding:
    """See `Check.evaluate`."""
    got = gather(stations(setup), readings, instrument, history)
    off: dict[str, Estimate] = {}
    middle: dict[str, float] = {}
    quantities = []
    for e, end in enumerate(setup.end_names()):
        for w, way in zip(WAYS, ACROSS[setup.slide], strict=True):
            key = f"{e}{w}"
            if not got.has(*(f"{key}:{what}" for what in MIDDLE)):
                continue
            estimate, gain = got.combine({f"{key}:{what}": v for what, v in MIDDLE.items()})
            off[key] = estimate
            low, high = got.means[f"{key}:low"].mean_mm, got.means[f"{key}:high"].mean_mm
            middle[key] = (low + high) / 2 / instrument.true_mm(1.0)
            size = show_estimate(abs(estimate.value), estimate.expanded, "length")
            quantities.append(
                quantity(
                    key,
                    f"{capital(end)} end, {way}",
                    estimate,
                    say(
                        "The {end} end stands {size} off the middle, {way}.",
                        end=end,
                        size=size,
                        way=way,
                    ),
                    gain=gain,
                    measure="length",
                    tolerance_key="off",
                )
            )
    if not off:
        raise Problem(
            "No end block has been read at both of its limits yet.",
            expected="Read one end as it is, then pushed to one limit and to the other.",
            field="readings",
        )
    return ScrewCentreFinding(
        quantities=quantities,
        stations=got.station_means(),
        notes=got.notes("Hold the block the same way each time."),
        spread=got.own,
        s_mm=got.s_mm,
        step_mm=instrument.step_mm,
        lines=_lines(setup, off),
        off=off,
        middle_mm=middle,
    )


def _lines(setup: ScrewCentreSetup, off: dict[str, Estimate]) -> list[Words]:
    lines = []
    for w, way in zip(WAYS, ACROSS[setup.slide], strict=True):
        near, far = off.get(f"0{w}"), off.get(f"1{w}")
        if near is None or far is None:
            continue
        slope = (far.value - near.value) / setup.apart_mm * 1000
        big = math.hypot(far.expanded, near.expanded) / setup.apart_mm * 1000
        lines.append(
            say(
                "{way}: the screw lies at {slope} to its slide.",
                way=capital(way),
                slope=show_estimate(slope, big, "slope", signed=True),
            )
        )
    return lines
