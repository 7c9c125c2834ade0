"""The logbook: sittings, events, decisions, acceptances and photos of a workshop, newest first."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import datetime
from typing import Any
from uuid import UUID

from django.db.models import CharField, F, Model, Prefetch, Q, QuerySet, Value

from calmsquare.faults import Fault, each
from calmsquare.logbook import recorded
from calmsquare.logbook.models import Acceptance, Check, Decision, Event, Photo, Round
from calmsquare.logbook.schemas import JobThen, LogValue
from calmsquare.problems import FieldError, Invalid
from calmsquare.screens.people import move_out, note_out, photo_out
from calmsquare.screens.schemas import (
    LogEntry,
    LogItem,
    LogLine,
    LogPage,
    LogRecord,
    LogRound,
)
from calmsquare.workshop.models import Machine
from calmsquare.workshop.people import name_of
from calmsquare.workshop.scope import Scope
from truing.course import course_kind
from truing.course.events import event_kind
from truing.course.gates import OpenItem
from truing.course.standing import Status
from truing.jobs.words import ANSWERS
from truing.machine.mechanisms import title
from truing.measure.words import Words, join, plain, say
from truing.registry import kind

PAGE = 20
LATEST = 4


def round_status(r: Round) -> Status:
    """How a round stands: its verdict, or stale once something was moved after it."""
    if not r.verdict:
        return "unmeasured"
    if recorded.move_of(r) is not None:
        return "stale"
    verdict: Any = r.verdict
    return verdict  # type: ignore[no-any-return]


def logbook(
    scope: Scope, workshop_id: UUID, *, machine_id: UUID | None = None, after: str | None = None
) -> LogPage:
    """Everything logged, newest first, a page at a time."""
    scope.role(workshop_id)
    machine = scope.get(Machine, machine_id) if machine_id else None
    page = _page(scope, workshop_id, machine, _older_than(after) if after else Q(), PAGE + 1)
    last = page[PAGE - 1] if len(page) > PAGE else None
    faults: list[Fault] = []
    return LogPage(
        entries=_items(scope, page[:PAGE], faults),
        faults=faults,
        next=f"{last[0].isoformat()}|{last[1]}" if last else None,
    )


def latest_lines(scope: Scope, machine: Machine, faults: list[Fault]) -> list[LogLine]:
    """The newest lines of one machine's logbook, without the findings that sittings carry."""
    page = _page(scope, machine.workshop_id, machine, Q(), LATEST)
    sittings = [id for _, id, what in page if what == "checks"]
    light = Round.objects.filter(check_run__in=sittings).select_related("check_run", "move")
    rounds: dict[UUID, list[Round]] = {}
    for r in light.only("number", "verdict", "check_run", "move__taken_back_at", "move__round"):
        rounds.setdefault(r.check_run_id, []).append(r)
    lines = {id: _sitting_line(rs) for id, rs in rounds.items()}
    for record in _records(page, faults).values():
        lines[record.id] = LogLine(
            id=record.id,
            at=record.at,
            title=record.title,
            text=join([*([plain(record.text)] if record.text else []), *record.lines[:1]], " · "),
            status=None,
            rounds=0,
            taken_back=record.taken_back,
            photos=record.photos,
        )
    return [lines[id] for _, id, _ in page if id in lines]


def _sitting_line(rounds: Sequence[Round]) -> LogLine:
    check = rounds[0].check_run
    judged = [r for r in rounds if r.verdict]
    return LogLine(
        id=check.pk,
        at=check.opened_at,
        title=kind(check.kind).course.title,
        text=plain(""),
        status=round_status(judged[-1]) if judged else "unmeasured",
        rounds=len(rounds),
        taken_back=False,
        photos=[],
    )


def _page(
    scope: Scope, workshop_id: UUID, machine: Machine | None, older: Q, size: int
) -> list[tuple[datetime, UUID, str]]:
    """(time, id, what) of the newest lines."""

    def rows(model: type[Model], name: str, at: str, **only: Any) -> QuerySet[Any, Any]:
        # a machine that was come by through the scope needs no second look
        mine = (
            model._default_manager.filter(machine=machine)
            if machine
            else scope.all(model).filter(machine__workshop_id=workshop_id)
        )
        found = mine.filter(**only) if only else mine
        told = found.annotate(when=F(at), what=Value(name, output_field=CharField()))
        told = told.filter(older) if older else told
        lines: QuerySet[Any, Any] = told.order_by().values_list("when", "pk", "what")
        return lines

    wanted = rows(Check, "checks", "opened_at").union(
        rows(Event, "events", "at"),
        rows(Decision, "decisions", "at"),
        rows(Acceptance, "acceptances", "at"),
        rows(Photo, "photos", "at", round=None, event=None),
        all=True,
    )
    return list(wanted.order_by("-when", "-pk")[:size])


def _older_than(cursor: str) -> Q:
    try:
        at, _, id = cursor.partition("|")
        return Q(when__lt=datetime.fromisoformat(at)) | Q(
            when=datetime.fromisoformat(at), pk__lt=UUID(id)
        )
    except ValueError:
        raise Invalid(
            [FieldError(field="after", message="Use the “next” of the page before.")]
        ) from None


def _items(
    scope: Scope, page: Sequence[tuple[datetime, UUID, str]], faults: list[Fault]
) -> list[LogItem]:
    ids = [id for _, id, what in page if what == "checks"]
    checks = each(_checks(scope, ids), _sitting, _called, faults)
    sittings = {s.id: s for s in checks}
    records = _records(page, faults)
    return [
        LogItem(at=at, sitting=sittings.get(id), record=records.get(id))
        for at, id, _ in page
        if id in sittings or id in records
    ]


