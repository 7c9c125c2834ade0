"""Faces of the simulated machine: points of a part that is turned about a bolt."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from truing.contract.move import Move
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.kit.instruments import Instrument
from truing.standin.hands import Hands
from truing.standin.seen import Seen, measured, preload_mm
from truing.standin.truth import Truth


def face_read(
    truth: Truth,
    setup: Any,
    station: Station,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """What a dial shows at a place of the face: more where the face stands nearer."""
    face = truth.face(setup.subject.key)
    near = face.nearer_mm(station.at_mm or 0.0, setup.face_mm)
    return measured(preload_mm(instrument) + near, instrument, rng, truth.noise_share)


def tapped(move: Move, truth: Truth, hands: Hands) -> Truth:
    """The part turns about where it really pivots, by what hands make of it."""
    face = truth.face(move.part)
    angle = -sum(t.amount for t in move.takes if t.quantity == "face") / 1000 * hands.tap(truth)
    return truth.model_copy(
        update={"faces": {**truth.faces, move.part: face.turned(float(np.arctan(angle)))}}
    )
