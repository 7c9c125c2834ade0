"""A tip swung over a table: where it would really stand, and what the instrument would show."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from scipy.optimize import brentq

from truing.checks.spindle_tram.setup import SpindleTramSetup, stations
from truing.contract.readings import Reading
from truing.kit.instruments import Instrument
from truing.standin.seen import Seen, quantised
from truing.standin.truth import Truth

ARM_HEIGHT_MM = 60.0
"""Nominal height of the tip's base above the table; it only has to clear it."""

BOLT_Q_LONGER_MM = 0.23
"""The bar's second bolt sticks out further than the first, as it would."""

SEED_GAP_MM = 0.8


def read(
    truth: Truth,
    setup: SpindleTramSetup,
    station: str,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """What the instrument shows at a station, noise and readable step included."""
    place = next(s for s in stations(setup) if s.key == station)
    gap = _gap_mm(truth, place.x_mm, place.y_mm, place.place_mm)
    noise = float(rng.normal(0.0, instrument.repeatability_mm * truth.noise_share))
    if setup.way == "swing":
        exact = ARM_HEIGHT_MM - gap + noise
        shown = exact / instrument.true_mm(1.0)
    elif setup.way == "trigger":
        # the head comes straight down until the tip touches; its scale then stands here
        height = ARM_HEIGHT_MM - gap + noise
        shown = 120.0 + height if setup.height_counts == "up" else 120.0 - height
    else:
        stick_out = BOLT_Q_LONGER_MM if place.tip == "Q" else 0.0
        shown = max(0.0, gap - ARM_HEIGHT_MM + SEED_GAP_MM - stick_out + noise)
    return Seen(shown_mm=quantised(shown, instrument))


def _gap_mm(truth: Truth, x_mm: float, y_mm: float, place_mm: float) -> float:
    """Distance from the tip's base to the table along the spindle's own axis."""
    radius = math.hypot(x_mm, y_mm)
    axis = truth.axis(place_mm)
    outward = np.array([x_mm, y_mm, 0.0]) / radius
    # the arm is square to the spindle: take out what of it lies along the axis
    arm = outward - axis * float(outward @ axis)
    arm = arm / np.linalg.norm(arm) * radius
    tip = np.array([0.0, 0.0, ARM_HEIGHT_MM]) + arm

    def above(distance: float) -> float:
        at = tip - axis * distance
        return float(at[2]) - truth.surface_mm(float(at[0]), float(at[1]))

    return float(brentq(above, 0.0, 4 * ARM_HEIGHT_MM, xtol=1e-10))
