"""A top and a dial that does not turn, moved over one another."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.kit.instruments import Instrument
from truing.standin.seen import Seen, measured, preload_mm
from truing.standin.truth import Truth


def top_read(
    truth: Truth,
    setup: Any,
    station: Station,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """What the dial shows with a place of the top under its tip: the tip goes where the slides
    take it, seen from the top, and the plunger gives way by what the top is higher there."""
    travel = truth.travel
    tip = travel.right() * station.x_mm + travel.rear() * station.y_mm
    top = travel.top_twist_mm_per_m2 * float(tip[0]) * float(tip[1]) / 1e6
    return measured(
        preload_mm(instrument) + top - float(tip[2]), instrument, rng, truth.noise_share
    )
