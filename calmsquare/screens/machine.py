"""What the workshop and machine screens show, and a machine while it is described."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any
from uuid import UUID

from calmsquare.faults import Fault, each
from calmsquare.jobs.here import Stood, jobs_on
from calmsquare.logbook.course import Beginning, MachineLog, beginning_of, log_of, logs_of, zone_of
from calmsquare.logbook.models import Acceptance
from calmsquare.logbook.schemas import JobThen
from calmsquare.planning.models import Evening
from calmsquare.problems import Invalid, validated
from calmsquare.screens.logbook import latest_lines
from calmsquare.screens.machine_schemas import (
    AcceptanceOut,
    ArchivedMachine,
    AsFound,
    CheckStatus,
    CourseKindOut,
    CourseOut,
    Drawing,
    JobHere,
    LimitsForJob,
    MachineBrief,
    MachineForms,
    MachineOut,
    MemberOut,
    NextStep,
    PartStatus,
    StageStatus,
    StartingPoint,
    WorkshopOut,
)
from calmsquare.screens.schemas import LogLine
from calmsquare.workshop.models import Machine, Membership, Role, Workshop
from calmsquare.workshop.people import name_of
from calmsquare.workshop.scope import Scope
from calmsquare.workshop.services import described, intervals_of, machine_spec, own_tolerances
from truing.course import KINDS, STAGES, course_kind
from truing.course.events import events_for, parts_of
from truing.course.gates import OpenItem, gates, proof, still_accepted
from truing.course.guide import guide
from truing.course.standing import Standing, day, worst
from truing.course.step import Step, detour, next_step, overall
from truing.drawing.sketches import SketchFigure
from truing.jobs.words import sentence
from truing.machine import FORM_TITLES, starting_point
from truing.machine import Machine as MachineSpec
from truing.machine.ghost import ghost
from truing.measure.fields import form_schema, proposed_lengths
from truing.measure.words import Words, plain
from truing.registry import registry


def course() -> CourseOut:
    """Every kind of check with its guide, built or not."""
    built = registry()
    return CourseOut(
        kinds=[
            CourseKindOut(
                key=k.key,
                title=k.title,
                question=k.question,
                stage=k.stage,
                built=k.key in built,
                when_needed=k.when_needed,
                guide=guide(k.key),
                ways=built[k.key].ways() if k.key in built else {},
            )
            for k in KINDS
        ],
    )


def sketches(machine: Machine, key: str) -> list[SketchFigure]:
    """How a kind of check is set up on a machine, in every way there is; none for a kind that is
    not built, or has no sketches."""
    core = registry().get(key)
    return core.sketches(machine_spec(machine)) if core else []


def workshop_out(scope: Scope, workshop_id: UUID) -> WorkshopOut:
    """A workshop, whole, in a constant number of queries."""
    workshop = scope.get(Workshop, workshop_id)
    role = scope.role(workshop_id)
    everything = list(scope.all(Machine).filter(workshop=workshop).select_related("workshop"))
    machines = [m for m in everything if not m.archived]
    logs = logs_of(machines)
    evenings = _evenings(machines)
    jobs = jobs_on(machines, logs)
    faults: list[Fault] = []
    return WorkshopOut(
        id=workshop.pk,
        name=workshop.name,
        time_zone=workshop.time_zone,
        is_demo=workshop.is_demo,
        role=role.value,
        machines=each(
            machines,
            lambda m: _brief(m, logs[m.pk], evenings.get(m.pk), role, jobs[m.pk]),
            lambda m: m.name,
            faults,
        ),
        archived=[ArchivedMachine(id=m.pk, name=m.name) for m in everything if m.archived],
        faults=faults,
    )


def machine_out(scope: Scope, machine: Machine) -> MachineOut:
    """One machine, whole, with the newest of its logbook."""
    faults: list[Fault] = []
    log = log_of(machine)
    return _machine(
        machine,
        log,
        _evenings([machine]).get(machine.pk),
        scope.role(machine.workshop_id),
        latest_lines(scope, machine, faults),
        faults,
        jobs_on([machine], {machine.pk: log})[machine.pk],
    )


def _evenings(machines: Sequence[Machine]) -> dict[UUID, UUID]:
    under_way = Evening.objects.filter(machine__in=machines, ended_at=None)
    return dict(under_way.values_list("machine_id", "pk"))


def _brief(
    machine: Machine, log: MachineLog, evening: UUID | None, role: Role, jobs: Stood
) -> MachineBrief:
    found = log.standings(machine, zone_of(machine))
    return MachineBrief(**_common(machine, log, evening, role, found, jobs))


def _common(
    machine: Machine,
    log: MachineLog,
    evening: UUID | None,
    role: Role,
    found: Sequence[Standing],
    jobs: Stood,
) -> dict[str, Any]:
    leans, stale = _leans(found, log)
    step = next_step(found)
    status, told = overall(found)
    return {
        "id": machine.pk,
        "workshop_id": machine.workshop_id,
        "name": machine.name,
        "ghost": described(machine).drawn(leans, stale),
        "status": status,
        "told": told,
        "next_step": _next(step, found, log) if step else None,
        "evening": evening,
        "jobs": [
            JobHere(id=job.pk, name=job.name, answer=fit.answer, sentence=sentence(fit))
            for job, fit in jobs
        ],
        "archived": machine.archived,
        "can_write": role != Role.VIEWER,
    }


def _machine(
    machine: Machine,
    log: MachineLog,
    evening: UUID | None,
    role: Role,
    recent: list[LogLine],
    faults: list[Fault],
    jobs: Stood,
) -> MachineOut:
    spec = machine_spec(machine)
    zone = zone_of(machine)
    found = log.standings(machine, zone)
    checks = each(
        [s for s in found if s.built],
        lambda s: _check_status(s, log, detour(s.kind, found)),
        lambda s: course_kind(s.kind).title,
        faults,
    )
    limits = {c.kind: own_tolerances(machine, c.kind) for c in checks}
    return MachineOut(
        **_common(machine, log, evening, role, found, jobs),
        spec=spec,
        spec_shown=described(machine).shown,
        letters=spec.letters(),
        suits=[s.kind for s in found],
        checks=checks,
        stages=_stages(found),
        as_found=_as_found(beginning_of(machine), found, zone),
        acceptance=_acceptance(log.acceptance, log) if log.acceptance else None,
        proof=proof(found),
        gates=gates(spec, found),
        parts=parts_of(spec),
        events=events_for(spec, tilted=log.tilt is not None),
        recent=recent,
        limits={key: registry()[key].limits(own) for key, own in limits.items()},
        job_limits=_limits_for_job(machine),
        intervals=intervals_of(machine, [c.kind for c in checks]),
        has_standin=machine.truth is not None,
        faults=faults,
    )


def _limits_for_job(machine: Machine) -> LimitsForJob | None:
    job = machine.job_limits
    if not job:
        return None
    by_kind = {k: own for k, own in job["limits"].items() if k in registry()}
    limits = {k: registry()[k].limits(own) for k, own in by_kind.items()}
    return LimitsForJob(job_id=job["job"], name=job["name"], limits=limits)


def _check_status(standing: Standing, log: MachineLog, around: Words | None) -> CheckStatus:
    k = course_kind(standing.kind)
    return CheckStatus(
        kind=k.key,
        title=k.title,
        stage=k.stage,
        question=k.question,
        minutes=guide(k.key).minutes,
        status=standing.status,
        why=standing.why,
        values=[] if standing.withheld else log.values(standing),
        worst=None if standing.withheld else log.worst(standing),
        withheld=standing.withheld,
        asked=not (k.when_needed and standing.idle) or k.key in log.open_checks,
        measured_at=standing.result.at if standing.result else None,
        due=standing.due,
        is_due=standing.is_due,
        left=standing.left,
        lapsed=standing.lapsed,
        parts=[PartStatus(title=p.title, status=p.status, needed=p.needed) for p in standing.parts],
        detour=around,
        open_check=log.open_checks.get(k.key),
    )


def _next(step: Step, found: Sequence[Standing], log: MachineLog) -> NextStep:
    status = next(s.status for s in found if s.kind == step.kind)
    return NextStep(**step.model_dump(), status=status, open_check=log.open_checks.get(step.kind))


def _stages(found: Sequence[Standing]) -> list[StageStatus]:
    stages = []
    for stage in STAGES:
        here = [s for s in found if s.built and course_kind(s.kind).stage == stage.key]
        stages.append(
            StageStatus(
                key=stage.key,
                title=stage.title,
                settles=stage.settles,
                status=worst(here),
                left=any(s.left for s in here),
            )
        )
    return stages


def _as_found(began: Beginning, found: Sequence[Standing], zone: Any) -> AsFound:
    moved = began.first_move
    kept = [k for k, at in began.first_read.items() if moved is None or at < moved]
    titles = ", ".join(
        f"{course_kind(k).title.lower()} on {day(began.first_read[k], zone)}" for k in kept
    )
    unread = [s for s in found if s.built and s.matters and s.kind not in began.first_read]
    if moved is None and (unread or not kept):
        before = f" Kept so far: {titles}." if kept else ""
        return AsFound(
            state="offered",
            text=plain(
                "Nothing has been moved yet. Read what you can and photograph shims and settings "
                f"first: without a before there is no proof of what was gained.{before}"
            ),
        )
    if kept:
        return AsFound(state="kept", text=plain(f"Kept as found: {titles}."))
    return AsFound(state="missed", text=plain("It was moved before anything was read."))


def _acceptance(acceptance: Acceptance, log: MachineLog) -> AcceptanceOut:
    return AcceptanceOut(
        id=acceptance.pk,
        at=acceptance.at,
        by=name_of(acceptance.by),
        note=acceptance.note,
        open_items=[OpenItem.model_validate(i) for i in acceptance.open_items],
        jobs=[JobThen.model_validate(j) for j in acceptance.jobs],
        still=still_accepted(acceptance.at, log.touches),
    )


def _leans(found: Sequence[Standing], log: MachineLog) -> tuple[dict[str, float], set[str]]:
    """What the drawing of a machine shows of its errors: the worst of each sort that a kind says it
    draws, and which of them have gone stale."""
    leans: dict[str, float] = {}
    stale: set[str] = set()
    for standing in found:
        draws = registry()[standing.kind].draws if standing.built else ()
        for q in log.summary(standing.kind).values if draws and not standing.withheld else ():
            if q.sort in draws:
                leans[q.sort] = max(leans.get(q.sort, 0.0), q.value, key=abs)
                if standing.status == "stale":
                    stale.add(q.sort)
    return leans, stale


# --- describing a machine, and members ------------------------------------------------------------


def machine_forms() -> MachineForms:
    """One starting point for each form."""
    starts = []
    for form, title in FORM_TITLES.items():
        spec = starting_point(form)
        starts.append(
            StartingPoint(
                form=form,
                title=title,
                spec=spec,
                spec_shown=proposed_lengths(spec),
                ghost=ghost(spec, {}),
            )
        )
    return MachineForms(starts=starts, form_schema=form_schema(MachineSpec))


def drawing(spec: dict[str, Any]) -> Drawing:
    """A machine as it is being typed, drawn from its figures."""
    try:
        return Drawing(ghost=ghost(validated(MachineSpec, spec, "spec"), {}), errors=[])
    except Invalid as invalid:
        return Drawing(ghost=None, errors=invalid.errors)


def member_out(member: Membership) -> MemberOut:
    """A member as shown."""
    role: Any = member.role
    return MemberOut(id=member.pk, name=name_of(member.user), email=member.user.email, role=role)


def members(scope: Scope, workshop_id: UUID) -> list[MemberOut]:
    """Everybody in a workshop."""
    scope.role(workshop_id)
    found = scope.all(Membership).filter(workshop_id=workshop_id)
    return [member_out(m) for m in found.select_related("user").order_by("pk")]
