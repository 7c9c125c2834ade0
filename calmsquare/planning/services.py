"""What happens to an evening: planned, started, ticked through, stopped, gone on with, ended."""

from __future__ import annotations

from uuid import UUID

from django.db import transaction
from django.utils import timezone

from calmsquare.jobs.here import jobs_on, needed_for
from calmsquare.jobs.models import Job
from calmsquare.logbook.course import MachineLog, log_of, zone_of
from calmsquare.planning.hunting import symptom_named
from calmsquare.planning.models import Evening
from calmsquare.planning.schemas import (
    DoneOut,
    EveningIn,
    EveningOut,
    JobAim,
    PlanIn,
    PlanOut,
    ResumeIn,
    SkipIn,
    TickIn,
)
from calmsquare.problems import Conflict, FieldError, Invalid
from calmsquare.workshop.models import Machine, Role
from calmsquare.workshop.scope import Scope, made_before
from calmsquare.workshop.services import machine_spec
from truing.course import course_kind
from truing.course.plan import AIMS, Aim, Plan, aims_for, changes, plan
from truing.course.standing import Standing
from truing.measure.words import lower
from truing.symptoms import search, symptoms


def _found(machine: Machine) -> tuple[MachineLog, list[Standing]]:
    log = log_of(machine)
    return log, log.standings(machine, zone_of(machine))


def preview(scope: Scope, machine_id: UUID, form: PlanIn) -> PlanOut:
    """What would fit; nothing is kept."""
    machine = scope.get(Machine, machine_id)
    _, found = _found(machine)
    return PlanOut(
        plan=_planned(scope, machine, found, form),
        aims=aims_for(found),
        jobs=[
            JobAim(id=job.pk, name=job.name, answer=fitted.answer)
            for job, fitted in jobs_on([machine])[machine.pk]
            if fitted.answer != "outside"
        ],
    )


def _planned(scope: Scope, machine: Machine, found: list[Standing], form: PlanIn) -> Plan:
    """The plan that is asked for. Invalid where it does not say of which job or symptom."""
    return plan(
        machine_spec(machine),
        found,
        form.minutes,
        form.aim,
        skip=form.skip,
        only=_only(scope, machine, form),
        sought=_sought(form.symptom, machine, found) if form.aim == "symptom" else None,
    )


def _sought(key: str, machine: Machine, found: list[Standing]) -> dict[str, list[str]]:
    """What the search for a symptom's cause asks for, as it stands."""
    return search(symptom_named(key), machine_spec(machine), found).sittings


def _only(scope: Scope, machine: Machine, form: PlanIn) -> list[str] | None:
    """The kinds that the job of a plan needs; None where it is not for one."""
    if form.aim != "job":
        return None
    if form.job is None:
        raise Invalid([FieldError(field="job", message="Say which job the evening is for.")])
    job = scope.get(Job, form.job)
    if job.workshop_id != machine.workshop_id:
        raise Invalid([FieldError(field="job", message="It is not in this workshop.")])
    return needed_for(job, machine)


@transaction.atomic
def start(scope: Scope, machine_id: UUID, form: EveningIn) -> Evening:
    """Start a plan, or go on with the one that is under way on the machine."""
    machine = scope.get(Machine, machine_id, need=Role.MAKER, for_update=True)
    under_way = machine.evenings.filter(ended_at=None).first()
    if under_way:
        return under_way
    there = made_before(scope, Evening, form.id, machine=machine)
    if there is not None:
        return there
    _, found = _found(machine)
    made = _planned(scope, machine, found, form)
    if not made.steps:
        raise Invalid([FieldError(field="minutes", message=made.sentence.metric)])
    now = timezone.now()
    return Evening.objects.create(
        id=form.id,
        machine=machine,
        by=scope.user,
        minutes=form.minutes,
        aim=form.aim,
        job_id=form.job if form.aim == "job" else None,
        symptom=form.symptom if form.aim == "symptom" else "",
        skip=form.skip,
        order=[s.kind for s in made.steps],
        started_at=now,
        running_since=now,
    )


def _mine(scope: Scope, evening_id: UUID) -> Evening:
    evening = scope.get(Evening, evening_id, need=Role.MAKER, for_update=True)
    if evening.ended_at is not None:
        raise Conflict("This evening is over. Make another plan.", code="evening-over")
    return evening


def _stop_clock(evening: Evening) -> None:
    if evening.running_since is not None:
        evening.spent_minutes = _spent(evening)
        evening.running_since = None


