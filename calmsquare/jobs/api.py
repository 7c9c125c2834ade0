"""Routes of jobs."""

from __future__ import annotations

from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Router, Status

from calmsquare.jobs import out, services
from calmsquare.jobs.models import Job, Making
from calmsquare.jobs.schemas import (
    CameOutIn,
    CopyIn,
    JobChange,
    JobFitOut,
    JobForms,
    JobLimitsIn,
    JobLimitsOut,
    JobOut,
    JobPreviewIn,
    JobsOut,
    MakingIn,
    MakingOut,
    NewJobIn,
)
from calmsquare.logbook.schemas import TakenBackIn
from calmsquare.problems import answers
from calmsquare.workshop.schemas import ArchivedIn
from calmsquare.workshop.scope import Scope

router = Router(tags=["jobs"])


@router.get("/job-forms", response=answers(JobForms))
def read_job_forms(request: HttpRequest) -> JobForms:
    """Kinds of feature with their forms, and jobs to begin with."""
    return out.job_forms()


@router.get("/workshops/{uuid:workshop_id}/jobs", response=answers(JobsOut))
def read_jobs(request: HttpRequest, workshop_id: UUID) -> JobsOut:
    """Every job on every machine that it is meant for."""
    return out.jobs_out(Scope(request.user), workshop_id)


@router.post("/workshops/{uuid:workshop_id}/jobs", response=answers(JobOut))
def new_job(request: HttpRequest, workshop_id: UUID, form: NewJobIn) -> JobOut:
    """A new job, also one that was exported."""
    scope = Scope(request.user)
    return out.job_out(scope, services.make_job(scope, workshop_id, form).pk)


@router.post("/workshops/{uuid:workshop_id}/jobs/preview", response=answers(JobFitOut | None))
def preview_job(request: HttpRequest, workshop_id: UUID, form: JobPreviewIn) -> JobFitOut | None:
    """A job while it is typed; nothing is kept."""
    return out.preview_out(Scope(request.user), workshop_id, form.spec, form.machines)


@router.get("/jobs/{uuid:job_id}", response=answers(JobOut))
def read_job(request: HttpRequest, job_id: UUID, machine: UUID | None = None) -> JobOut:
    """One job, whole, on a machine."""
    return out.job_out(Scope(request.user), job_id, machine)


@router.put("/jobs/{uuid:job_id}", response=answers(JobOut))
def change_job(request: HttpRequest, job_id: UUID, form: JobChange) -> JobOut:
    """Another name, other features or machines."""
    scope = Scope(request.user)
    return out.job_out(scope, services.change_job(scope, job_id, form).pk)


@router.post("/jobs/{uuid:job_id}/copy", response=answers(JobOut))
def copy_job(request: HttpRequest, job_id: UUID, form: CopyIn) -> JobOut:
    """The same again, to be changed."""
    scope = Scope(request.user)
    return out.job_out(scope, services.copy_job(scope, job_id, form.id).pk)


@router.post("/jobs/{uuid:job_id}/archive", response=answers(JobOut))
def archive_job(request: HttpRequest, job_id: UUID, form: ArchivedIn) -> JobOut:
    """Put it away, or take it out again."""
    scope = Scope(request.user)
    return out.job_out(scope, services.put_away(scope, job_id, form.archived).pk)


@router.get("/jobs/{uuid:job_id}/export", include_in_schema=False)
def export_job(request: HttpRequest, job_id: UUID) -> HttpResponse:
    """The job as JSON, to be kept or read in again."""
    spec = services.spec_of(Scope(request.user).get(Job, job_id))
    answer = HttpResponse(spec.model_dump_json(indent=2), content_type="application/json")
    answer["Content-Disposition"] = 'attachment; filename="job.json"'
    return answer


@router.post("/jobs/{uuid:job_id}/limits", response=answers(JobLimitsOut))
def read_limits(request: HttpRequest, job_id: UUID, form: JobLimitsIn) -> JobLimitsOut:
    """What each check of a machine has to come to for the job."""
    return out.limits_out(Scope(request.user), job_id, form)


@router.post("/jobs/{uuid:job_id}/limits/apply", response=answers(JobLimitsOut))
def apply_limits(request: HttpRequest, job_id: UUID, form: JobLimitsIn) -> JobLimitsOut:
    """Judge the machine by them from now on."""
    scope = Scope(request.user)
    services.apply_limits(scope, job_id, form)
    return out.limits_out(scope, job_id, form)


@router.delete("/machines/{uuid:machine_id}/job-limits", response=answers(None))
def take_limits_back(request: HttpRequest, machine_id: UUID) -> Status[None]:
    """The owner's limits hold again."""
    services.take_limits_back(Scope(request.user), machine_id)
    return Status(204, None)


@router.post("/jobs/{uuid:job_id}/makings", response=answers(MakingOut))
def start_making(request: HttpRequest, job_id: UUID, form: MakingIn) -> MakingOut:
    """It is made now: what is foretold today is kept."""
    scope = Scope(request.user)
    return out.making_out(services.start_making(scope, job_id, form))


@router.put("/makings/{uuid:making_id}", response=answers(MakingOut))
def measured(request: HttpRequest, making_id: UUID, form: CameOutIn) -> MakingOut:
    """What was measured on the part."""
    scope = Scope(request.user)
    return out.making_out(services.measured(scope, making_id, form))


@router.get("/makings/{uuid:making_id}", response=answers(MakingOut))
def read_making(request: HttpRequest, making_id: UUID) -> MakingOut:
    """One that was made."""
    return out.making_out(Scope(request.user).get(Making, making_id))


@router.post("/makings/{uuid:making_id}/taken-back", response=answers(MakingOut))
def take_back(request: HttpRequest, making_id: UUID, form: TakenBackIn) -> MakingOut:
    """It was not made after all; or it was."""
    scope = Scope(request.user)
    return out.making_out(services.take_back(scope, making_id, form.taken_back))
