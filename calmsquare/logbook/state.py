"""The check screen's data and the logbook, put together from the record."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django.contrib.auth.models import User
from pydantic import ValidationError

from calmsquare.logbook import compute
from calmsquare.logbook.course import log_of, zone_of
from calmsquare.logbook.models import Check, Move, Note, Photo, Round
from calmsquare.logbook.schemas import (
    CheckOut,
    KindOut,
    MoveOut,
    NoteOut,
    PhotoOut,
    ReadingOut,
    RoundOut,
)
from calmsquare.workshop.models import Role
from calmsquare.workshop.scope import Scope
from calmsquare.workshop.services import instrument_spec, machine_spec, tolerances
from truing.contract.check import Check as CoreCheck
from truing.course.guide import guide
from truing.course.standing import Standing
from truing.course.step import detour
from truing.kit.instruments import INSTRUMENT_TITLES, needle_at
from truing.kit.instruments import Instrument as InstrumentSpec
from truing.machine.mechanisms import mechanisms_of
from truing.measure.fields import shown_lengths
from truing.measure.lengths import Length
from truing.measure.words import Words, plain, show
from truing.registry import kind, registry


def name_of(user: User | None) -> str:
    """What a person is called in the record."""
    return (user.first_name or user.username) if user else "someone who has left"


def kinds() -> list[KindOut]:
    """Every kind of check that is built."""
    return [_kind(core) for core in registry().values()]


def _kind(core: CoreCheck[Any, Any]) -> KindOut:
    return KindOut(
        key=core.key,
        title=core.course.title,
        question=core.course.question,
        stage=core.course.stage,
        layout=core.layout,
        needs_instrument=core.without() is None,
        takes={way: list(types) for way, types in core.takes_by_way().items()},
        guide=guide(core.key),
    )


def check_out(scope: Scope, check: Check) -> CheckOut:
    """A check, whole."""
    core = kind(check.kind)
    machine = check.machine
    rounds = list(
        check.rounds.select_related("move__by", "by", "instrument").prefetch_related(
            "readings__by", "notes__by", "photos__by"
        )
    )
    spec = machine_spec(machine)
    limits = tolerances(machine, check.kind)
    role = scope.role(machine.workshop_id)
    log = log_of(machine)
    found = log.standings(machine, zone_of(machine))
    return CheckOut(
        id=check.pk,
        kind=check.kind,
        machine_id=machine.pk,
        machine_name=machine.name,
        workshop_id=machine.workshop_id,
        can_write=role != Role.VIEWER,
        has_standin=machine.truth is not None,
        powered=core.powered(spec),
        setup_schema=core.form(spec),
        cost=core.cost(spec, limits),
        letters=spec.letters(),
        cautions=guide(check.kind).cautions_for(mechanisms_of(spec)),
        limits=core.limits(limits),
        opened_at=check.opened_at,
        closed_at=check.closed_at,
        first_move=log.first_move is None,
        detour=detour(check.kind, found),
        rounds=[_round_out(core, check, r, limits, found) for r in rounds],
    )


def _round_out(
    core: CoreCheck[Any, Any], check: Check, r: Round, limits: Any, found: Sequence[Standing]
) -> RoundOut:
    setup = _stated(core, r)
    instrument = instrument_spec(r.instrument_spec) if r.instrument_spec else None
    readings = list(r.readings.all())
    suggested = None if setup else _suggested(core, check, found)
    live = compute.core_readings(readings)
    stations = core.stations(setup, live) if setup else []
    following = core.next_station(setup, live) if setup else None
    move = getattr(r, "move", None)
    outcome = compute.stored(r)
    answers = {(s.key, g.key): g.label for s in stations for g in s.grades}
    return RoundOut(
        id=r.pk,
        number=r.number,
        version=r.version,
        part=dict(core.course.parts_of(machine_spec(check.machine))).get(r.part, ""),
        setup=setup,
        setup_shown=shown_lengths(setup) if setup else {},
        suggested=suggested.model_dump(mode="json") if suggested else None,
        suggested_shown=shown_lengths(suggested) if suggested else {},
        instrument_id=r.instrument_id,
        instrument_name=r.instrument.name if r.instrument else _taken(instrument),
        instrument=instrument,
        stations=stations,
        passes=core.passes(setup) if setup else 0,
        next_station=following.key if following else None,
        expectation=core.expect(setup, instrument, limits) if setup and instrument else None,
        readings=[
            _reading_out(reading, counts, instrument, answers)
            for reading, counts in compute.ordered(readings)
        ],
        outcome=outcome,
        predicted=compute.PREDICTIONS.validate_python(r.predicted),
        move=move_out(move) if move else None,
        notes=[note_out(n) for n in r.notes.all()],
        photos=[photo_out(p) for p in r.photos.all()],
        drawing=bool(
            setup
            and outcome.finding
            and core.drawing(setup, outcome.finding, machine_spec(check.machine))
        ),
        settled_at=r.settled_at,
        opened_at=r.opened_at,
        core_version=r.core_version,
    )


def _taken(instrument: InstrumentSpec | None) -> str:
    return INSTRUMENT_TITLES[instrument.type] if instrument else ""


def _stated(core: CoreCheck[Any, Any], r: Round) -> Any:
    """The round's set-up; None when none is stated, or when it is of an older form."""
    if not r.setup:
        return None
    try:
        return core.setup_type.model_validate(r.setup)
    except ValidationError:
        return None


