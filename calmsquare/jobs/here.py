"""What the jobs of a workshop say of one of its machines, for other screens."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from uuid import UUID

from django.db.models import Prefetch

from calmsquare.jobs.grounds import ground_of, grounds
from calmsquare.jobs.models import Job
from calmsquare.jobs.schemas import JobCost
from calmsquare.jobs.services import meant_for, spec_of
from calmsquare.logbook.course import MachineLog
from calmsquare.logbook.schemas import JobThen
from calmsquare.problems import Conflict
from calmsquare.workshop.models import Machine
from truing.jobs import JobFit, fit
from truing.jobs.first import fix_first
from truing.jobs.fit import ORDER
from truing.jobs.words import cost_of

Stood = list[tuple[Job, JobFit]]
"""Jobs on one machine, those that it is good enough for first."""


def jobs_on(
    machines: Sequence[Machine], logs: Mapping[UUID, MachineLog] | None = None
) -> dict[UUID, Stood]:
    """Every job in use on each machine that it is meant for, in as many queries for many machines
    as for one. A job that cannot be read is left out here; its own screen names it."""
    workshops = {m.workshop_id for m in machines}
    # only which ones they are: the machines themselves are here
    chosen = Prefetch("machines", Machine.objects.only("pk").order_by())
    jobs = list(Job.objects.filter(workshop__in=workshops, archived=False).prefetch_related(chosen))
    found: dict[UUID, Stood] = {m.pk: [] for m in machines}
    if not jobs:
        return found
    here = grounds(machines, logs)
    for job in jobs:
        own = [m for m in machines if m.workshop_id == job.workshop_id and m.pk in here]
        try:
            spec = spec_of(job)
        except Conflict:
            continue
        for machine in meant_for(job, own):
            found[machine.pk].append((job, fit(spec, here[machine.pk])))
    for stood in found.values():
        stood.sort(key=lambda pair: ORDER[pair[1].answer])
    return found


def needed_for(job: Job, machine: Machine) -> list[str]:
    """The kinds of check that have to be made on a machine before it is good enough for a job."""
    found = fit(spec_of(job), ground_of(machine))
    return list(dict.fromkeys(r.kind for r in fix_first(found).remedies))


MOST_COSTS = 4


def costs(machine: Machine, kind: str) -> list[JobCost]:
    """What a kind of check comes to on the jobs that lean on it, the nearest to its tolerance
    first."""
    found = [
        (cost.ratio, JobCost(id=job.pk, name=job.name, answer=fitted.answer, text=cost.text))
        for job, fitted in jobs_on([machine])[machine.pk]
        if (cost := cost_of(kind, fitted))
    ]
    found.sort(key=lambda pair: -pair[0])
    return [cost for _, cost in found[:MOST_COSTS]]


def then(machine: Machine) -> list[JobThen]:
    """How its jobs stand on a machine, to be kept with its acceptance."""
    return [JobThen(name=job.name, answer=f.answer) for job, f in jobs_on([machine])[machine.pk]]
