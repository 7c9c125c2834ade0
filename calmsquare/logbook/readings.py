"""What happens to a reading: previewed, kept, corrected, or asked of the stand-in."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any
from uuid import UUID

import numpy as np
from django.conf import settings
from django.http import Http404
from django.utils import timezone

from calmsquare.logbook import compute, recorded
from calmsquare.logbook.doubt import beside
from calmsquare.logbook.models import Check, Reading, Round
from calmsquare.logbook.schemas import (
    BatchAnswer,
    BatchIn,
    LogIn,
    PasteIn,
    PreviewIn,
    PreviewOut,
    ReadingIn,
    StandinOut,
)
from calmsquare.logbook.services import open_round, past
from calmsquare.problems import Conflict
from calmsquare.workshop.models import Instrument, Role
from calmsquare.workshop.scope import Scope
from calmsquare.workshop.services import instrument_spec
from truing.contract.logs import read_log
from truing.contract.paste import Pasted, read_pasted
from truing.contract.readings import LengthReading, LogReading
from truing.contract.readings import Reading as CoreReading
from truing.contract.setup import Station
from truing.kit.instruments import INSTRUMENT_TITLES, dial_reading, needle_at
from truing.kit.instruments import Instrument as InstrumentSpec
from truing.measure.lengths import Length, parse_length
from truing.measure.problem import Problem
from truing.measure.words import say
from truing.record import Outcome, dump
from truing.registry import kind
from truing.standin.read import as_typed
from truing.standin.read import read as standin_read
from truing.standin.truth import Truth


@dataclass(frozen=True)
class Kept:
    """A reading that is in the record now, and the round before and after it."""

    check: Check
    round: Round
    readings: Sequence[Reading]
    """All of the round, this one included."""
    reading: Reading
    before: Sequence[Station]
    outcome: Outcome


MOST_READINGS = 2000
"""In a round, corrected ones and all: a map of twenty by twenty, five times over."""


def _understand(instrument: InstrumentSpec, form: ReadingIn | PreviewIn) -> Length:
    try:
        if form.dial is not None:
            return dial_reading(instrument, form.dial)
        return instrument.read(form.text, form.unit)
    except Problem as problem:
        raise problem.at("text") from None


def put_reading(scope: Scope, round_id: UUID, reading_id: UUID, form: ReadingIn) -> Kept:
    """Keep a reading. Sent again with the same id and content it does nothing; with other content
    it is refused."""
    there = _there(reading_id)
    if there is not None:
        mine = there.round_id == scope.get(Round, round_id, need=Role.MAKER).pk
        _the_same(there, form, mine)
        check, round = there.round.check_run, there.round
        known = _known(round)
        plan = _Plan(check, round)
        return Kept(check, round, known, there, plan.stations(known), recorded.stored(round))
    check, round = open_round(scope, round_id)
    known = _known(round)
    plan = _Plan(check, round)
    before = plan.stations(known)
    reading = _made(scope, plan, known, reading_id, form)
    return _kept(check, round, known, reading, before)


def put_log(scope: Scope, round_id: UUID, reading_id: UUID, form: LogIn) -> Kept:
    """Keep a log of many points as one reading; safe to send twice."""
    sent = form.model_dump(mode="json", exclude={"text"})
    there = _there(reading_id)
    if there is not None:
        mine = there.round_id == scope.get(Round, round_id, need=Role.MAKER).pk
        if not (mine and there.sent == sent):
            raise _other_id()
        check, round = there.round.check_run, there.round
        known = _known(round)
        stations = _Plan(check, round).stations(known)
        return Kept(check, round, known, there, stations, recorded.stored(round))
    check, round = open_round(scope, round_id)
    known = _known(round)
    plan = _Plan(check, round)
    before = plan.stations(known)
    station = plan.station(form.station, known)
    if station.reads != "log":
        raise Problem(
            f"{station.label.metric} takes no log.", expected="Enter its reading.", field="station"
        )
    log = LogReading(
        id=str(reading_id),
        station=form.station,
        read_at=form.read_at,
        columns=read_log(form.text, form.unit),
    )
    columns = plan.core.take_log(plan.setup, station, log).columns
    points = len(next(iter(columns.values()), []))
    reading = Reading(
        id=reading_id,
        round=round,
        station=form.station,
        reads="log",
        sent=sent,
        text=f"{points} points",
        unit="",
        columns=columns,
        supersedes=_superseded(known, form.supersedes),
        read_at=past(form.read_at),
        received_at=timezone.now(),
        by=scope.user,
    )
    return _kept(check, round, known, reading, before)


def _there(id: UUID) -> Reading | None:
    """The reading that has this id already, wherever it is; usually none has."""
    found = Reading.objects.filter(pk=id).order_by()
    return found.select_related("round__check_run").get() if found.exists() else None


def _known(round: Round) -> list[Reading]:
    """The readings of a round, without what was sent word by word."""
    return list(round.readings.defer("sent"))


def _kept(
    check: Check, round: Round, known: list[Reading], reading: Reading, before: Sequence[Station]
) -> Kept:
    reading.save(force_insert=True)
    readings = [*known, reading]
    outcome, _ = compute.recompute(check, round, rows=readings)
    return Kept(check, round, readings, reading, before, outcome)


def put_batch(
    scope: Scope, round_id: UUID, form: BatchIn
) -> tuple[Check, Round, Outcome, list[BatchAnswer]]:
    """Keep several readings in their order, each by itself: one that is refused is told about, and
    the others stay. Those that are there already are passed over."""
    check, round = open_round(scope, round_id)
    known = _known(round)
    mine = {r.pk for r in known}
    there = Reading.objects.in_bulk([item.id for item in form.readings])
    plan, made = _Plan(check, round), []
    answers: list[BatchAnswer] = []
    for item in form.readings:
        try:
            if item.id in there:
                _the_same(there[item.id], item.reading, item.id in mine)
            else:
                reading = _made(scope, plan, known, item.id, item.reading)
                known.append(reading)
                made.append(reading)
                there[item.id] = reading
                mine.add(item.id)
        except Problem as problem:
            answers.append(
                BatchAnswer(
                    id=item.id, kept=False, message=problem.message, expected=problem.expected
                )
            )
        except Conflict as conflict:
            answers.append(BatchAnswer(id=item.id, kept=False, message=conflict.detail))
        else:
            answers.append(BatchAnswer(id=item.id, kept=True))
    Reading.objects.bulk_create(made)
    outcome, _ = compute.recompute(check, round, rows=known)
    return check, round, outcome, answers


def _other_id() -> Conflict:
    return Conflict(
        "Another reading has this id. Reload the page and enter it again.", code="reading-id"
    )


def _the_same(there: Reading, form: ReadingIn, mine: bool) -> None:
    """Conflict unless what is there is this very reading, sent before."""
    sent = form.model_dump(mode="json")
    # a record of an older version does not know the fields that came later
    if not (mine and {**sent, **there.sent} == sent):
        raise _other_id()


class _Plan:
    """Where a round's readings may go, after those that are known."""

    def __init__(self, check: Check, round: Round) -> None:
        self.round = round
        self.core = kind(check.kind)
        self.setup = compute.setup_of(check, round)
        self.instrument = compute.instrument_of(round)
        self._known = -1
        self._stations: list[Station] = []

    def stations(self, known: list[Reading]) -> list[Station]:
        """The plan after these readings. One that does not grow as it goes is made out once."""
        if self._known < 0 or (self._known != len(known) and self.core.grows):
            self._stations = self.core.stations(self.setup, compute.core_readings(known))
            self._known = len(known)
        return self._stations

    def station(self, key: str, known: list[Reading]) -> Station:
        """The station with this key. Problem when it is not in the plan."""
        for station in self.stations(known):
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
    if len(known) >= MOST_READINGS:
        raise Problem(
            f"{MOST_READINGS:,} readings are in this round, and more are not kept in one.",
            expected="Settle it, and read on in the next.",
            field="station",
        )
    station = plan.station(form.station, known)
    if station.reads == "log":
        raise Problem(
            f"{station.label.metric} takes a log.", expected="Open its file there.", field="station"
        )
    old = _superseded(known, form.supersedes)
    if form.zeroed_on and form.zeroed_on not in {r.pk for r in known}:
        raise Problem(
            "The dial was zeroed on a reading that is not in this round.",
            expected="Clear the zero, or enter that reading first.",
            field="zeroed_on",
        )
    key, instrument = _instrument(scope, plan, station, form)
    value = _withdrawn(old) if form.withdrawn and old else _value(station, instrument, form)
    return Reading(
        id=reading_id,
        round=plan.round,
        station=form.station,
        reads=station.reads,
        sent=form.model_dump(mode="json"),
        zeroed_on=form.zeroed_on,
        supersedes=old,
        withdrawn=form.withdrawn,
        instrument_key=key,
        read_at=past(form.read_at),
        received_at=timezone.now(),
        by=scope.user,
        **value,
    )


