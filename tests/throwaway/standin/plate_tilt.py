"""A plate on a bed: heights along it as a logging indicator would write them."""

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
    """A length; the log is a file that is brought along."""
    if station.reads == "log":
        x = np.linspace(0.0, 400.0, 50)
        z = truth.bow_mm * x / 400 + rng.normal(0, 0.0005, 50)
        return Seen(columns={"x_mm": x.tolist(), "z_mm": z.tolist()})
    return measured(18.0 if station.key == "thick" else 0.1, instrument, rng, truth.noise_share)


def _planed(move: Move, truth: Truth, hands: Hands) -> Truth:
    return truth.model_copy(update={"bow_mm": truth.bow_mm * 0.1 * hands.about()})


ANSWERS: Answers = {"board": _planed}
