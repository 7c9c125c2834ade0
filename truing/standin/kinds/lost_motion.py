"""A slide that is driven to a place from both sides through links that each have slack."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from truing.checks.lost_motion.setup import LostMotionSetup, MotionStation
from truing.contract.move import Move
from truing.contract.readings import Reading
from truing.kit.instruments import Instrument
from truing.standin.hands import Answers, Hands, slide_with
from truing.standin.seen import Seen, measured
from truing.standin.truth import Truth


def read(
    truth: Truth,
    setup: LostMotionSetup,
    station: MotionStation,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """Where the slide stands, or how far one link gives."""
    slide = truth.slide(setup.slide)
    if station.link is not None:
        return measured(slide.links_mm.get(station.link, 0.0), instrument, rng, truth.noise_share)
    along = 2 * (station.at_mm or 0.0) / slide.travel_mm
    slack = sum(slide.links_mm.values()) - slide.worn_screw_mm * along**2
    slack = max(0.0, slack) - slide.compensated_mm
    # pushed from below the slide stands at the figure; pulled back to it, short by the slack, or
    # ahead where more is taken out than there is
    counts = -1 if setup.plus_is == "minus" else 1
    stands = 0.3 + (counts * slack if station.tip == "+" else 0.0)
    return measured(stands, instrument, rng, truth.noise_share)


def _link(move: Move, truth: Truth, hands: Hands) -> Truth:
    # a link that is set keeps a little of its slack
    links = truth.slide(move.part).links_mm
    left = links.get(move.about, 0.0) * hands.about(0.08, 0.25)
    return slide_with(truth, move.part, links_mm={**links, move.about: left})


def _compensate(move: Move, truth: Truth, hands: Hands) -> Truth:
    return slide_with(truth, move.part, compensated_mm=move.entries[0].value_mm)


ANSWERS: Answers = {"nut": _link, "end_bearing": _link, "drive_settings": _compensate}
