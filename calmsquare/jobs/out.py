"""Jobs as they are shown."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import partial
from uuid import UUID

from django.db.models import Count, Q

from calmsquare.faults import Fault, each
from calmsquare.jobs.grounds import grounds
from calmsquare.jobs.models import Job, Making
from calmsquare.jobs.schemas import (
    FeatureForm,
    ForetoldOut,
    JobAt,
    JobFitOut,
    JobForms,
    JobLimitsIn,
    JobLimitsOut,
    JobLine,
    JobOut,
    JobsOut,
    MachineName,
    MakingOut,
)
from calmsquare.jobs.services import (
    limits_of,
    machines_of,
    mark_of,
    meant_for,
    preview,
    rank,
    shown_of,
    spec_of,
    told_of,
)
from calmsquare.problems import Conflict
from calmsquare.workshop.models import Instrument, Machine, Role
from calmsquare.workshop.people import name_of
from calmsquare.workshop.scope import Scope
from calmsquare.workshop.services import instrument_spec, machine_spec
from truing.jobs import FEATURE_TYPES, Ground, JobFit, fit
from truing.jobs import Job as JobSpec
from truing.jobs.contribute import Demand
from truing.jobs.decides import deciding
from truing.jobs.features import MOST_FEATURES
from truing.jobs.first import fix_first
from truing.jobs.limits import JobLimit
from truing.jobs.made import Foretold, Made, Outcome, compare
from truing.jobs.starts import starting_jobs
from truing.jobs.told import told_feature, told_first, told_limits
from truing.jobs.words import amount, sentence, tolerance_words
from truing.measure.fields import form_schema
from truing.measure.words import capital

Fits = list[tuple[Machine, JobFit]]


def job_forms() -> JobForms:
    """What a job is described with."""
    return JobForms(
        features=[
            FeatureForm(kind=k, title=t.title, says=t.says, form_schema=form_schema(t))
            for k, t in FEATURE_TYPES.items()
        ],
        starts=starting_jobs(),
        most_features=MOST_FEATURES,
    )


def jobs_out(scope: Scope, workshop_id: UUID) -> JobsOut:
    """Every job of a workshop on every machine that it is meant for, in a constant number of
    queries."""
    role = scope.role(workshop_id)
    machines = machines_of(scope, workshop_id)
    here = grounds(machines)
    faults: list[Fault] = []
    lines = each(
        _jobs(scope, workshop_id),
        lambda job: _line(job, _fits(job, machines, here)),
        lambda job: job.name,
        faults,
    )
    return JobsOut(
        workshop_id=workshop_id,
        jobs=[line for line in lines if not line.archived],
        archived=[line for line in lines if line.archived],
        machines=_names(machines),
        can_write=role != Role.VIEWER,
        faults=faults,
    )


def _jobs(scope: Scope, workshop_id: UUID) -> list[Job]:
    counted = Count("makings", filter=Q(makings__taken_back_at=None), distinct=True)
    found = scope.all(Job).filter(workshop=workshop_id).annotate(made=counted)
    return list(found.order_by("created_at", "id").prefetch_related("machines"))


def _fits(job: Job, machines: Sequence[Machine], here: Mapping[UUID, Ground]) -> Fits:
    spec = spec_of(job)
    chosen = [m for m in meant_for(job, machines) if m.pk in here]
    return sorted(((m, fit(spec, here[m.pk])) for m in chosen), key=rank)


def _names(machines: Sequence[Machine]) -> list[MachineName]:
    return [MachineName(id=m.pk, name=m.name) for m in machines]


def _line(job: Job, fits: Fits) -> JobLine:
    spec = spec_of(job)
    return JobLine(
        id=job.pk,
        name=job.name,
        material=spec.material,
        features=len(spec.features),
        at=[_at(job, machine, found) for machine, found in fits],
        made=getattr(job, "made", 0),
        archived=job.archived,
    )


def _at(job: Job, machine: Machine, found: JobFit) -> JobAt:
    return JobAt(
        machine_id=machine.pk,
        machine=machine.name,
        answer=found.answer,
        sentence=sentence(found),
        limits_on=(machine.job_limits or {}).get("job") == str(job.pk),
    )


def job_out(scope: Scope, job_id: UUID, machine_id: UUID | None = None) -> JobOut:
    """One job on all its machines, and whole on one of them."""
    job = scope.get(Job, job_id)
    machines = machines_of(scope, job.workshop_id)
    fits = _fits(job, machines, grounds(machines))
    spec = spec_of(job)
    chosen = next((f for f in fits if f[0].pk == machine_id), fits[0] if fits else None)
    makings = list(job.makings.select_related("machine", "by"))
    job.made = sum(m.taken_back_at is None for m in makings)  # type: ignore[attr-defined]
    return JobOut(
        **_line(job, fits).model_dump(),
        workshop_id=job.workshop_id,
        spec=spec,
        spec_shown=shown_of(job),
        on=[m.pk for m in job.machines.all()],
        machines=_names(machines),
        fit=fit_out(*chosen) if chosen else None,
        makings=[making_out(m) for m in makings],
        can_write=scope.role(job.workshop_id) != Role.VIEWER,
    )


def fit_out(machine: Machine, found: JobFit) -> JobFitOut:
    """A job on one machine, whole."""
    return JobFitOut(
        machine_id=machine.pk,
        answer=found.answer,
        sentence=sentence(found),
        features=[told_feature(f, found.ground) for f in found.features],
        first=told_first(found, fix_first(found)),
        kinds=found.kinds,
    )


def preview_out(
    scope: Scope, workshop_id: UUID, spec: dict[str, object], meant: Sequence[UUID]
) -> JobFitOut | None:
    """A job while it is typed, on that of its machines that it fits best."""
    found = preview(scope, workshop_id, spec, meant)
    return fit_out(*found) if found else None


def limits_out(scope: Scope, job_id: UUID, form: JobLimitsIn) -> JobLimitsOut:
    """The limits for a job on a machine, with what can decide them."""
    machine, found, limits = limits_of(scope, job_id, form)
    instruments = scope.all(Instrument).filter(workshop=machine.workshop_id, archived=False)
    kit = [(i.name, instrument_spec(i.spec)) for i in instruments]
    weights = {(w.kind, w.tolerance): w.weight for w in form.weights}

    def decides(x: JobLimit) -> list[str] | None:
        ask = partial(deciding, machine_spec(machine), kit, kind=x.kind, tolerance=x.tolerance)
        return ask(subject=x.sources[0].subject, limit=x.value)

    told = told_limits(found, limits, decides, weights)
    return JobLimitsOut(
        **told.model_dump(),
        machine_id=machine.pk,
        on=(machine.job_limits or {}).get("job") == str(job_id),
        fits=not limits.beyond and all(not f.outside for f in found.features),
    )


def making_out(making: Making) -> MakingOut:
    """A job that was made, with what came out against what was foretold; one that is damaged says
    so in its line."""
    try:
        told, came = told_of(making)
    except Conflict as damaged:
        name = making.machine.name if making.machine else ""
        told = Made(job=JobSpec(name="?", features=[]), machine=name, answer="unknown", foretold=[])
        came = Outcome(note=damaged.detail)
    return MakingOut(
        id=making.pk,
        at=making.made_at,
        by=name_of(making.by),
        machine=told.machine,
        answer=told.answer,
        demands=[_foretold(f) for f in told.foretold],
        compared=compare(told, came),
        note=came.note,
        mark=mark_of(making),
        taken_back=making.taken_back_at is not None,
    )


def _foretold(f: Foretold) -> ForetoldOut:
    demand = Demand(f.key, f.title, f.tolerance, lambda at: [], f.load)
    return ForetoldOut(
        feature=f.feature,
        key=f.key,
        title=capital(f.title),
        tolerance=tolerance_words(demand),
        most=amount(demand, f.most),
        load=f.load,
    )
