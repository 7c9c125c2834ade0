"""An end block of a screw that is pushed from one limit of its float to the other."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from truing.checks.screw_centre.setup import ScrewCentreSetup
from truing.contract.readings import Reading
from truing.kit.instruments import Instrument
from truing.standin.seen import Seen, measured
from truing.standin.truth import Truth


def read(
    truth: Truth,
    setup: ScrewCentreSetup,
    station: str,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """What the dial on the block shows."""
    slide = truth.slide(setup.slide)
    block, _, what = station.partition(":")
    middle = 1.0
    stands = {
        "now": slide.blocks_mm.get(block, 0.0),
        "low": -slide.block_float_mm,
        "high": slide.block_float_mm,
    }[what]
    return measured(middle + stands, instrument, rng, truth.noise_share)
