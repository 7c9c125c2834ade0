"""What happens to jobs: described, copied, put away, made, measured; their limits applied."""

from __future__ import annotations

import hashlib
import json
import logging
import re
from collections.abc import Iterable, Sequence
from functools import lru_cache
from typing import Any
from uuid import UUID

from django.db import transaction
from django.utils import timezone

from calmsquare.jobs.grounds import ground_of, grounds
from calmsquare.jobs.models import Job, Making
from calmsquare.jobs.schemas import (
    CameOutIn,
    JobChange,
    JobLimitsIn,
    MakingIn,
    MeasuredIn,
    NewJobIn,
)
from calmsquare.problems import Conflict, FieldError, Invalid, validated
from calmsquare.workshop.meanwhile import among_others
from calmsquare.workshop.models import Machine, Role
from calmsquare.workshop.scope import Scope, made_before
from truing.jobs import FEATURE_TYPES, JobFit, fit
from truing.jobs import Job as JobSpec
from truing.jobs.fit import ORDER
from truing.jobs.limits import JobLimits, limits_for
from truing.jobs.made import CameOut, Foretold, Made, Outcome, made
from truing.measure.fields import shown_lengths
from truing.measure.lengths import parse_length
from truing.measure.problem import Problem
from truing.measure.words import Words
from truing.record import Unreadable, dump, load

log = logging.getLogger(__name__)


def spec_of(job: Job) -> JobSpec:
    """The job as the core knows it, not to be written to; made out once for each text that stands
    in the record. Conflict for one that something has damaged."""
    try:
        return _made_out(_text(job))[0]
    except Unreadable as error:
        log.exception("job %s", job.pk)
        raise Conflict(
            f"“{job.name}” cannot be read any more: {error} Nothing of it has been changed."
        ) from error


def shown_of(job: Job) -> dict[str, Words]:
    """Every length of a job that can be read, as text in both systems, by dotted path."""
    return _made_out(_text(job))[1]


def _text(job: Job) -> str:
    return json.dumps(job.spec, sort_keys=True)


@lru_cache(maxsize=64)
def _made_out(text: str) -> tuple[JobSpec, dict[str, Words]]:
    found: JobSpec = load("job", json.loads(text))
    return found, shown_lengths(found)


def told_of(making: Making) -> tuple[Made, Outcome]:
    """What was foretold of a job that was made, and what came out. Conflict for one that something
    has damaged."""
    try:
        came = making.came_out
        return load("making", making.snapshot), load("came_out", came) if came else Outcome()
    except Unreadable as error:
        log.exception("making %s", making.pk)
        raise Conflict(
            "What was foretold then cannot be read any more. Nothing of it has been changed."
        ) from error


def parsed(spec: dict[str, Any]) -> JobSpec:
    """A job as typed. Invalid names each field, as spec.features.2.depth_mm."""
    try:
        return validated(JobSpec, spec, "spec")
    except Invalid as invalid:
        # which of the kinds of feature it was read as is no part of its place
        errors = [e.model_copy(update={"field": _KIND.sub(r"\1", e.field)}) for e in invalid.errors]
        raise Invalid(errors) from None


_KIND = re.compile(rf"^(spec\.features\.\d+)\.(?:{'|'.join(FEATURE_TYPES)})\b")


def machines_of(scope: Scope, workshop_id: UUID) -> list[Machine]:
    """The machines of a workshop that are in use."""
    here = scope.all(Machine).filter(workshop=workshop_id, archived=False)
    return list(here.select_related("workshop"))


def meant_for(job: Job, machines: Sequence[Machine]) -> list[Machine]:
    """Those of these machines that a job may be made on; `job` with its machines fetched."""
    chosen = {m.pk for m in job.machines.all()}
    return [m for m in machines if not chosen or m.pk in chosen]


@transaction.atomic
def make_job(scope: Scope, workshop_id: UUID, form: NewJobIn) -> Job:
    """A new job."""
    scope.require(workshop_id, Role.MAKER)
    there = made_before(scope, Job, form.id, workshop_id=workshop_id)
    if there is not None:
        return there
    spec = parsed(form.spec)
    job = Job.objects.create(
        id=form.id,
        workshop_id=workshop_id,
        name=spec.name.strip(),
        spec=dump("job", spec),
        created_at=timezone.now(),
        by=scope.user,
    )
    _mean_for(scope, job, form.machines)
    return job


