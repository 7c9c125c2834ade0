"""The check screen's data and the logbook, put together from the record."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any
from uuid import UUID

from django.contrib.auth.models import User
from django.db.models import Prefetch, Q

from calmsquare.logbook import compute
from calmsquare.logbook.models import Check, Move, Round
from calmsquare.logbook.schemas import (
    CheckOut,
    KindOut,
    LogEntry,
    LogPage,
    LogRound,
    LogValue,
    MoveOut,
    NoteOut,
    Outcome,
    ReadingOut,
    RoundOut,
    Status,
)
from calmsquare.problems import FieldError, Invalid
from calmsquare.workshop.models import Machine, Role
from calmsquare.workshop.scope import Scope
from calmsquare.workshop.services import instrument_spec, machine_spec, tolerances
from truing.check import Check as CoreCheck
from truing.check import kind, registry
from truing.fields import shown_lengths
from truing.guide import guide
from truing.instruments import Instrument as InstrumentSpec
from truing.instruments import needle_at
from truing.moves.move import Move as CoreMove
from truing.quantities import Length
from truing.words import Words, plain, show

PAGE = 20


def name_of(user: User | None) -> str:
    """What a person is called in the record."""
    return (user.first_name or user.username) if user else "someone who has left"


def kinds() -> list[KindOut]:
    """Every kind of check that is built."""
    return [_kind(core) for core in registry().values()]


def _kind(core: CoreCheck[Any, Any]) -> KindOut:
    return KindOut(
        key=core.key,
        title=core.title,
        question=core.question,
        stage=core.stage,
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
            "readings__by", "notes__by"
        )
    )
    limits = tolerances(machine, check.kind)
    role = scope.role(machine.workshop_id)
    return CheckOut(
        id=check.pk,
        kind=check.kind,
        machine_id=machine.pk,
        machine_name=machine.name,
        workshop_id=machine.workshop_id,
        can_write=role != Role.VIEWER,
        has_standin=machine.truth is not None,
        cost=core.cost(machine_spec(machine), limits),
        tolerances={key: show(value, value / 10, "slope") for key, value in limits.items()},
        opened_at=check.opened_at,
        closed_at=check.closed_at,
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
        move=_move_out(move) if move else None,
        notes=[
            NoteOut(id=n.pk, text=n.text, written_at=n.written_at, by=name_of(n.by))
            for n in r.notes.all()
        ],
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


def _move_out(move: Move) -> MoveOut:
    return MoveOut(
        id=move.pk,
        said=_said(move),
        note=move.said if move.advised else "",
        nipped=move.nipped,
        tight=move.tight,
        made_at=move.made_at,
        by=name_of(move.by),
    )


# --- the logbook ----------------------------------------------------------------------------------


def round_status(r: Round) -> Status:
    """How a round stands: its verdict, or stale once something was moved after it."""
    if not r.verdict:
        return "unmeasured"
    if getattr(r, "move", None) is not None:
        return "stale"
    verdict: Any = r.verdict
    return verdict  # type: ignore[no-any-return]


def values_of(outcome: Outcome) -> list[LogValue]:
    if outcome.finding is None or outcome.judgement is None:
        return []
    verdicts = {j.quantity: j.verdict for j in outcome.judgement.judged}
    return [
        LogValue(label=q.label, words=q.words, status=verdicts[q.key])
        for q in outcome.finding.quantities
    ]


def _log_round(r: Round) -> LogRound:
    outcome = compute.stored(r)
    move = getattr(r, "move", None)
    return LogRound(
        id=r.pk,
        number=r.number,
        opened_at=r.opened_at,
        status=r.verdict or "unmeasured",
        sentence=outcome.judgement.sentence if outcome.judgement else None,
        values=values_of(outcome),
        move=_said(move) if move else None,
        notes=[
            NoteOut(id=n.pk, text=n.text, written_at=n.written_at, by=name_of(n.by))
            for n in r.notes.all()
        ],
        by=name_of(r.by),
        core_version=r.core_version,
    )


def _log_entry(check: Check, rounds: Sequence[Round]) -> LogEntry:
    logged = [_log_round(r) for r in rounds]
    read = [r for r in logged if r.values]
    latest = [r for r in rounds if r.verdict]
    return LogEntry(
        id=check.pk,
        machine_id=check.machine_id,
        machine_name=check.machine.name,
        kind=check.kind,
        title=kind(check.kind).title,
        opened_at=check.opened_at,
        closed_at=check.closed_at,
        status=round_status(latest[-1]) if latest else "unmeasured",
        before=read[0].values if read else [],
        after=read[-1].values if len(read) > 1 else [],
        rounds=logged,
    )


def logbook(
    scope: Scope, workshop_id: UUID, *, machine_id: UUID | None = None, after: str | None = None
) -> LogPage:
    """Sittings, newest first, a page at a time."""
    scope.role(workshop_id)
    found = scope.all(Check).filter(machine__workshop_id=workshop_id)
    if machine_id:
        found = found.filter(machine=scope.get(Machine, machine_id))
    if after:
        found = found.filter(_older_than(after))
    checks = list(
        found.order_by("-opened_at", "-id")
        .select_related("machine")
        .prefetch_related(
            Prefetch(
                "rounds",
                Round.objects.select_related("move", "by").prefetch_related("notes__by"),
            )
        )[: PAGE + 1]
    )
    page = checks[:PAGE]
    last = page[-1] if len(checks) > PAGE else None
    return LogPage(
        entries=[_log_entry(c, list(c.rounds.all())) for c in page],
        next=f"{last.opened_at.isoformat()}|{last.pk}" if last else None,
    )


def _older_than(cursor: str) -> Q:
    try:
        at, _, id = cursor.partition("|")
        return Q(opened_at__lt=datetime.fromisoformat(at)) | Q(
            opened_at=datetime.fromisoformat(at), id__lt=UUID(id)
        )
    except ValueError:
        raise Invalid(
            [FieldError(field="after", message="Use the “next” of the page before.")]
        ) from None
