"""From the record to the core and back: what a round's readings come to."""

from __future__ import annotations

import hashlib
import json
import logging
from collections.abc import Sequence
from typing import Any
from uuid import UUID

from calmsquare.logbook import recorded
from calmsquare.logbook.doubt import unanswered
from calmsquare.logbook.earlier import earlier
from calmsquare.logbook.models import Check, Reading, Round
from calmsquare.workshop.services import (
    instrument_spec,
    machine_spec,
    pieces_of,
    stock_of,
    tolerances,
)
from truing import VERSION
from truing.contract.case import Case
from truing.contract.move import Advice
from truing.contract.readings import (
    GradeReading,
    LengthReading,
    LogReading,
    ObservationReading,
    Place,
)
from truing.contract.readings import Reading as CoreReading
from truing.contract.setup import Station
from truing.contract.trends import trends
from truing.kit.instruments import Instrument as InstrumentSpec
from truing.measure.problem import Problem
from truing.measure.words import plain
from truing.record import (
    Lesson,
    Outcome,
    Snapshot,
    Summary,
    dump,
    load,
)
from truing.registry import kind

log = logging.getLogger(__name__)


# --- the case of a round --------------------------------------------------------------------------


def case_of(
    check: Check,
    round: Round,
    readings: Sequence[CoreReading],
    *,
    without: Sequence[LengthReading] = (),
    setup: Any = None,
    instrument: InstrumentSpec | None = None,
    advising: bool = False,
) -> Case[Any, Any]:
    """All that is known of a round: what is stated (or would be, by `setup` and `instrument`),
    these readings `without` others, and what earlier rounds about the same subject left; the tin
    only for advice.

    Problem when too little is stated yet.
    """
    setup = setup if setup is not None else setup_of(check, round)
    before = earlier(check, round, setup.subject.text, _lent(check.kind, advising))
    return Case(
        setup=setup,
        instrument=instrument if instrument is not None else instrument_of(round),
        instrument_key=str(round.instrument_id or ""),
        others={key: instrument_spec(spec) for key, spec in round.others.items()},
        machine=machine_spec(check.machine),
        tolerances=tolerances(check.machine, check.kind),
        readings=readings,
        left_out=without,
        history=before.history,
        stock=stock_of(check.machine.workshop_id) if advising else [],
        known=before.known,
        pieces=pieces_of(check.machine.workshop_id, setup.pieces),
    )


def _lent(key: str, advising: bool) -> tuple[str, ...]:
    """The kinds whose results this one needs now."""
    core = kind(key)
    return (*core.leans_on, *core.compares) if advising else core.leans_on


def setup_of(check: Check, round: Round) -> Any:
    """The round's set-up as the core's model; Problem when none is stated yet."""
    if round.setup is None:
        raise Problem(
            "How this round is read has not been stated.",
            expected="Fill in Set up first.",
            field="setup",
        )
    return load("setup", round.setup, check.kind)


def instrument_of(round: Round) -> InstrumentSpec:
    """The instrument as it was when the round was set up."""
    if round.instrument_spec is None:
        usual = kind(round.check_run.kind).without()
        if usual is not None:
            return usual
        raise Problem(
            "No instrument has been chosen.", expected="Pick one under Set up.", field="instrument"
        )
    return instrument_spec(round.instrument_spec)


def ordered(readings: Sequence[Reading]) -> list[tuple[Reading, bool]]:
    """Every reading with whether it counts, in the order in which its place was first read: a
    correction stands where the reading it corrects stood."""
    by_id = {r.pk: r for r in readings}
    replaced = {r.supersedes_id for r in readings if r.supersedes_id}

    def root(reading: Reading) -> Reading:
        while reading.supersedes_id in by_id:
            reading = by_id[reading.supersedes_id]
        return reading

    in_order = sorted(readings, key=lambda r: (root(r).read_at, r.read_at, r.received_at))
    return [(r, r.pk not in replaced and not r.withdrawn) for r in in_order]


def core_readings(readings: Sequence[Reading]) -> list[CoreReading]:
    """The readings that count, as the core takes them; a zero set on a corrected reading follows
    the correction."""
    newest = {r.supersedes_id: r.pk for r in readings if r.supersedes_id}

    def latest(id: UUID | None) -> str | None:
        while id in newest:
            id = newest[id]
        return str(id) if id else None

    return [core_reading(r, latest(r.zeroed_on)) for r, live in ordered(readings) if live]


def left_out(readings: Sequence[Reading]) -> list[LengthReading]:
    """The lengths that somebody said should not count, as the core takes them."""
    replaced = {r.supersedes_id for r in readings if r.supersedes_id}
    gone = (r for r in readings if r.withdrawn and r.pk not in replaced)
    made = (core_reading(r, str(r.zeroed_on) if r.zeroed_on else None) for r in gone)
    return [r for r in made if isinstance(r, LengthReading)]


def following(
    check: Check, setup: Any, readings: Sequence[Reading], outcome: Outcome
) -> Station | None:
    """Where the tip goes next; what was left out and can be spared is not asked for again."""
    spared = [r for r in left_out(readings) if r.id in outcome.spared]
    return kind(check.kind).next_station(setup, [*core_readings(readings), *spared])


