"""A level laid on a base that rests on its feet: both of its ends touch a real surface."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from truing.checks.base_level.setup import BaseLevelSetup, LevelStation
from truing.contract.move import Move
from truing.contract.readings import Reading
from truing.kit.instruments import Instrument
from truing.standin.hands import Answers, Hands
from truing.standin.seen import Seen, measured
from truing.standin.truth import Truth


def read(
    truth: Truth,
    setup: BaseLevelSetup,
    station: LevelStation,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """Where the bubble comes to rest."""
    at = station
    base = instrument.level_base_mm
    dx, dy = (base / 2, 0.0) if at.lies == "x" else (0.0, base / 2)
    stand = truth.stand
    plus_end = stand.surface_mm(at.x_mm + dx, at.y_mm + dy)
    minus_end = stand.surface_mm(at.x_mm - dx, at.y_mm - dy)
    # the marked end is the plus end or the minus end; the bubble goes to the end that is higher,
    # and a level that is off sends it toward its marked end whichever way it lies
    toward_marked = at.marked * (plus_end - minus_end) + truth.level_error_mm_per_m / 1000 * base
    shown = toward_marked if setup.recorded == "marked" else at.marked * toward_marked
    return measured(shown, instrument, rng, truth.noise_share)


def _feet(move: Move, truth: Truth, hands: Hands) -> Truth:
    up = {a.place: a.amount_mm for a in move.amounts}
    feet = [
        f.model_copy(update={"out_mm": f.out_mm + up.get(f.name, 0.0) * hands.about()})
        for f in truth.stand.feet
    ]
    return truth.model_copy(update={"stand": truth.stand.model_copy(update={"feet": feet})})


ANSWERS: Answers = {"feet": _feet}