def _instrument(
    scope: Scope, plan: _Plan, station: Station, form: ReadingIn
) -> tuple[str, InstrumentSpec]:
    """(key, instrument) of a reading: "" and the round's own, or another that the station takes."""
    round = plan.round
    id = form.instrument_id
    if id is None or id == round.instrument_id:
        if (
            station.takes
            and plan.instrument.type not in station.takes
            and station.reads == "length"
        ):
            raise Problem(
                f"{station.label.metric} is read with another instrument.",
                expected="Pick it beside the reading.",
                field="instrument_id",
            )
        return "", plan.instrument
    known = len(round.others)
    key, spec = _another(scope, round, id)
    if len(round.others) > known:
        round.save(update_fields=["others"])
    if spec.type not in station.takes:
        raise Problem(
            f"{INSTRUMENT_TITLES[spec.type]} does not suit {station.label.metric}.",
            expected="Take the instrument of the round.",
            field="instrument_id",
        )
    return key, spec


def _another(scope: Scope, round: Round, id: UUID) -> tuple[str, InstrumentSpec]:
    """(key, instrument) of one that is not the round's own, which the round remembers as it is."""
    key = str(id)
    if key not in round.others:
        record = scope.get(Instrument, id)
        if record.workshop_id != round.check_run.machine.workshop_id:
            raise Http404
        round.others = {**round.others, key: dump("instrument", instrument_spec(record.spec))}
    return key, instrument_spec(round.others[key])


