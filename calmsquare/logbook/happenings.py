"""What happens to a machine beside its checks: events, photos, decisions, acceptance; and taking
back what was logged wrongly."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Literal
from uuid import UUID

from django.db import transaction
from django.db.models import Func, IntegerField, Model, QuerySet, Sum
from django.utils import timezone

from calmsquare.logbook import compute
from calmsquare.logbook.course import log_of, zone_of
from calmsquare.logbook.models import (
    Acceptance,
    Decision,
    Event,
    Move,
    Note,
    Photo,
    PhotoFile,
    Round,
)
from calmsquare.logbook.pictures import picture
from calmsquare.logbook.schemas import AcceptIn, DecisionIn, EventIn, GateIn, JobThen, PhotoIn
from calmsquare.logbook.services import carry_back, carry_out, past
from calmsquare.problems import Conflict, FieldError, Invalid
from calmsquare.workshop.models import Machine, Role, Workshop
from calmsquare.workshop.room import counted, room_for
from calmsquare.workshop.scope import Scope
from calmsquare.workshop.services import machine_spec
from truing.contract.move import Move as CoreMove
from truing.course.events import event_kind, events_for, touched_by
from truing.course.gates import gate_touches, gates, open_items
from truing.machine.mechanisms import mechanisms_of
from truing.measure.problem import Problem
from truing.record import dump_list, load
from truing.registry import registry

RecordType = Literal["events", "moves", "photos", "notes", "decisions", "acceptances"]

_TYPES: dict[RecordType, type[Any]] = {
    "events": Event,
    "moves": Move,
    "photos": Photo,
    "notes": Note,
    "decisions": Decision,
    "acceptances": Acceptance,
}


def _sent_before(scope: Scope, model: type[Model], id: UUID) -> bool:
    """Whether this has been kept already; Conflict when the id is somebody else's."""
    if scope.all(model).filter(pk=id).exists():
        return True
    if model._default_manager.filter(pk=id).exists():
        raise Conflict("Another record has this id.", code="duplicate")
    return False


def log_event(scope: Scope, machine_id: UUID, form: EventIn) -> Machine:
    """Something happened to the machine; what rests on what it touched is stale from then on."""
    machine = scope.get(Machine, machine_id, need=Role.MAKER)
    offered = events_for(machine_spec(machine), tilted=log_of(machine).tilt is not None)
    if form.kind not in {e.key for e in offered} and not _sent_before(scope, Event, form.id):
        raise Invalid([FieldError(field="kind", message="There is no such happening.")])
    kind = event_kind(form.kind)
    unknown = set(form.mechanisms) - set(mechanisms_of(machine_spec(machine)))
    if unknown:
        names = ", ".join(sorted(unknown))
        raise Problem(
            f"This machine has no {names}.", expected="Pick one of its parts.", field="mechanisms"
        )
    if kind.asks == "parts" and form.kind == "replaced" and not form.mechanisms:
        raise Problem("Which part was it?", expected="Pick at least one.", field="mechanisms")
    if form.kind in ("other", "note") and not form.said.strip():
        raise Problem("Nothing is said yet.", expected="Say it in a few words.", field="said")
    if kind.asks == "hours" and not form.hours:
        raise Problem("How many hours?", expected="More than 0.", field="hours")
    if not _sent_before(scope, Event, form.id):
        Event.objects.create(
            id=form.id,
            machine=machine,
            kind=form.kind,
            said=form.said.strip(),
            mechanisms=touched_by(form.kind, list(form.mechanisms)),
            hours=form.hours if kind.asks == "hours" else None,
            degrees=form.degrees if kind.asks == "angle" else None,
            at=past(form.at),
            by=scope.user,
        )
    return machine


def pass_gate(scope: Scope, machine_id: UUID, form: GateIn) -> Machine:
    """A step that cannot be undone was taken, with what was open then kept beside it."""
    machine = scope.get(Machine, machine_id, need=Role.MAKER)
    found = log_of(machine).standings(machine, zone_of(machine))
    gate = next((g for g in gates(machine_spec(machine), found) if g.key == form.gate), None)
    if gate is None:
        raise Invalid([FieldError(field="gate", message="There is no such step here.")])
    photo = scope.get(Photo, form.photo_id) if form.photo_id else None
    if photo is not None and photo.machine_id != machine.pk:
        raise Invalid([FieldError(field="photo_id", message="That is of another machine.")])
    if photo is None and not form.said.strip():
        raise Problem(
            "Once it is done, what was there is gone.",
            expected=f"Keep a photo or a note first. {gate.keep}",
            field="said",
        )
    if _sent_before(scope, Event, form.id):
        return machine
    event = Event.objects.create(
        id=form.id,
        machine=machine,
        kind="gate",
        said=form.said.strip(),
        mechanisms=gate_touches(gate.key),
        gate=gate.model_dump(mode="json"),
        at=past(form.at),
        by=scope.user,
    )
    if photo is not None:
        photo.event = event
        photo.save(update_fields=["event"])
    return machine