@transaction.atomic
def change_job(scope: Scope, job_id: UUID, form: JobChange) -> Job:
    """Other features, another name, other machines, among what others have changed meanwhile. What
    was made keeps what was foretold then."""
    job = scope.get(Job, job_id, need=Role.MAKER, for_update=True)

    def whole(spec: JobSpec, machines: Iterable[UUID]) -> dict[str, Any]:
        return {"spec": spec.model_dump(mode="json"), "machines": sorted(map(str, machines))}

    was = whole(parsed(form.was.spec), form.was.machines)
    try:
        now = whole(spec_of(job), job.machines.values_list("pk", flat=True))
    except Conflict:
        # what nothing makes readable is described anew
        now = was
    found = among_others(was, now, whole(parsed(form.spec), form.machines), JobSpec)
    spec = parsed(found["spec"])
    job.name, job.spec = spec.name.strip(), dump("job", spec)
    job.save(update_fields=["name", "spec"])
    _mean_for(scope, job, [UUID(id) for id in found["machines"]])
    return job


def _mean_for(scope: Scope, job: Job, machines: Sequence[UUID]) -> None:
    mine = scope.all(Machine).filter(workshop=job.workshop_id, pk__in=machines)
    found = set(mine.values_list("pk", flat=True))
    if found != set(machines):
        raise Invalid(
            [FieldError(field="machines", message="One of them is not in this workshop.")]
        )
    job.machines.set(mine)


def copy_job(scope: Scope, job_id: UUID, id: UUID) -> Job:
    """The same again under another name, to be changed."""
    job = scope.get(Job, job_id, need=Role.MAKER)
    spec = spec_of(job)
    name = f"{spec.name[:52]} (copy)"
    again = NewJobIn(
        id=id,
        spec=spec.model_copy(update={"name": name}).model_dump(mode="json"),
        machines=list(job.machines.values_list("pk", flat=True)),
    )
    return make_job(scope, job.workshop_id, again)


def put_away(scope: Scope, job_id: UUID, archived: bool) -> Job:
    """Out of the lists, or back. Its record stays whole."""
    job = scope.get(Job, job_id, need=Role.MAKER)
    job.archived = archived
    job.save(update_fields=["archived"])
    return job


# --- limits ---------------------------------------------------------------------------------------


def limits_of(scope: Scope, job_id: UUID, form: JobLimitsIn) -> tuple[Machine, JobFit, JobLimits]:
    """What each check of a machine has to come to for a job."""
    job = scope.get(Job, job_id)
    machine = _machine(scope, job, form.machine_id)
    found = fit(spec_of(job), ground_of(machine))
    weights = {(w.kind, w.tolerance): w.weight for w in form.weights}
    return machine, found, limits_for(found, weights)


def _machine(scope: Scope, job: Job, machine_id: UUID) -> Machine:
    machine = scope.get(Machine, machine_id)
    if machine.workshop_id != job.workshop_id:
        raise Invalid([FieldError(field="machine_id", message="It is not in this workshop.")])
    return machine


@transaction.atomic
def apply_limits(scope: Scope, job_id: UUID, form: JobLimitsIn) -> Machine:
    """From now on the machine is judged by what the job needs."""
    job = scope.get(Job, job_id, need=Role.MAKER)
    machine, _, limits = limits_of(scope, job_id, form)
    least = [x for x in limits.limits if x.value > 0]
    if not least:
        raise Conflict("This job asks for no limit that this machine could be brought to.")
    by_kind: dict[str, dict[str, float]] = {}
    for x in least:
        by_kind.setdefault(x.kind, {})[x.tolerance] = x.value
    machine.job_limits = {"job": str(job.pk), "name": job.name, "limits": by_kind}
    machine.save(update_fields=["job_limits"])
    return machine


def take_limits_back(scope: Scope, machine_id: UUID) -> Machine:
    """The owner's limits hold again."""
    machine = scope.get(Machine, machine_id, need=Role.MAKER)
    machine.job_limits = None
    machine.save(update_fields=["job_limits"])
    return machine


# --- made -----------------------------------------------------------------------------------------


