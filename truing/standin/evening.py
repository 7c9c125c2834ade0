"""A whole evening on the stand-in: read, judge, do as advised, read again."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

import numpy as np
from pydantic import BaseModel

from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.history import PastRound
from truing.contract.judgement import Judgement
from truing.contract.move import Move
from truing.contract.readings import (
    GradeReading,
    LengthReading,
    LogReading,
    ObservationReading,
    Place,
    Reading,
)
from truing.contract.setup import Station
from truing.kit.instruments import Instrument
from truing.moves.changes import done, move_made, stock_after
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
    if check.grows or type(check).next_station is not Check.next_station:
        while (station := check.next_station(setup, found)) is not None:
            found.append(_one(setup, truth, station, instrument, rng, found))
    else:
        # readings change nothing of it: the plan is made once, not anew for each of them
        for station in check.order(setup):
            found.append(_one(setup, truth, station, instrument, rng, found))
    for _ in range(check.passes(setup), passes or 0):
        for station in check.stations(setup, found):
            found.append(_one(setup, truth, station, instrument, rng, found))
    return found


def _one(
    setup: Any,
    truth: Truth,
    station: Station,
    instrument: Instrument,
    rng: np.random.Generator,
    before: list[Reading],
) -> Reading:
    seen = read(truth, setup, station, instrument, rng, before)
    n = len(before)
    at = {"id": f"r{n}", "station": station.key, "read_at": START + timedelta(seconds=20 * n)}
    if seen.columns:
        return LogReading.model_validate({**at, "columns": seen.columns})
    if seen.shown_mm is not None and not seen.grade:
        return LengthReading.model_validate({**at, "shown_mm": seen.shown_mm})
    if seen.note:
        return ObservationReading.model_validate({**at, "grade": seen.grade, "text": seen.note})
    place = Place(x_mm=seen.shown_mm) if seen.shown_mm is not None else None
    return GradeReading.model_validate({**at, "grade": seen.grade, "place": place})


def play(
    check: Check[Any, Any],
    case: Case[Any, Any],
    truth: Truth,
    rng: np.random.Generator,
    *,
    most_rounds: int = 5,
) -> Evening:
    """Rounds of reading and the first advised move, from what is stated in `case`, until true or
    `most_rounds` are read.

    When it is too close to call, the passes asked for are taken once, as one would.
    """
    for number in range(1, most_rounds + 1):
        case = check.weigh(
            case.but(readings=one_round(check, case.setup, truth, case.instrument, rng))
        )
        ways_out = [j.way_out for j in case.judgement.judged if j.way_out]
        asked = [w.passes for w in ways_out if w.passes]
        if case.judgement.verdict == "too_close" and asked:
            again = one_round(check, case.setup, truth, case.instrument, rng, passes=max(asked))
            case = check.weigh(case.but(readings=again))
        if case.judgement.verdict == "true" or number == most_rounds:
            return Evening(judgement=case.judgement, rounds=number, truth=truth)
        move = next((m for m in check.advise(case).moves if m.needs is None), None)
        if move is None:
            return Evening(judgement=case.judgement, rounds=number, truth=truth, out_of_stock=True)
        truth = apply(check.key, move, truth, case.machine, rng)
        case = moved(check, case, move)
    raise AssertionError("unreachable: the last round returns")


def moved(check: Check[Any, Any], case: Case[Any, Any], move: Move) -> Case[Any, Any]:
    """The case of the round after this move, not read yet."""
    past = PastRound(
        number=len(case.history.past) + 1,
        sitting=case.history.sitting,
        way=case.way,
        condition=case.setup.condition,
        values={q.key: q.estimate for q in case.finding.quantities},
        spreads=case.finding.spreads,
        move=move_made(move, case.finding.quantities),
        did=move.title.metric,
    )
    return case.but(
        setup=check.following(case.setup, move),
        machine=done(move, case.machine),
        stock=stock_after(move, case.stock),
        history=case.history.model_copy(update={"past": [*case.history.past, past]}),
        readings=(),
        found=None,
        judged=None,
    )
