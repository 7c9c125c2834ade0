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


PLUS_ENDS = ("right", "rear", "high")


def tapped(move: Move, truth: Truth, hands: Hands) -> Truth:
    """An end is tapped the way that is said until the needle has gone as far as is said; the part
    turns about where it really pivots."""
    face = truth.face(move.part)
    [act] = move.acts
    side = 1 if any(end in act.end for end in PLUS_ENDS) else -1
    nearer = side if act.way == "toward" else -side
    if act.target is None:
        angle = nearer * act.by_mm / act.over_mm
    else:
        target = act.target
        needle = abs((target.to_mm - target.from_mm) * target.per_mm * target.lever_mm) / 1000
        # an end beyond the pivot comes nearer by a turn the other way
        lever = float(target.station) - face.pivot_mm
        angle = nearer * needle / abs(lever) if lever else 0.0
    angle *= hands.tap(truth)
    return truth.model_copy(
        update={"faces": {**truth.faces, move.part: face.turned(float(np.arctan(angle)))}}
    )