@transaction.atomic
def start_making(scope: Scope, job_id: UUID, form: MakingIn) -> Making:
    """It is made now: what is foretold of it today is kept."""
    job = scope.get(Job, job_id, need=Role.MAKER)
    machine = _machine(scope, job, form.machine_id)
    there = made_before(scope, Making, form.id, job=job, machine=machine)
    if there is not None:
        return there
    spec = spec_of(job)
    if not spec.features:
        raise Conflict("It has no features: there is nothing to foretell, and nothing to measure.")
    found = fit(spec, ground_of(machine))
    return Making.objects.create(
        id=form.id,
        job=job,
        machine=machine,
        by=scope.user,
        made_at=timezone.now(),
        snapshot=dump("making", made(found, machine.name)),
    )


@transaction.atomic
def measured(scope: Scope, making_id: UUID, form: CameOutIn) -> Making:
    """What was measured on the part. Invalid names every figure that cannot be read."""
    making = scope.get(Making, making_id, need=Role.MAKER, for_update=True)
    told, _ = told_of(making)
    if form.was != mark_of(making):
        raise Conflict(
            "Somebody has entered what came out while this page was open. Load it anew to see it; "
            "nothing has been saved.",
            code="changed-meanwhile",
        )
    by_key = {(f.feature, f.key): f for f in told.foretold}
    errors: list[FieldError] = []
    came = []
    for i, m in enumerate(form.measured):
        foretold = by_key.get((m.feature, m.key))
        try:
            if foretold is None:
                raise Problem("The job asks for no such thing.", expected="Load the page again.")
            if m.text.strip():
                off = _off(m, foretold)
                came.append(CameOut(feature=m.feature, key=m.key, off=off))
        except Problem as problem:
            errors.append(
                FieldError(field=f"measured.{i}", message=str(problem), expected=problem.expected)
            )
    if errors:
        raise Invalid(errors)
    making.came_out = dump("came_out", Outcome(came_out=came, note=form.note.strip()))
    making.save(update_fields=["came_out"])
    return making


def mark_of(making: Making) -> str:
    """What is kept of how it came out, in a few letters: of who enters it at once, the second is
    told."""
    kept = json.dumps(making.came_out, sort_keys=True)
    return hashlib.sha256(kept.encode()).hexdigest()[:16]


def _off(m: MeasuredIn, foretold: Foretold) -> float:
    """An amount off as typed: a length, or per cent of a chip."""
    text = m.text.strip()
    if foretold.load:
        try:
            share = float(text.rstrip("% ").replace(",", ".")) / 100
        except ValueError:
            raise Problem(f"“{text}” is no number.", expected="Per cent, as in 30.") from None
        if not 0 <= share <= 100:
            raise Problem(f"“{text}” cannot be.", expected="Per cent over its chip, 0 or more.")
        return share
    off = abs(parse_length(text).mm)
    if off > 1000:
        raise Problem(f"“{text}” is more than any part is off.", expected="How far it is off.")
    return off


def take_back(scope: Scope, making_id: UUID, taken_back: bool) -> Making:
    """It was not made after all; or it was."""
    making = scope.get(Making, making_id, need=Role.MAKER)
    making.taken_back_at = timezone.now() if taken_back else None
    making.taken_back_by = scope.user if taken_back else None
    making.save(update_fields=["taken_back_at", "taken_back_by"])
    return making


def preview(
    scope: Scope, workshop_id: UUID, spec: dict[str, Any], meant: Sequence[UUID]
) -> tuple[Machine, JobFit] | None:
    """The machine that a job fits best while it is typed, and how; nothing is kept."""
    scope.role(workshop_id)
    read = parsed(spec)
    machines = machines_of(scope, workshop_id)
    chosen = [m for m in machines if not meant or m.pk in meant]
    if not chosen:
        return None
    here = grounds(chosen)
    fits = [(m, fit(read, here[m.pk])) for m in chosen if m.pk in here]
    return min(fits, key=rank, default=None)


def rank(found: tuple[Machine, JobFit]) -> tuple[int, float]:
    """Best first: by its answer, then by how near its worst demand is to its tolerance."""
    _, job = found
    return ORDER[job.answer], job.worst[1].ratio if job.worst else 0.0
