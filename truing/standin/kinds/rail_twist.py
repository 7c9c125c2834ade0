"""A bridge or a bar that rests on two rails, or a tip that touches one place after the other."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from truing.checks.rail_twist.setup import RailStation, RailTwistSetup
from truing.contract.readings import Reading
from truing.kit.instruments import Instrument
from truing.standin import rails
from truing.standin.hands import Answers
from truing.standin.seen import Seen, measured
from truing.standin.truth import Truth


def read(
    truth: Truth,
    setup: RailTwistSetup,
    station: RailStation,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """What is shown: of the bridge or its fourth corner, of a place on a rail, by the bubble."""
    up = _Up(truth, setup)
    if setup.way == "bridge":
        ends = (up.at(-1, -1), up.at(1, 1)) if station.key == "A" else (up.at(1, -1), up.at(-1, 1))
        middle = sum(ends) / 2
        shown = 1.0 + (middle if setup.sense == "fixed" else -middle)
    elif setup.way == "fourth":
        # three feet lie on a plane; where it would be at the fourth corner, and where the rail is
        fl, rl, rr = up.at(-1, -1), up.at(-1, 1), up.at(1, 1)
        shown = up.at(1, -1) - (fl + rr - rl)
    elif setup.way == "level":
        rear = -1 if station.key == "fixed" else 1
        lean = (up.at(1, rear) - up.at(-1, rear)) / setup.apart_mm
        shown = (lean + truth.level_error_mm_per_m / 1000) * instrument.level_base_mm
    else:
        place = station
        if setup.way == "corners":
            height = up.at(1 if place.x_mm > 0 else -1, 1 if place.y_mm > 0 else -1)
        else:
            height = up.along("first" if place.which == "first" else "second", place.along_mm)
        shown = 1.0 + (height if setup.heights_count == "up" else -height)
    return measured(shown, instrument, rng, truth.noise_share)


class _Up:
    """Heights of the rails by corner (right, rear as −1 or +1) or place."""

    def __init__(self, truth: Truth, setup: RailTwistSetup) -> None:
        self.rails = truth.rails
        span = self.rails.at_mm[-1] - self.rails.at_mm[0]
        margin = max(0.0, (span - setup.length_mm) / 2)
        self.ends = (self.rails.at_mm[0] + margin, self.rails.at_mm[-1] - margin)

    def at(self, right: int, rear: int) -> float:
        return self.along("second" if right > 0 else "first", self.ends[1 if rear > 0 else 0])

    def along(self, which: str, at_mm: float) -> float:
        values = self.rails.first_up_mm if which == "first" else self.rails.second_up_mm
        return self.rails.along(values, at_mm)


ANSWERS: Answers = {"rail_packs": rails.shimmed}
