"""A motor that is driven to and fro, faster each time, until it loses its place."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from truing.checks.drive_proof.setup import DriveProofSetup, RungStation
from truing.contract.readings import Reading
from truing.kit.instruments import Instrument
from truing.standin.hands import Answers, untouched
from truing.standin.seen import Seen, measured
from truing.standin.truth import SlideTruth, Truth


def read(
    truth: Truth,
    setup: DriveProofSetup,
    station: RungStation,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """How a rung went and where, or what zero is missed by afterwards."""
    slide = truth.slide(setup.slide)
    strain = _strain(slide, setup, station.rung)
    if station.reads == "length":
        # a motor that stalls has lost whole steps; one that runs comes back to where it was
        lost = 0.35 * (1 + int(10 * (strain - 1))) if strain > 1 else 0.0
        return measured(lost, instrument, rng, truth.noise_share)
    if strain > 1:
        where = slide.tight_at_mm
        if where is None:
            where = float(rng.uniform(-0.3, 0.3)) * setup.travel_mm
        return Seen(grade="stalls", shown_mm=round(where, 0))
    return Seen(grade="rattles" if strain > RATTLES else "clean")


RATTLES = 0.97
TIGHT = 0.6
"""What is left of a motor's reserve where the slide is hard to move."""


def _strain(slide: SlideTruth, setup: DriveProofSetup, value: float) -> float:
    """How much of what the motor has is asked of it; a short run never gets up to speed."""
    feed, accel = (value, setup.fixed) if setup.ladder == "feed" else (setup.fixed, value)
    top = 60 * math.sqrt(accel * setup.travel_mm)
    reserve = TIGHT if slide.tight_at_mm is not None else 1.0
    return max(
        min(feed, top) / (slide.stalls_above_mm_per_min * reserve),
        accel / (slide.stalls_above_mm_per_s2 * reserve),
    )


ANSWERS: Answers = {"drive_settings": untouched}