def decide(scope: Scope, machine_id: UUID, form: DecisionIn) -> Machine:
    """Leave a check as it is, with the reason and the figures of now."""
    machine = scope.get(Machine, machine_id, need=Role.MAKER)
    if form.kind not in registry():
        raise Invalid([FieldError(field="kind", message="There is no such check.")])
    if not form.reason.strip():
        raise Problem(
            "A decision needs its reason.", expected="Say why it may stay.", field="reason"
        )
    if not _sent_before(scope, Decision, form.id):
        log = log_of(machine)
        found = log.standings(machine, zone_of(machine))
        figures = next((log.values(s) for s in found if s.kind == form.kind), [])
        Decision.objects.create(
            id=form.id,
            machine=machine,
            kind=form.kind,
            reason=form.reason.strip(),
            figures=[v.model_dump(mode="json") for v in figures],
            at=past(form.at),
            by=scope.user,
        )
    return machine


def accept(
    scope: Scope, machine_id: UUID, form: AcceptIn, jobs: Callable[[Machine], Sequence[JobThen]]
) -> Machine:
    """Accept the machine for work, naming what is still open, and what it is good for."""
    machine = scope.get(Machine, machine_id, need=Role.MAKER)
    if not _sent_before(scope, Acceptance, form.id):
        found = log_of(machine).standings(machine, zone_of(machine))
        Acceptance.objects.create(
            id=form.id,
            machine=machine,
            note=form.note.strip(),
            open_items=[i.model_dump(mode="json") for i in open_items(found)],
            jobs=[j.model_dump(mode="json") for j in jobs(machine)],
            at=past(form.at),
            by=scope.user,
        )
    return machine


@counted
def photo_bytes(workshops: QuerySet[Workshop]) -> dict[UUID, int]:
    """What the photos of workshops weigh."""
    files = PhotoFile.objects.filter(photo__machine__workshop__in=workshops)
    weighed = Sum(OctetLength("large") + OctetLength("small"))
    return dict(files.values_list("photo__machine__workshop").annotate(n=weighed))


class OctetLength(Func):
    """The length of a binary column, in bytes."""

    function = "octet_length"
    output_field = IntegerField()


@transaction.atomic
def add_photo(scope: Scope, machine_id: UUID, form: PhotoIn, data: bytes) -> Photo:
    """Keep a photo of the machine, beside a round or an event of it where one is given."""
    machine = scope.get(Machine, machine_id, need=Role.MAKER)
    if _sent_before(scope, Photo, form.id):
        return scope.get(Photo, form.id)
    round = scope.get(Round, form.round_id) if form.round_id else None
    event = scope.get(Event, form.event_id) if form.event_id else None
    if (round and round.check_run.machine_id != machine.pk) or (
        event and event.machine_id != machine.pk
    ):
        raise Invalid([FieldError(field="round_id", message="That is of another machine.")])
    taken = picture(data)
    room_for(machine.workshop_id, len(taken.large) + len(taken.small))
    # the same, sent twice at once: it was waited for
    if _sent_before(scope, Photo, form.id):
        return scope.get(Photo, form.id)
    photo = Photo.objects.create(
        id=form.id,
        machine=machine,
        round=round,
        event=event,
        caption=form.caption.strip(),
        width=taken.width,
        height=taken.height,
        at=past(form.at),
        by=scope.user,
    )
    PhotoFile.objects.create(photo=photo, large=taken.large, small=taken.small)
    return photo


# --- taking back ----------------------------------------------------------------------------------


@transaction.atomic
def take_back(scope: Scope, type_: RecordType, id: UUID, *, back: bool) -> Machine:
    """Take a record back, or put it back again. It stays in the logbook and stops counting; what
    followed from it follows no longer."""
    record = scope.get(_TYPES[type_], id, need=Role.MAKER, for_update=True)
    machine: Machine = (
        record.machine if hasattr(record, "machine") else record.round.check_run.machine
    )
    if (record.taken_back_at is not None) == back:
        return machine
    if isinstance(record, Move):
        _move_back(record, machine, back)
    record.taken_back_at = timezone.now() if back else None
    record.taken_back_by = scope.user if back else None
    record.save(update_fields=["taken_back_at", "taken_back_by"])
    if isinstance(record, Move):
        _judge_anew(record, back)
    return machine


def _move_back(move: Move, machine: Machine, back: bool) -> None:
    """Shims go back where they came from, and a stand-in to where it was."""
    if move.advised is None:
        return
    advised: CoreMove = load("move", move.advised, move.round.check_run.kind)
    later = Move.objects.filter(
        round__check_run__machine=machine, made_at__gt=move.made_at, taken_back_at=None
    ).exclude(pk=move.pk)
    if advised.changes and any(_same_place(advised, other) for other in later):
        raise Conflict(
            "A later move changed the same place. Take the later one back first.", code="later-move"
        )
    locked = Machine.objects.select_for_update().get(pk=machine.pk)
    if back:
        carry_back(locked, advised, None if later.exists() else move.truth_before)
    else:
        carry_out(locked, move.round.check_run.kind, advised)


def _same_place(move: CoreMove, other: Move) -> bool:
    """Whether a later move changed something that this one changed too."""
    if other.advised is None:
        return False
    later: CoreMove = load("move", other.advised, other.round.check_run.kind)
    return bool({c.path for c in move.changes} & {c.path for c in later.changes})


def _judge_anew(move: Move, back: bool) -> None:
    """Rounds still open leaned on the move's prediction and on what it taught."""
    check = move.round.check_run
    for round in check.rounds.filter(number__gt=move.round.number, settled_at=None):
        if round.number == move.round.number + 1:
            advised = load("move", move.advised, check.kind) if move.advised and not back else None
            round.predicted = dump_list("prediction", advised.predicted if advised else [])
            round.save(update_fields=["predicted"])
        if round.setup is not None:
            compute.recompute(check, round)
