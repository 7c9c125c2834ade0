"""A slide that is pushed and pulled: its gib's clearance, and what is worn out of the middle."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from truing.checks.slide_play.setup import SlidePlaySetup
from truing.contract.move import Move
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.kit.instruments import Instrument
from truing.standin.hands import Answers, Hands, slide_with
from truing.standin.seen import Seen, measured
from truing.standin.truth import Truth

BINDS_MM, STIFF_MM, DRAG_MM = -0.006, -0.001, 0.008


def read(
    truth: Truth,
    setup: SlidePlaySetup,
    station: Station,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """What the dial moves by, or how it feels."""
    slide = truth.slide(setup.slide)
    along = 2 * (station.at_mm or 0.0) / slide.travel_mm
    gap = slide.clearance_mm + slide.wear_mm * max(0.0, 1 - along**2)
    if station.reads == "grade":
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


def _set(move: Move, truth: Truth, hands: Hands) -> Truth:
    # all screws alike, by the figure that stands beside each
    closed = move.amounts[0].amount_mm * hands.about()
    clearance = truth.slide(move.part).clearance_mm - closed
    return slide_with(truth, move.part, clearance_mm=clearance)


ANSWERS: Answers = {"gibs": _set}
