"""A whole evening on the stand-in: read, judge, do as advised, read again."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from typing import Any

import numpy as np
from pydantic import BaseModel

from truing.contract.check import Check, Tolerances
from truing.contract.history import History, PastRound
from truing.contract.judgement import Judgement
from truing.contract.readings import GradeReading, LengthReading, ObservationReading, Reading
from truing.kit.instruments import Instrument
from truing.kit.shims import Shim
from truing.machine import Machine
from truing.moves.made import machine_after, move_made, stock_after
from truing.standin.apply import apply
from truing.standin.read import read
from truing.standin.truth import Truth

START = datetime(2026, 1, 1, 19, 0, tzinfo=UTC)


class Evening(BaseModel):
    """How it ended, and after how many rounds."""

    judgement: Judgement
    rounds: int
    truth: Truth
    out_of_stock: bool = False


def one_round(
    check: Check[Any, Any],
    setup: Any,
    truth: Truth,
    instrument: Instrument,
    rng: np.random.Generator,
    passes: int | None = None,
) -> list[Reading]:
    """All planned passes over all stations, in the order in which the check asks for them; `passes`
    in all, where more are wanted than planned."""
    found: list[Reading] = []
    while (station := check.next_station(setup, found)) is not None:
        found.append(_one(setup, truth, station.key, instrument, rng, found))
    for _ in range(check.passes(setup), passes or 0):
        for station in check.stations(setup, found):
            found.append(_one(setup, truth, station.key, instrument, rng, found))
    return found


def _one(
    setup: Any,
    truth: Truth,
    station: str,
    instrument: Instrument,
    rng: np.random.Generator,
    before: list[Reading],
) -> Reading:
    seen = read(truth, setup, station, instrument, rng, before)
    n = len(before)
    at = {"id": f"r{n}", "station": station, "read_at": START + timedelta(seconds=20 * n)}
    if seen.shown_mm is not None and not seen.grade:
        return LengthReading.model_validate({**at, "shown_mm": seen.shown_mm})
    if seen.note:
        return ObservationReading.model_validate({**at, "grade": seen.grade, "text": seen.note})
    return GradeReading.model_validate({**at, "grade": seen.grade, "where_mm": seen.shown_mm})


def play(
    check: Check[Any, Any],
    setup: Any,
    truth: Truth,
    machine: Machine,
    instrument: Instrument,
    stock: Sequence[Shim],
    tolerances: Tolerances,
    rng: np.random.Generator,
    *,
    most_rounds: int = 5,
) -> Evening:
    """Rounds of reading and the first advised move, until true or `most_rounds` are read.

    When it is too close to call, the passes asked for are taken once, as one would.
    """
    history = History()
    for number in range(1, most_rounds + 1):
        readings = one_round(check, setup, truth, instrument, rng)
        finding = check.evaluate(setup, readings, instrument, history)
        judgement = check.judge(setup, finding, tolerances)
        asked = [j.way_out.passes for j in judgement.judged if j.way_out and j.way_out.passes]
        if judgement.verdict == "too_close" and asked:
            readings = one_round(check, setup, truth, instrument, rng, passes=max(asked))
            finding = check.evaluate(setup, readings, instrument, history)
            judgement = check.judge(setup, finding, tolerances)
        if judgement.verdict == "true" or number == most_rounds:
            return Evening(judgement=judgement, rounds=number, truth=truth)
        advice = check.advise(setup, finding, tolerances, machine, instrument, stock, history)
        move = next((m for m in advice.moves if m.needs is None), None)
        if move is None:
            return Evening(judgement=judgement, rounds=number, truth=truth, out_of_stock=True)
        truth = apply(move, truth, machine, rng)
        machine, stock = machine_after(move, machine), stock_after(move, stock)
        setup = check.following(setup, move)
        history = History(
            rounds=[
                *history.rounds,
                PastRound(
                    number=number,
                    values={q.key: q.estimate for q in finding.quantities},
                    move=move_made(move, finding.quantities),
                    did=move.title.metric,
                ),
            ],
            spread=history.spread + finding.spread,
        )
    raise AssertionError("unreachable: the last round returns")