def _spent(evening: Evening) -> float:
    running = evening.running_since
    since = (timezone.now() - running).total_seconds() / 60 if running else 0.0
    return evening.spent_minutes + since


@transaction.atomic
def pause(scope: Scope, evening_id: UUID) -> Evening:
    """Stop for tonight; nothing is lost."""
    evening = _mine(scope, evening_id)
    _stop_clock(evening)
    evening.save()
    return evening


@transaction.atomic
def resume(scope: Scope, evening_id: UUID, form: ResumeIn) -> Evening:
    """Go on, with this much time from now."""
    evening = _mine(scope, evening_id)
    _stop_clock(evening)
    evening.minutes = round(evening.spent_minutes) + form.minutes
    evening.running_since = timezone.now()
    # another day, the kit has to be laid out again
    evening.ticked = []
    evening.save()
    return evening


@transaction.atomic
def end(scope: Scope, evening_id: UUID) -> Evening:
    """It is done with; what is left open stays open on the machine."""
    evening = _mine(scope, evening_id)
    _stop_clock(evening)
    evening.ended_at = timezone.now()
    evening.save()
    return evening


@transaction.atomic
def tick(scope: Scope, evening_id: UUID, form: TickIn) -> Evening:
    """Something was laid out."""
    evening = _mine(scope, evening_id)
    rest = [t for t in evening.ticked if t != form.text]
    evening.ticked = [*rest, form.text] if form.done else rest
    evening.save(update_fields=["ticked"])
    return evening


@transaction.atomic
def skip(scope: Scope, evening_id: UUID, form: SkipIn) -> Evening:
    """Leave a check out of tonight, or take it in again."""
    evening = _mine(scope, evening_id)
    rest = [k for k in evening.skip if k != form.kind]
    evening.skip = [*rest, form.kind] if form.skip else rest
    evening.save(update_fields=["skip"])
    return evening


@transaction.atomic
def seen(scope: Scope, evening_id: UUID) -> Evening:
    """The changed order has been looked at."""
    evening = _mine(scope, evening_id)
    _, found = _found(evening.machine)
    evening.order = [s.kind for s in _rest(evening, found).steps]
    evening.save(update_fields=["order"])
    return evening


def _rest(evening: Evening, found: list[Standing]) -> Plan:
    left = max(0, round(evening.minutes - _spent(evening)))
    spec, aim = machine_spec(evening.machine), _aim(evening)
    return plan(
        spec,
        found,
        left,
        aim.key,
        laid_out=True,
        skip=evening.skip,
        only=aim.kinds if aim.key == "job" else None,
        sought=_sought(evening.symptom, evening.machine, found) if aim.key == "symptom" else None,
    )


def _aim(evening: Evening) -> Aim:
    """What it is for; a job or a symptom that is gone leaves everything to be brought back to
    true."""
    sought = next((s for s in symptoms() if s.key == evening.symptom), None)
    if evening.aim == "symptom" and sought:
        return Aim(key="symptom", title=f"What is behind it: {lower(sought.title)}", kinds=[])
    job = evening.job
    if evening.aim == "job" and job is not None:
        title = f"Good enough for “{job.name}”"
        return Aim(key="job", title=title, kinds=needed_for(job, evening.machine))
    return next((a for a in AIMS if a.key == evening.aim), AIMS[0])


def evening_out(scope: Scope, evening: Evening) -> EveningOut:
    """An evening as it stands now."""
    machine = evening.machine
    log, found = _found(machine)
    rest = _rest(evening, found)
    done = [
        DoneOut(kind=s.kind, title=course_kind(s.kind).title, status=s.status, at=s.result.at)
        for s in found
        if s.result is not None and s.result.at >= evening.started_at
    ]
    settled = [d.kind for d in done if d.status == "true"]
    settled += [s.kind for s in found if s.left is not None]
    role = scope.role(machine.workshop_id)
    return EveningOut(
        id=evening.pk,
        machine_id=machine.pk,
        machine_name=machine.name,
        workshop_id=machine.workshop_id,
        aim=_aim(evening),
        minutes=evening.minutes,
        minutes_left=rest.minutes,
        running=evening.running_since is not None,
        ended=evening.ended_at is not None,
        plan=rest,
        open_checks=log.open_checks,
        done=done,
        ticked=evening.ticked,
        changes=changes(evening.order, rest, settled) if evening.ended_at is None else [],
        started_at=evening.started_at,
        can_write=role != Role.VIEWER,
    )
