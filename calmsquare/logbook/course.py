"""From the record to the course: what of each machine was read, touched, decided and accepted."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta, tzinfo
from typing import Any, NamedTuple, cast
from uuid import UUID
from zoneinfo import ZoneInfo

from django.db.models import F, Min, Q, QuerySet, TextField, Value, Window
from django.db.models.fields.json import KT
from django.db.models.functions import Cast, RowNumber
from django.utils import timezone

from calmsquare.logbook import recorded
from calmsquare.logbook.models import Acceptance, Check, Decision, Event, Move, Round
from calmsquare.logbook.schemas import LogValue
from calmsquare.workshop.models import Machine
from calmsquare.workshop.services import job_of_limits, machine_spec, tolerances
from truing.contract.known import Known
from truing.course import course_kind
from truing.course.events import event_kind, event_said
from truing.course.gates import gate_said
from truing.course.standing import (
    SLIDES,
    THING,
    Log,
    Ran,
    Result,
    Standing,
    Tilt,
    Touch,
    standings,
)
from truing.course.standing import Decision as CoreDecision
from truing.machine.mechanisms import ALL, touched
from truing.machine.subject import THE_MACHINE
from truing.measure.words import capital, say
from truing.record import Lesson, Summary, Unreadable, load
from truing.record.rejudge import rejudged
from truing.registry import registry


@dataclass(frozen=True)
class Beginning:
    """What was read before anything was moved."""

    first_read: dict[str, datetime]
    """When each kind was first judged."""
    first_move: datetime | None


@dataclass
class MachineLog:
    """One machine's record, in the core's terms where the core knows them."""

    results: list[Result] = field(default_factory=list)
    touches: list[Touch] = field(default_factory=list)
    decisions: list[CoreDecision] = field(default_factory=list)
    ran: list[Ran] = field(default_factory=list)
    tilt: Tilt | None = None
    latest: dict[tuple[str, str], UUID] = field(default_factory=dict)
    """The round that was read last, by kind of check and subject."""
    lessons: dict[UUID, str] = field(default_factory=dict)
    """What those rounds told in figures, as the text that is kept."""
    summaries: dict[tuple[str, str], Summary] = field(default_factory=dict)
    open_checks: dict[str, UUID] = field(default_factory=dict)
    acceptance: Acceptance | None = None
    _stands: list[Standing] | None = field(default=None, init=False, repr=False)

    def summary(self, kind: str, subject: str = THE_MACHINE.text) -> Summary:
        """What the latest round of a kind about a subject came to; empty where there is none."""
        return self.summaries.get((kind, subject)) or Summary(sentence=None, values=[])

    def values(self, standing: Standing) -> list[LogValue]:
        """The figures of a kind's latest round; of each part's, where there are several."""
        if not standing.parts:
            subject = standing.result.subject if standing.result else THE_MACHINE.text
            return recorded.values_of(self.summary(standing.kind, subject))
        found, told = [], set()
        for part in standing.parts:
            subject = part.result.subject if part.result else part.key
            if subject in told:
                continue
            told.add(subject)
            values = recorded.values_of(self.summary(standing.kind, subject))
            if subject != part.key:
                # read before the parts were told apart: it is about all of them
                found += values
                continue
            for value in values:
                label = say("{part}: ", part=capital(part.title)) + value.label.lower()
                found.append(value.model_copy(update={"label": label}))
        return found

    def worst(self, standing: Standing) -> LogValue | None:
        """The figure of a kind's latest rounds that comes nearest to its limit, or is furthest
        beyond it; None where none was judged."""
        subjects = [p.result.subject for p in standing.parts if p.result]
        if standing.result and not standing.parts:
            subjects = [standing.result.subject]
        told = [
            value
            for subject in dict.fromkeys(subjects or [THE_MACHINE.text])
            for value in self.summary(standing.kind, subject).values
            if value.limit > 0
        ]
        if not told:
            return None
        worst = max(told, key=lambda v: abs(v.value) / v.limit)
        return LogValue(label=worst.label, words=worst.words, status=worst.verdict)

    def standings(self, machine: Machine, zone: tzinfo) -> list[Standing]:
        """How every check of the machine stands now; worked out when it is first asked for, after
        the record has been gathered."""
        if self._stands is None:
            self._stands = self._standings(machine, zone)
        return self._stands

    def _standings(self, machine: Machine, zone: tzinfo) -> list[Standing]:
        log = Log(
            results=self.results,
            touches=self.touches,
            decisions=self.decisions,
            ran=self.ran,
            tilt=self.tilt,
            intervals=machine.intervals,
        )
        return standings(
            machine_spec(machine), log, built=list(registry()), now=timezone.now(), zone=zone
        )


def zone_of(machine: Machine) -> tzinfo:
    """The zone in which its workshop tells dates."""
    return ZoneInfo(machine.workshop.time_zone)


def logs_of(machines: Sequence[Machine]) -> dict[UUID, MachineLog]:
    """The record of these machines, in a number of queries that does not grow with it."""
    logs: dict[UUID, MachineLog] = {m.pk: MachineLog() for m in machines}
    ids = list(logs)
    _rounds(logs, {m.pk: m for m in machines})
    left = Decision.objects.filter(machine__in=ids, taken_back_at=None)
    for machine, id, kind, at, reason in left.values_list(
        "machine_id", "pk", "kind", "at", "reason"
    ):
        logs[machine].decisions.append(CoreDecision(id=str(id), kind=kind, at=at, reason=reason))
    accepted = Acceptance.objects.filter(machine__in=ids, taken_back_at=None)
    for acceptance in (
        accepted.order_by("machine_id", "-at").distinct("machine_id").select_related("by")
    ):
        logs[acceptance.machine_id].acceptance = acceptance
    under_way = Check.objects.filter(machine__in=ids, closed_at=None)
    for machine, kind, check in under_way.values_list("machine_id", "kind", "pk"):
        logs[machine].open_checks[kind] = check
    _moves(logs, ids)
    _events(logs)
    return logs


_NEVER = datetime.max.replace(tzinfo=UTC)


def _since(log: MachineLog) -> datetime:
    """What happened to a machine can still matter when it is later than this: the oldest thing it
    could undo."""
    undone = [r.at for r in log.results] + [d.at for d in log.decisions]
    if log.acceptance:
        undone.append(log.acceptance.at)
    return min(undone, default=_NEVER)


def log_of(machine: Machine) -> MachineLog:
    """The record of one machine."""
    return logs_of([machine])[machine.pk]


def known_of(machine: Machine, kinds: Sequence[str], *, but: Round | None = None) -> list[Known]:
    """What these kinds have found on a machine, the latest first, and whether it still holds: of
    each the latest round of every way of reading every subject; of the round's own kind only what
    came before it."""
    if not kinds:
        return []
    judged = Round.objects.filter(
        check_run__machine=machine, check_run__kind__in=kinds, lesson__isnull=False
    ).exclude(verdict="")
    if but is not None:
        here = but.check_run
        later = Q(check_run=here, number__gte=but.number) | Q(
            check_run__opened_at__gt=here.opened_at
        )
        judged = judged.exclude(later, check_run__kind=here.kind)
    last = [F("check_run__opened_at").desc(), F("number").desc()]
    alike: list[Any] = ["check_run__kind", "subject", KT("lesson__way")]
    newest = judged.annotate(nth=Window(RowNumber(), partition_by=alike, order_by=last)).filter(
        nth=1
    )
    newest = newest.select_related("check_run").order_by(*last)
    record = MachineLog()
    found: list[tuple[Result, Round, Lesson]] = []
    for round in newest.defer("outcome", "snapshot", "advice", "setup"):
        try:
            lesson: Lesson = load("lesson", round.lesson, round.check_run.kind)
        except Unreadable:
            continue
        kind = round.check_run.kind
        result = _result(round, kind, recorded.summary_of(round), round.verdict)
        record.results.append(result)
        record.latest.setdefault((result.kind, result.subject), round.pk)
        found.append((result, round, lesson))
    logs = {machine.pk: record}
    _moves(logs, [machine.pk])
    _events(logs)
    log = Log(touches=record.touches)
    return [
        known(log, result, lesson, {v.key: v.limit for v in recorded.summary_of(round).values})
        for result, round, lesson in found
    ]


def known(log: Log, result: Result, lesson: Lesson, limits: Mapping[str, float]) -> Known:
    """A result in figures, with the limits it was judged by, and whether it still holds."""
    return Known(
        kind=result.kind,
        subject=result.subject,
        at=result.at,
        fresh=log.first_touch(result.kind, result.at, result.subject) is None,
        verdict=result.verdict,
        values=lesson.values,
        limits=dict(limits),
    )


def beginning_of(machine: Machine) -> Beginning:
    """How the record of a machine begins."""
    judged = Round.objects.filter(check_run__machine=machine).exclude(verdict="").order_by()
    moves = _moves_of(machine).order_by()
    read = judged.annotate(of=F("check_run__kind")).values("of").annotate(first=Min("opened_at"))
    moved = moves.annotate(of=Value("")).values("of").annotate(first=Min("made_at"))
    firsts = dict(read.values_list("of", "first").union(moved.values_list("of", "first")))
    first_move = firsts.pop("", None)
    return Beginning(
        first_read=dict(sorted(firsts.items(), key=lambda pair: pair[1])), first_move=first_move
    )


def nothing_moved(machine: Machine) -> bool:
    """Whether nothing of a machine was moved yet."""
    return not _moves_of(machine).exists()


def _moves_of(machine: Machine) -> QuerySet[Move]:
    return Move.objects.filter(round__check_run__machine=machine, taken_back_at=None)


class _Read(NamedTuple):
    """A judged round, as far as it is looked into here; findings are large, and a model of each
    costs more than its query."""

    pk: UUID
    machine: UUID
    kind: str
    subject: str
    verdict: str
    core_version: str
    read_at: datetime | None
    opened_at: datetime
    summary: str | None
    lesson: str | None
    """Texts of their columns."""


_READ = (
    *("pk", "check_run__machine_id", "check_run__kind", "subject", "verdict", "core_version"),
    *("read_at", "opened_at", Cast("summary", TextField()), Cast("lesson", TextField())),
)


def _rounds(logs: dict[UUID, MachineLog], machines: Mapping[UUID, Machine]) -> None:
    judged = Round.objects.filter(check_run__machine__in=machines).exclude(verdict="")
    latest = judged.order_by(
        "check_run__machine_id", "check_run__kind", "subject", "-check_run__opened_at", "-number"
    ).distinct("check_run__machine_id", "check_run__kind", "subject")
    for row in Round.objects.filter(pk__in=latest.values("pk")).order_by().values_list(*_READ):
        round = _Read(*row)
        log = logs[round.machine]
        key = (round.kind, round.subject)
        summary = recorded.summary_in(round.summary, round, round.kind)
        summary, verdict = _by_todays_limits(summary, round, machines[round.machine])
        log.latest[key], log.summaries[key] = round.pk, summary
        if round.lesson is not None:
            log.lessons[round.pk] = round.lesson
        log.results.append(_result(round, round.kind, summary, verdict))


def _by_todays_limits(summary: Summary, round: _Read, machine: Machine) -> tuple[Summary, Any]:
    """What a round came to, and its verdict by the limits that hold today: the round itself stays
    as it was judged."""
    if round.kind not in registry():
        return summary, round.verdict
    job = job_of_limits(machine, round.kind)
    by = f" for “{job}”" if job else ""
    try:
        limits = tolerances(machine, round.kind)
    except Unreadable:
        # a machine that cannot be read any more: its verdicts stand as they were
        return summary, round.verdict
    return rejudged(summary, cast(Any, round.verdict), limits, by)


def _result(round: Round | _Read, kind: str, summary: Summary, verdict: Any) -> Result:
    return Result(
        kind=kind,
        subject=round.subject,
        at=round.read_at or round.opened_at,
        verdict=verdict,
        sentence=summary.sentence,
        times_limit=summary.times_limit,
        against=summary.against,
    )


def _moves(logs: dict[UUID, MachineLog], ids: list[UUID]) -> None:
    moves = Move.objects.filter(round__check_run__machine__in=ids, taken_back_at=None)
    machine = "round__check_run__machine_id"
    since = {pk: _since(log) for pk, log in logs.items()}
    latest = {pk: subject for log in logs.values() for (_, subject), pk in log.latest.items()}
    recent = moves.filter(Q(made_at__gt=min(since.values(), default=_NEVER)) | Q(round__in=latest))
    for id, round_id, machine_id, kind, mechanism, said, at, subject in recent.annotate(
        mechanism=KT("made__mechanism")
    ).values_list(
        *("pk", "round_id", machine, "round__check_run__kind"),
        *("mechanism", "said", "made_at", "round__subject"),
    ):
        log, when = logs[machine_id], at
        if at <= since[machine_id] and round_id not in latest:
            continue
        if round_id in latest:
            # a clock that lags must not put a move before the readings that it answered
            read = max(
                r.at for r in log.results if r.kind == kind and r.subject == latest[round_id]
            )
            when = max(at, read + timedelta(milliseconds=1))
        log.touches.append(
            Touch(
                id=str(id),
                at=when,
                mechanisms=[mechanism] if mechanism in ALL else list(course_kind(kind).adjusts),
                said=touched(mechanism) if mechanism in ALL else f"“{said}” was done",
                slide=subject if subject in SLIDES or subject.startswith(THING) else "",
            )
        )


class _Happened(NamedTuple):
    """An event, as far as it is looked into here."""

    pk: UUID
    machine_id: UUID
    kind: str
    at: datetime
    said: str
    mechanisms: list[Any]
    hours: float | None
    degrees: float | None
    gate: dict[str, Any] | None


def _events(logs: dict[UUID, MachineLog]) -> None:
    # a head stays tilted however much was read of other things since
    tilts = Q(machine__in=logs, kind__in=("tilted", "squared"))
    since = {pk: _since(log) for pk, log in logs.items()}
    recent = Q(machine__in=logs, at__gt=min(since.values(), default=_NEVER))
    events = Event.objects.filter(recent | tilts, taken_back_at=None)
    for row in events.order_by("at").values_list(*_Happened._fields):
        event = _Happened(*row)
        log = logs[event.machine_id]
        if event.kind in ("tilted", "squared"):
            tilted = Tilt(at=event.at, said=happened(event))
            log.tilt = tilted if event.kind == "tilted" else None
        elif event.at <= since[event.machine_id]:
            continue
        if event.kind == "hours":
            log.ran.append(Ran(at=event.at, hours=event.hours or 0))
        elif event.mechanisms:
            log.touches.append(
                Touch(
                    id=str(event.pk),
                    at=event.at,
                    mechanisms=event.mechanisms,
                    said=happened(event),
                    calls_for=[] if event.gate else event_kind(event.kind).calls_for,
                    first=not event.gate and event_kind(event.kind).first,
                )
            )


def happened(event: Event | _Happened) -> str:
    """What is said of an event afterwards, without a capital."""
    if event.gate:
        return gate_said(event.gate["key"])
    return event_said(event.kind, event.said, event.mechanisms, event.degrees)
