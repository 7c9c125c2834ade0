"""Jobs: what is to be made, on which machines, and what came of it."""

from __future__ import annotations

import uuid
from typing import ClassVar

from django.conf import settings
from django.db import models

from calmsquare.workshop.models import Machine, Workshop


class Job(models.Model):
    """Something to be made; `spec` is a truing.jobs.Job."""

    WORKSHOP_PATH: ClassVar[str] = "workshop"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="jobs")
    name = models.CharField(max_length=60)
    spec = models.JSONField()
    archived = models.BooleanField(default=False)
    created_at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    machines = models.ManyToManyField(Machine, through="JobOn", related_name="jobs")
    """Those it may be made on; none for any of the workshop."""

    class Meta:
        ordering = ["created_at", "id"]

    def __str__(self) -> str:
        return self.name


class JobOn(models.Model):
    """A machine that a job is meant for."""

    WORKSHOP_PATH: ClassVar[str] = "job__workshop"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    job = models.ForeignKey(Job, models.CASCADE)
    machine = models.ForeignKey(Machine, models.CASCADE)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["job", "machine"], name="a_job_once_on_each_machine")
        ]

    def __str__(self) -> str:
        return f"{self.job} on {self.machine}"


class Making(models.Model):
    """A job that was made, with what was foretold of it then and what came out."""

    WORKSHOP_PATH: ClassVar[str] = "job__workshop"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    job = models.ForeignKey(Job, models.CASCADE, related_name="makings")
    machine = models.ForeignKey(Machine, models.SET_NULL, null=True, related_name="makings")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField()
    snapshot = models.JSONField()
    """truing.jobs.made.Made: the job, and all that was foretold."""
    came_out = models.JSONField(null=True)
    """truing.jobs.made.Outcome: what was measured on the part."""
    taken_back_at = models.DateTimeField(null=True)
    taken_back_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+"
    )

    class Meta:
        ordering = ["-made_at", "id"]
        indexes = [models.Index(fields=["job", "-made_at"])]

    def __str__(self) -> str:
        return f"{self.job} made"