def _called(record: Any) -> str:
    """A line of the logbook that cannot be shown, by its sort, machine and day."""
    what = record._meta.verbose_name
    at = record.opened_at if isinstance(record, Check) else record.at
    return f"The {what} of {at:%Y-%m-%d} on {record.machine.name}"


def _records(
    page: Sequence[tuple[datetime, UUID, str]], faults: list[Fault]
) -> dict[UUID, LogRecord]:
    found: dict[UUID, LogRecord] = {}
    for name, model in (
        ("events", Event),
        ("decisions", Decision),
        ("acceptances", Acceptance),
        ("photos", Photo),
    ):
        ids = [id for _, id, what in page if what == name]
        if not ids:
            continue
        records: QuerySet[Any] = model._default_manager.filter(pk__in=ids)
        # of the machine only its name is told; its description and its truth are large
        records = records.select_related("machine", "by").defer("machine__spec", "machine__truth")
        if model is Event:
            records = records.prefetch_related("photos__by")
        found |= {r.id: r for r in each(records, _record, _called, faults)}
    return found


def _checks(scope: Scope, ids: list[UUID]) -> QuerySet[Check]:
    light = Round.objects.defer("outcome", "snapshot", "lesson", "advice", "setup")
    rounds = light.select_related("move__by", "by", "check_run").prefetch_related(
        "notes__by", "photos__by"
    )
    found = scope.all(Check).filter(pk__in=ids)
    return found.select_related("machine").prefetch_related(Prefetch("rounds", rounds))


def _sitting(check: Check) -> LogEntry:
    rounds = list(check.rounds.all())
    logged = [_round(r) for r in rounds]
    read = [r for r in logged if r.values]
    latest = [r for r in rounds if r.verdict]
    return LogEntry(
        id=check.pk,
        machine_id=check.machine_id,
        machine_name=check.machine.name,
        kind=check.kind,
        title=kind(check.kind).course.title,
        opened_at=check.opened_at,
        closed_at=check.closed_at,
        status=round_status(latest[-1]) if latest else "unmeasured",
        before=read[0].values if read else [],
        after=read[-1].values if len(read) > 1 else [],
        rounds=logged,
    )


def _round(r: Round) -> LogRound:
    summary = recorded.summary_of(r)
    sentence, values = summary.sentence, recorded.values_of(summary)
    if values and not r.verdict:
        # a part of a plan judges nothing, whatever its figures are
        sentence = plain("Not all of it has been read.")
        values = [v.model_copy(update={"status": "unmeasured"}) for v in values]
    move = getattr(r, "move", None)
    return LogRound(
        id=r.pk,
        number=r.number,
        opened_at=r.opened_at,
        status=r.verdict or "unmeasured",
        sentence=sentence,
        values=values,
        move=move_out(move) if move else None,
        notes=[note_out(n) for n in r.notes.all()],
        photos=[photo_out(p) for p in r.photos.all()],
        by=name_of(r.by),
        core_version=r.core_version,
    )


def _record(record: Any) -> LogRecord:
    told: dict[type, Callable[[Any], dict[str, Any]]] = {
        Event: _event,
        Decision: _decision,
        Acceptance: _acceptance,
        Photo: _photo,
    }
    return LogRecord(
        id=record.pk,
        machine_id=record.machine_id,
        machine_name=record.machine.name,
        at=record.at,
        by=name_of(record.by),
        taken_back=record.taken_back_at is not None,
        **told[type(record)](record),
    )


def _event(event: Event) -> dict[str, Any]:
    lines: list[Words] = []
    if event.hours:
        lines.append(plain(f"{event.hours:g} hours"))
    if event.kind in ("replaced", "other") and event.mechanisms:
        lines.append(plain("Parts: " + ", ".join(title(m) for m in event.mechanisms)))
    if event.gate:
        opened = [OpenItem.model_validate(i) for i in event.gate["open"]]
        lines += [say("{title}: {text}", title=i.title, text=i.text) for i in opened]
        name = event.gate["title"]
    else:
        name = event_kind(event.kind).title
    return {
        "type": "events",
        "title": name,
        "text": event.said,
        "lines": lines,
        "photos": [photo_out(p) for p in event.photos.all()],
    }


def _decision(decision: Decision) -> dict[str, Any]:
    figures = [LogValue.model_validate(f) for f in decision.figures]
    return {
        "type": "decisions",
        "title": f"{course_kind(decision.kind).title} left as it is",
        "text": decision.reason,
        "lines": [say("{label}: {words}", label=f.label, words=f.words) for f in figures],
        "photos": [],
    }


def _acceptance(acceptance: Acceptance) -> dict[str, Any]:
    items = [OpenItem.model_validate(i) for i in acceptance.open_items]
    jobs = [JobThen.model_validate(j) for j in acceptance.jobs]
    return {
        "type": "acceptances",
        "title": "Accepted, with open items" if items else "Accepted",
        "text": acceptance.note,
        "lines": [
            *(say("{title}: {text}", title=i.title, text=i.text) for i in items),
            *(plain(f"{j.name}: {ANSWERS[j.answer].lower()}.") for j in jobs),
        ],
        "photos": [],
    }


def _photo(photo: Photo) -> dict[str, Any]:
    return {
        "type": "photos",
        "title": "Photo",
        "text": photo.caption,
        "lines": [],
        "photos": [photo_out(photo)],
    }
