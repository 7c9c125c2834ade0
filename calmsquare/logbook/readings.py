"""What happens to a reading: previewed, kept, corrected, or asked of the stand-in."""

from __future__ import annotations

from collections import Counter
from typing import Any
from uuid import UUID

import numpy as np
from django.db import transaction
from django.utils import timezone

from calmsquare.logbook import compute
from calmsquare.logbook.models import Check, Reading, Round
from calmsquare.logbook.schemas import (
    BatchIn,
    PasteIn,
    PreviewIn,
    PreviewOut,
    ReadingIn,
    StandinOut,
)
from calmsquare.logbook.services import open_round, past
from calmsquare.problems import Conflict
from calmsquare.workshop.scope import Scope
from truing.contract.paste import Pasted, read_pasted
from truing.contract.readings import LengthReading
from truing.contract.setup import Station
from truing.kit.instruments import Instrument as InstrumentSpec
from truing.kit.instruments import dial_reading, needle_at
from truing.measure.lengths import Length, parse_length
from truing.measure.problem import Problem
from truing.measure.words import say
from truing.registry import kind
from truing.standin.read import as_typed
from truing.standin.read import read as standin_read
from truing.standin.truth import Truth


def _understand(instrument: InstrumentSpec, form: ReadingIn | PreviewIn) -> Length:
    try:
        if form.dial is not None:
            return dial_reading(instrument, form.dial)
        return instrument.read(form.text, form.unit)
    except Problem as problem:
        raise problem.at("text") from None


def put_reading(scope: Scope, round_id: UUID, reading_id: UUID, form: ReadingIn) -> Check:
    """Keep a reading. Sent again with the same id and content it does nothing; with other content
    it is refused."""
    there = Reading.objects.filter(pk=reading_id).first()
    if there is not None:
        mine = scope.all(Reading).filter(pk=reading_id, round_id=round_id).exists()
        _the_same(there, form, mine)
        return there.round.check_run
    check, round = open_round(scope, round_id)
    known = list(round.readings.all())
    _made(scope, _Plan(check, round), known, reading_id, form).save(force_insert=True)
    compute.recompute(check, round, compute.context(check, round))
    return check


@transaction.atomic
def put_batch(scope: Scope, round_id: UUID, form: BatchIn) -> Check:
    """Keep several readings in their order, all or none; those that are there already are passed
    over."""
    check, round = open_round(scope, round_id)
    known = list(round.readings.all())
    mine = {r.pk for r in known}
    there = Reading.objects.in_bulk([item.id for item in form.readings])
    plan, made = _Plan(check, round), []
    for i, item in enumerate(form.readings):
        if item.id in there:
            _the_same(there[item.id], item.reading, item.id in mine)
            continue
        try:
            reading = _made(scope, plan, known, item.id, item.reading)
        except Problem as problem:
            raise problem.at(f"readings.{i}.{problem.field}") from None
        known.append(reading)
        made.append(reading)
    Reading.objects.bulk_create(made)
    compute.recompute(check, round, compute.context(check, round))
    return check


def _the_same(there: Reading, form: ReadingIn, mine: bool) -> None:
    """Conflict unless what is there is this very reading, sent before."""
    sent = form.model_dump(mode="json")
    # a record of an older version does not know the fields that came later
    if not (mine and {**sent, **there.sent} == sent):
        raise Conflict(
            "Another reading has this id. Reload the page and enter it again.", code="reading-id"
        )


class _Plan:
    """Where a round's readings may go, after those that are known."""

    def __init__(self, check: Check, round: Round) -> None:
        self.round = round
        self.core = kind(check.kind)
        self.setup = compute.setup_of(check, round)
        self.instrument = compute.instrument_of(round)

    def station(self, key: str, known: list[Reading]) -> Station:
        """The station with this key. Problem when it is not in the plan."""
        live = compute.core_readings(known)
        for station in self.core.stations(self.setup, live):
            if station.key == key:
                return station
        raise Problem(
            f"{key} is not in the plan of this round.",
            expected="Pick a station of the plan.",
            field="station",
        )


def _made(
    scope: Scope, plan: _Plan, known: list[Reading], reading_id: UUID, form: ReadingIn
) -> Reading:
    """A reading for the record, not saved yet; `known` are those of the round so far."""
    station = plan.station(form.station, known)
    old = _superseded(known, form)
    if form.zeroed_on and form.zeroed_on not in {r.pk for r in known}:
        raise Problem(
            "The dial was zeroed on a reading that is not in this round.",
            expected="Clear the zero, or enter that reading first.",
            field="zeroed_on",
        )
    value = _withdrawn(old) if form.withdrawn and old else _value(station, plan.instrument, form)
    return Reading(
        id=reading_id,
        round=plan.round,
        station=form.station,
        reads=station.reads,
        sent=form.model_dump(mode="json"),
        zeroed_on=form.zeroed_on,
        supersedes=old,
        withdrawn=form.withdrawn,
        read_at=past(form.read_at),
        received_at=timezone.now(),
        by=scope.user,
        **value,
    )


