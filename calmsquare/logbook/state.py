"""The check screen's data and the logbook, put together from the record."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import User

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
from truing.check import Check as CoreCheck
from truing.check import kind, registry
from truing.course.step import detour
from truing.fields import shown_lengths
from truing.guide import guide
from truing.instruments import Instrument as InstrumentSpec
from truing.instruments import needle_at
from truing.mechanisms import mechanisms_of
from truing.moves.move import Move as CoreMove
from truing.quantities import Length
from truing.words import Words, plain, show


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
        setup_schema=core.setup_type.model_json_schema(mode="validation"),
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
    limits = tolerances(machine, check.kind)
    role = scope.role(machine.workshop_id)
    log = log_of(machine)
    return CheckOut(
        id=check.pk,
        kind=check.kind,
        machine_id=machine.pk,
        machine_name=machine.name,
        workshop_id=machine.workshop_id,
        can_write=role != Role.VIEWER,
        has_standin=machine.truth is not None,
        cost=core.cost(machine_spec(machine), limits),
        letters=machine_spec(machine).letters(),
        cautions=guide(check.kind).cautions_for(mechanisms_of(machine_spec(machine))),
        tolerances={key: show(value, value / 10, "slope") for key, value in limits.items()},
        opened_at=check.opened_at,
        closed_at=check.closed_at,
        first_move=log.first_move is None,
        detour=detour(check.kind, log.standings(machine, zone_of(machine))),
        rounds=[_round_out(core, check, r, limits) for r in rounds],
    )


def _round_out(core: CoreCheck[Any, Any], check: Check, r: Round, limits: Any) -> RoundOut:
    setup = core.setup_type.model_validate(r.setup) if r.setup else None
    instrument = instrument_spec(r.instrument_spec) if r.instrument_spec else None
    readings = list(r.readings.all())
    suggested = None if setup else _suggested(check)
    live = compute.core_readings(readings)
    following = core.next_station(setup, live) if setup else None
    move = getattr(r, "move", None)
    return RoundOut(
        id=r.pk,
        number=r.number,
        version=r.version,
        setup=setup,
        setup_shown=shown_lengths(setup) if setup else {},
        suggested=suggested,
        suggested_shown=(
            shown_lengths(core.setup_type.model_validate(suggested)) if suggested else {}
        ),
        instrument_id=r.instrument_id,
        instrument_name=r.instrument.name if r.instrument else "",
        instrument=instrument,
        stations=core.stations(setup) if setup else [],
        passes=core.passes(setup) if setup else 0,
        next_station=following.key if following else None,
        expectation=core.expect(setup, instrument, limits) if setup and instrument else None,
        readings=[
            _reading_out(reading, counts, instrument)
            for reading, counts in compute.ordered(readings)
        ],
        outcome=compute.stored(r),
        predicted=compute.PREDICTIONS.validate_python(r.predicted),
        move=move_out(move) if move else None,
        notes=[note_out(n) for n in r.notes.all()],
        photos=[photo_out(p) for p in r.photos.all()],
        settled_at=r.settled_at,
        opened_at=r.opened_at,
        core_version=r.core_version,
    )


def _suggested(check: Check) -> dict[str, Any] | None:
    last = (
        Round.objects.filter(
            check_run__machine=check.machine, check_run__kind=check.kind, setup__isnull=False
        )
        .order_by("-opened_at")
        .first()
    )
    return last.setup if last else None


def _reading_out(reading: Any, live: bool, instrument: InstrumentSpec | None) -> ReadingOut:
    length = Length(
        mm=reading.shown_mm, text=reading.text, unit=reading.unit, signed=_signed(reading.text)
    )
    asked = instrument and live and not reading.sent.get("accepted")
    return ReadingOut(
        id=reading.pk,
        station=reading.station,
        text=reading.text,
        unit=reading.unit,
        shown_mm=reading.shown_mm,
        words=instrument.reading_words(reading.shown_mm)
        if instrument
        else show(reading.shown_mm, 0.001),
        needle=needle_at(instrument, reading.shown_mm) if instrument else None,
        question=instrument.question(length) if instrument and asked else None,
        zeroed_on=reading.zeroed_on,
        supersedes=reading.supersedes_id,
        live=live,
        read_at=reading.read_at,
        by=name_of(reading.by),
    )


def _signed(text: str) -> bool:
    return text.lstrip()[:1] in ("+", "-", "\N{MINUS SIGN}")


def _said(move: Move) -> Words:
    if move.advised:
        return CoreMove.model_validate(move.advised).title
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
