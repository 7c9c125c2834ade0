"""A tapered gib in a vice, or back in its slide with a shim behind it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from truing.checks.gib_shim.setup import GibShimSetup
from truing.contract.readings import Reading
from truing.kit.instruments import Instrument
from truing.standin.seen import Seen, measured
from truing.standin.truth import Truth


def read(
    truth: Truth,
    setup: GibShimSetup,
    station: str,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """What the caliper closes on, or how far the gib goes in now."""
    gib = truth.slide(setup.slide)
    fall = gib.taper_mm_per_m / 1000
    if station == "shift":
        # a wedge with so much behind it stops where it is thinner by as much
        exact = gib.shim_mm / fall
    else:
        exact = gib.gib_thick_mm - (setup.apart_mm * fall if station == "thin" else 0.0)
    return measured(exact, instrument, rng, truth.noise_share)