def core_reading(r: Reading, zeroed_on: str | None) -> CoreReading:
    """One reading as the core takes it. It was checked when it came in."""
    common: dict[str, Any] = {
        "id": str(r.pk),
        "station": r.station,
        "read_at": r.read_at,
        "place": Place.model_construct(x_mm=r.x_mm, y_mm=r.y_mm) if r.x_mm is not None else None,
        "instrument": r.instrument_key,
    }
    if r.reads == "grade":
        return GradeReading.model_construct(**common, kind="grade", grade=r.grade)
    if r.reads == "observation":
        return ObservationReading.model_construct(
            **common, kind="observation", grade=r.grade, text=r.note
        )
    if r.reads == "log":
        return LogReading.model_construct(**common, kind="log", columns=r.columns or {})
    assert r.shown_mm is not None
    return LengthReading.model_construct(
        **common, kind="length", shown_mm=r.shown_mm, zeroed_on=zeroed_on
    )


# --- finding and advice ---------------------------------------------------------------------------


def weighed(check: Check, round: Round, case: Case[Any, Any]) -> tuple[Outcome, Case[Any, Any]]:
    """Finding and judgement of a case; the reason instead, while there is none."""
    core = kind(check.kind)
    try:
        case = core.weigh(case)
        spared = core.spared(case)
    except Problem as problem:
        return Outcome(problem=str(problem)), case
    planned = [*case.readings, *spared]
    return (
        Outcome(
            spared=[r.id for r in spared],
            finding=case.finding,
            judgement=case.judgement,
            trends=trends(case, recorded.predicted(round)),
            ready=core.ready(case.setup, planned),
            complete=core.next_station(case.setup, planned) is None,
        ),
        case,
    )


def recompute(
    check: Check,
    round: Round,
    *,
    rows: Sequence[Reading] | None = None,
    advising: bool = False,
) -> tuple[Outcome, Case[Any, Any] | None]:
    """Judge an open round anew and keep the result with it. No advice is made here: that is for
    whoever looks at the finding. `rows` are the readings of the round, where they are known."""
    rows = list(round.readings.defer("sent")) if rows is None else rows
    readings = core_readings(rows)
    case: Case[Any, Any] | None = None
    try:
        case = case_of(check, round, readings, without=left_out(rows), advising=advising)
    except Problem as problem:
        outcome = Outcome(problem=str(problem))
    else:
        outcome, case = weighed(check, round, case)
    # what was kept while nobody could be asked judges nothing before it is answered
    asked = unanswered(round)
    if asked is not None:
        reading, question = asked
        typed = (
            reading.text
            if reading.text.endswith(reading.unit)
            else (f"{reading.text} {reading.unit}")
        )
        outcome = Outcome(problem=f"Is “{typed}” meant as it stands? {question.text.metric}")
        case = None
    round.outcome = dump("outcome", outcome)
    round.lesson = dump("lesson", _lesson(case)) if case and case.found else None
    # half a reading judges nothing: the machine stands as it did
    round.verdict = outcome.judgement.verdict if outcome.judgement and outcome.ready else ""
    round.core_version = VERSION
    round.summary = dump("summary", Summary.of(outcome, case.setup.against if case else None))
    round.read_at = min((r.read_at for r in readings), default=None)
    round.save(update_fields=["outcome", "summary", "read_at", "lesson", "verdict", "core_version"])
    return outcome, case


def _lesson(case: Case[Any, Any]) -> Lesson:
    return Lesson.model_construct(
        way=case.way,
        condition=case.setup.condition,
        values={q.key: q.estimate for q in case.finding.quantities},
        spreads=case.finding.spreads,
    )


def advice_id(case: Case[Any, Any]) -> str:
    """What went into the advice on a case, in one word: the same word, the same advice."""
    stated = Snapshot.of(case).model_dump(mode="json")
    read = [r.model_dump(mode="json", exclude={"id", "read_at"}) for r in case.readings]
    text = json.dumps([VERSION, stated, read], sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()[:32]


def advised(round: Round, case: Case[Any, Any], outcome: Outcome) -> tuple[str, Advice | None]:
    """(id, advice) on a case that has been weighed: from the record where nothing has changed since
    it was asked for, made and kept otherwise; None where none is called for."""
    if outcome.judgement is None or outcome.judgement.verdict == "true" or not outcome.ready:
        return "", None
    id = advice_id(case)
    if round.advice is not None and round.advice.get("id") == id:
        return id, load("advice", round.advice["advice"], case.setup.kind)
    core = kind(case.setup.kind)
    try:
        advice = core.advise(case)
    except Problem as problem:
        return id, Advice(moves=[], leave=None, remarks=[plain(str(problem))])
    except Exception:
        # the readings and the finding stand; only what to do about it could not be worked out
        log.exception("advice on round %s", round.pk)
        sorry = "What to do about it could not be worked out here. The finding stands."
        return id, Advice(moves=[], leave=None, remarks=[plain(sorry)])
    round.advice = {"id": id, "advice": dump("advice", advice)}
    Round.objects.filter(pk=round.pk).update(advice=round.advice)
    return id, advice