def _withdrawn(old: Reading) -> dict[str, Any]:
    kept = ("shown_mm", "text", "unit", "grade", "note", "x_mm", "y_mm")
    return {name: getattr(old, name) for name in kept}


def _value(station: Station, instrument: InstrumentSpec, form: ReadingIn) -> dict[str, Any]:
    """What is kept of a reading. Problem, naming the field, when it does not suit the station."""
    if station.reads == "length":
        length = _understand(instrument, form)
        place = _place(station, form.x, form.y, form)
        return {"shown_mm": length.mm, "text": length.text, "unit": length.unit, **place}
    if form.grade not in {g.key for g in station.grades}:
        raise Problem(
            f"“{form.grade}” is no answer to “{station.label.metric}”."
            if form.grade
            else "Nothing was chosen.",
            expected="Pick one of: " + ", ".join(g.label for g in station.grades) + ".",
            field="grade",
        )
    # a page of an earlier version sends the place as the reading's own text
    x = form.x or form.text
    return {
        "grade": form.grade,
        "note": form.note.strip(),
        "text": x.strip() if station.where else "",
        "unit": "",
        **_place(station, x, form.y, form),
    }


def _place(station: Station, x: str, y: str, form: ReadingIn) -> dict[str, float]:
    """The place that a reading brings, where its station asks for one."""
    if not station.where:
        return {}
    found: dict[str, float] = {}
    for name, typed in (("x", x), ("y", y)):
        if not typed.strip():
            continue
        try:
            unit = "mm" if form.unit == "div" else form.unit
            found[f"{name}_mm"] = parse_length(typed, unit=unit).mm
        except Problem as problem:
            raise problem.at(name) from None
    return found


def _superseded(known: list[Reading], id: UUID | None) -> Reading | None:
    if id is None:
        return None
    old = next((r for r in known if r.pk == id), None)
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
    heavy = ("outcome", "summary", "lesson", "advice", "snapshot")
    round = scope.get(Round, round_id, related=("check_run__machine",), without=heavy)
    check = round.check_run
    key, instrument = "", compute.instrument_of(round)
    if form.instrument_id and form.instrument_id != round.instrument_id:
        key, instrument = _another(scope, round, form.instrument_id)
    length = _understand(instrument, form)
    known = _known(round)
    readings: list[CoreReading] = compute.core_readings(known)
    readings.append(
        LengthReading(
            id="preview",
            station=form.station,
            shown_mm=length.mm,
            read_at=timezone.now(),
            zeroed_on=str(form.zeroed_on) if form.zeroed_on else None,
            instrument=key,
        )
    )
    result, _ = compute.weighed(
        check, round, compute.case_of(check, round, readings, without=compute.left_out(known))
    )
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
        question=instrument.question(
            length, beside(known, form.station, form.zeroed_on, key, but=form.supersedes)
        ),
        sentence=result.judgement.sentence if result.judgement and result.ready else None,
        verdict=result.judgement.verdict if result.judgement and result.ready else None,
    )


def ask_standin(scope: Scope, round_id: UUID, station: str) -> StandinOut:
    """What the simulated indicator of a practice machine shows at a station."""
    round = scope.get(Round, round_id, related=("check_run__machine",))
    check = round.check_run
    if check.machine.truth is None:
        raise Problem(
            "This machine is a real one.", expected="Read its indicator.", field="station"
        )
    plan = _Plan(check, round)
    known = list(round.readings.all())
    seed = settings.STANDIN_SEED
    seen = standin_read(
        Truth.model_validate(check.machine.truth),
        plan.setup,
        plan.station(station, known),
        plan.instrument,
        np.random.default_rng([seed, len(known)] if seed else None),
        compute.core_readings(known),
    )
    text, unit = as_typed(seen, plan.instrument)
    return StandinOut(text=text, unit=unit, grade=seen.grade, note=seen.note)


def paste(scope: Scope, round_id: UUID, form: PasteIn) -> Pasted:
    """How pasted text would be understood; nothing is kept."""
    round = scope.get(Round, round_id, related=("check_run__machine",))
    plan = _Plan(round.check_run, round)
    known = list(round.readings.all())
    live = compute.core_readings(known)
    counts = Counter(r.station for r in live)
    order = plan.core.order(plan.setup, live)
    return read_pasted(
        form.text, plan.stations(known), dict(counts), plan.instrument, form.unit, order
    )
