"""A tapered gib in a vice, or back in its slide with a shim behind it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from truing.checks.gib_shim.setup import GibShimSetup
from truing.contract.move import Move
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.kit.instruments import Instrument
from truing.standin.hands import Answers, Hands, slide_with
from truing.standin.seen import Seen, measured
from truing.standin.truth import Truth


def read(
    truth: Truth,
    setup: GibShimSetup,
    station: Station,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """What the caliper closes on, or how much further out the gib stops now."""
    gib = truth.slide(setup.slide)
    fall = gib.taper_mm_per_m / 1000
    if station.key == "shift":
        # a wedge with so much more behind it stops where it is thinner by as much
        exact = (gib.shim_mm - gib.shim_before_mm) / fall
    else:
        exact = gib.gib_thick_mm - (setup.apart_mm * fall if station.key == "thin" else 0.0)
    return measured(exact, instrument, rng, truth.noise_share)


def _shim(move: Move, truth: Truth, hands: Hands) -> Truth:
    thick = sum(move.stacks[0].after_mm) + hands.stack_mm()
    before = truth.slide(move.part).shim_mm
    return slide_with(truth, move.part, shim_mm=max(thick, 0.0), shim_before_mm=before)


ANSWERS: Answers = {"gibs": _shim}
