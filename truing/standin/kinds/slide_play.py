"""A slide that is pushed and pulled: its gib's clearance, and what is worn out of the middle."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from truing.checks.slide_play.setup import SlidePlaySetup
from truing.contract.readings import Reading
from truing.kit.instruments import Instrument
from truing.standin.seen import Seen, measured
from truing.standin.truth import Truth

BINDS_MM, STIFF_MM, DRAG_MM = -0.006, -0.001, 0.008


def read(
    truth: Truth,
    setup: SlidePlaySetup,
    station: str,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """What the dial moves by, or how it feels."""
    where, _, feel = station.partition(":")
    slide = truth.slide(setup.slide)
    along = 2 * float(where) / slide.travel_mm
    gap = slide.clearance_mm + slide.wear_mm * max(0.0, 1 - along**2)
    if feel:
        grade = (
            "binds"
            if gap < BINDS_MM
            else "stiff"
            if gap < STIFF_MM
            else "drag"
            if gap < DRAG_MM
            else "free"
        )
        return Seen(grade=grade)
    return measured(max(gap, 0.0), instrument, rng, truth.noise_share)
