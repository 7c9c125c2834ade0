"""Four marks that a gantry makes where it really goes, measured from one to the other."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from truing.checks.cutting import CORNERS, LENGTHS
from truing.checks.gantry_square.setup import GantrySquareSetup, LengthStation
from truing.contract.move import Move
from truing.contract.readings import Reading
from truing.kit.instruments import Instrument
from truing.standin.hands import Answers, Hands
from truing.standin.seen import Seen, measured
from truing.standin.truth import Truth


def read(
    truth: Truth,
    setup: GantrySquareSetup,
    station: LengthStation,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """The distance of two marks."""
    start, end = (
        truth.gantry.drawn_mm(sx * setup.width_mm / 2, sy * setup.depth_mm / 2)
        for sx, sy in (CORNERS[name] for name in LENGTHS[station.what])
    )
    apart = float(np.linalg.norm(end - start))
    return measured(apart, instrument, rng, truth.noise_share)


def _homed(move: Move, truth: Truth, hands: Hands) -> Truth:
    """Each end stands off its switch by its new offset, or its stop was moved."""
    gantry, drive = truth.gantry, hands.machine.gantry_drive
    assert drive is not None
    ahead = gantry.right_ahead_mm
    for act in move.acts:
        went = (act.by_mm if act.way == "rear" else -act.by_mm) * hands.about(0.9, 1.1)
        ahead += went if "right" in act.end else -went
    for change in move.changes:
        side = 1 if "right" in change.path else -1
        further = float(change.after) - float(change.before)
        # backing off further takes an end away from its switch
        went = further if drive.homes == "front" else -further
        ahead += side * (went + hands.rng.normal(0, 0.004))
    return truth.model_copy(update={"gantry": gantry.model_copy(update={"right_ahead_mm": ahead})})


ANSWERS: Answers = {"drive_home": _homed}
