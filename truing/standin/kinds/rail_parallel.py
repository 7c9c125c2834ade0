"""A dial on one rail's carriage with its tip on the other rail, or a caliper across both."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from truing.checks.rail_parallel.setup import RailParallelSetup
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.kit.instruments import Instrument
from truing.standin import rails
from truing.standin.hands import Answers
from truing.standin.seen import Seen, measured
from truing.standin.truth import Truth


def read(
    truth: Truth,
    setup: RailParallelSetup,
    station: Station,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """What the dial or the caliper shows at a bolt."""
    lie = truth.rails
    at = station.at_mm or 0.0
    first = lie.along(lie.side_mm, at)
    second = lie.apart_mm + lie.along(lie.second_mm, at) + first
    apart = second - first
    if setup.way == "distance":
        shown = apart
    elif setup.tip_on == "inner":
        shown = 0.5 - (apart - lie.apart_mm)
    else:
        shown = 0.5 + (apart - lie.apart_mm)
    return measured(shown, instrument, rng, truth.noise_share)


ANSWERS: Answers = {"rail_second": rails.second_pushed}