def _withdrawn(old: Reading) -> dict[str, Any]:
    return {
        "shown_mm": old.shown_mm,
        "text": old.text,
        "unit": old.unit,
        "grade": old.grade,
        "note": old.note,
    }


def _value(station: Station, instrument: InstrumentSpec, form: ReadingIn) -> dict[str, Any]:
    """What is kept of a reading. Problem, naming the field, when it does not suit the station."""
    if station.reads == "length":
        length = _understand(instrument, form)
        return {"shown_mm": length.mm, "text": length.text, "unit": length.unit}
    if form.grade not in {g.key for g in station.grades}:
        raise Problem(
            f"“{form.grade}” is no answer to “{station.label}”."
            if form.grade
            else "Nothing was chosen.",
            expected="Pick one of: " + ", ".join(g.label for g in station.grades) + ".",
            field="grade",
        )
    value: dict[str, Any] = {"grade": form.grade, "note": form.note.strip(), "text": "", "unit": ""}
    if station.asks_where and form.text.strip():
        try:
            where = parse_length(form.text, unit="mm" if form.unit == "div" else form.unit)
        except Problem as problem:
            raise problem.at("text") from None
        value |= {"shown_mm": where.mm, "text": where.text, "unit": where.unit}
    return value


def _superseded(known: list[Reading], form: ReadingIn) -> Reading | None:
    if form.supersedes is None:
        return None
    old = next((r for r in known if r.pk == form.supersedes), None)
    if old is None:
        raise Problem(
            "The reading to be corrected is not in this round.",
            expected="Reload the page and correct it there.",
            field="supersedes",
        )
    if any(r.supersedes_id == old.pk for r in known):
        raise Conflict(
            "That reading has been corrected already. Reload to see it.", code="corrected"
        )
    return old


def preview(scope: Scope, round_id: UUID, form: PreviewIn) -> PreviewOut:
    """How a reading would be understood and what it would lead to; nothing is kept."""
    round = scope.get(Round, round_id, related=("check_run__machine",))
    check = round.check_run
    instrument = compute.instrument_of(round)
    length = _understand(instrument, form)
    known = compute.context(check, round, advise=False)
    readings = compute.core_readings(list(round.readings.all()))
    readings.append(
        LengthReading(
            id="preview",
            station=form.station,
            shown_mm=length.mm,
            read_at=timezone.now(),
            zeroed_on=str(form.zeroed_on) if form.zeroed_on else None,
        )
    )
    result = compute.outcome(check, round, known, readings, advise=False)
    words = instrument.reading_words(length.mm)
    return PreviewOut(
        shown_mm=length.mm,
        text=length.text,
        words=words,
        spoken=say(
            "{sign} {size}",
            sign="minus" if length.mm < 0 else "plus",
            size=instrument.reading_words(abs(length.mm), signed=False),
        ),
        needle=needle_at(instrument, length.mm),
        question=instrument.question(length),
        sentence=result.judgement.sentence if result.judgement else None,
        verdict=result.judgement.verdict if result.judgement else None,
    )


def ask_standin(scope: Scope, round_id: UUID, station: str) -> StandinOut:
    """What the simulated indicator of a practice machine shows at a station."""
    round = scope.get(Round, round_id)
    check = round.check_run
    if check.machine.truth is None:
        raise Problem(
            "This machine is a real one.", expected="Read its indicator.", field="station"
        )
    setup = compute.setup_of(check, round)
    instrument = compute.instrument_of(round)
    live = compute.core_readings(list(round.readings.all()))
    if station not in {s.key for s in kind(check.kind).stations(setup, live)}:
        raise Problem(
            f"There is no station {station}.", expected="Pick one from the plan.", field="station"
        )
    seen = standin_read(
        Truth.model_validate(check.machine.truth),
        setup,
        station,
        instrument,
        np.random.default_rng(),
        live,
    )
    text, unit = as_typed(seen, instrument)
    return StandinOut(text=text, unit=unit, grade=seen.grade, note=seen.note)


def paste(scope: Scope, round_id: UUID, form: PasteIn) -> Pasted:
    """How pasted text would be understood; nothing is kept."""
    round = scope.get(Round, round_id, related=("check_run__machine",))
    check = round.check_run
    setup = compute.setup_of(check, round)
    live = compute.core_readings(list(round.readings.all()))
    counts = Counter(r.station for r in live)
    return read_pasted(
        form.text,
        kind(check.kind).stations(setup, live),
        dict(counts),
        compute.instrument_of(round),
        form.unit,
    )
