"""A nose that is pushed and pulled, and bearings that are closed."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from truing.contract.move import Move
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.kit.instruments import Instrument
from truing.standin.hands import Answers, Hands
from truing.standin.seen import Seen, measured
from truing.standin.truth import Truth


def read(
    truth: Truth,
    setup: Any,
    station: Station,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """The nose goes as far as its bearings let it; they close a little as they warm."""
    spindle = truth.turning
    if station.reads == "grade":
        if spindle.worn:
            return Seen(grade="rough")
        tight = spindle.play_across_mm < 0
        return Seen(grade="binds" if tight else "drag")
    free = spindle.play_along_mm if station.tip == "along" else spindle.play_across_mm
    if setup.way == "warm":
        free -= spindle.warms_mm
    return measured(max(0.0, free), instrument, rng, truth.noise_share)


def _closed(move: Move, truth: Truth, hands: Hands) -> Truth:
    spindle = truth.turning
    taken = {t.quantity: t.amount * hands.about() for t in move.takes}
    change = {
        "play_across_mm": spindle.play_across_mm - taken.get("radial", 0.0),
        "play_along_mm": spindle.play_along_mm - taken.get("axial", 0.0),
    }
    return truth.model_copy(update={"turning": spindle.model_copy(update=change)})


ANSWERS: Answers = {"spindle_bearing": _closed}
