"""A dial on one rail's carriage with its tip on the other rail, or a caliper across both."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from truing.checks.rail_parallel.setup import RailParallelSetup
from truing.contract.readings import Reading
from truing.kit.instruments import Instrument
from truing.standin.seen import Seen, measured
from truing.standin.truth import Truth


def read(
    truth: Truth,
    setup: RailParallelSetup,
    station: str,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """What the dial or the caliper shows at a bolt."""
    rails = truth.rails
    at = float(station)
    first = rails.along(rails.side_mm, at)
    second = rails.apart_mm + rails.along(rails.second_mm, at) + first
    apart = second - first
    if setup.way == "distance":
        shown = apart
    elif setup.tip_on == "inner":
        shown = 0.5 - (apart - rails.apart_mm)
    else:
        shown = 0.5 + (apart - rails.apart_mm)
    return measured(shown, instrument, rng, truth.noise_share)