def _suggested(core: CoreCheck[Any, Any], check: Check, found: Sequence[Standing]) -> Any:
    """The set-up of the last time, or a usual one, for the part that calls for attention."""
    standing = next((s for s in found if s.kind == check.kind), None)
    parts = standing.parts if standing else []
    wanted = next(
        (p.key for p in parts if p.needed and p.status != "true"), parts[0].key if parts else ""
    )
    rounds = Round.objects.filter(
        check_run__machine=check.machine, check_run__kind=check.kind, setup__isnull=False
    ).order_by("-opened_at")
    last = rounds.filter(part=wanted).first()
    setup = _stated(core, last) if last else None
    if setup is None:
        setup = core.propose(machine_spec(check.machine), wanted)
    return setup


def _reading_out(
    reading: Any,
    live: bool,
    instrument: InstrumentSpec | None,
    answers: dict[tuple[str, str], str],
) -> ReadingOut:
    shown = reading.shown_mm
    measured = instrument is not None and reading.reads == "length" and shown is not None
    question = None
    if measured and live and not reading.sent.get("accepted"):
        length = Length(
            mm=shown, text=reading.text, unit=reading.unit, signed=_signed(reading.text)
        )
        question = instrument.question(length) if instrument else None
    return ReadingOut(
        id=reading.pk,
        station=reading.station,
        reads=reading.reads,
        text=reading.text,
        unit=reading.unit,
        shown_mm=shown,
        grade=reading.grade,
        note=reading.note,
        words=_reading_words(reading, instrument, answers),
        needle=needle_at(instrument, shown) if instrument and measured else None,
        question=question,
        zeroed_on=reading.zeroed_on,
        supersedes=reading.supersedes_id,
        live=live,
        read_at=reading.read_at,
        by=name_of(reading.by),
    )


def _reading_words(
    reading: Any, instrument: InstrumentSpec | None, answers: dict[tuple[str, str], str]
) -> Words:
    if reading.reads != "length":
        said = answers.get((reading.station, reading.grade), reading.grade)
        where = f", at {reading.text} {reading.unit}" if reading.text else ""
        return plain(f"{said}{where}{': ' + reading.note if reading.note else ''}")
    if instrument is None:
        return show(reading.shown_mm, 0.001)
    return instrument.reading_words(reading.shown_mm)


def _signed(text: str) -> bool:
    return text.lstrip()[:1] in ("+", "-", "\N{MINUS SIGN}")


def _said(move: Move) -> Words:
    if move.advised:
        return Words.model_validate(move.advised["title"])
    return plain(move.said)


def note_out(note: Note) -> NoteOut:
    """A remark as shown."""
    return NoteOut(
        id=note.pk,
        text=note.text,
        written_at=note.written_at,
        by=name_of(note.by),
        taken_back=note.taken_back_at is not None,
    )


def photo_out(photo: Photo) -> PhotoOut:
    """A photo as shown, without its picture."""
    return PhotoOut(
        id=photo.pk,
        machine_id=photo.machine_id,
        caption=photo.caption,
        width=photo.width,
        height=photo.height,
        at=photo.at,
        by=name_of(photo.by),
        taken_back=photo.taken_back_at is not None,
    )


def move_out(move: Move) -> MoveOut:
    """What was done, as shown."""
    return MoveOut(
        id=move.pk,
        said=_said(move),
        note=move.said if move.advised else "",
        nipped=move.nipped,
        tight=move.tight,
        made_at=move.made_at,
        by=name_of(move.by),
        taken_back=move.taken_back_at is not None,
    )
