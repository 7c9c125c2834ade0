"""An evening at a machine: planned, started, ticked through, stopped and gone on with."""

from __future__ import annotations

import uuid
from typing import ClassVar

from django.conf import settings
from django.db import models

from calmsquare.jobs.models import Job
from calmsquare.workshop.models import Machine


class Evening(models.Model):
    """A plan that was started. Time counts while it runs; stopped, it waits for another day."""

    WORKSHOP_PATH: ClassVar[str] = "machine__workshop"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    machine = models.ForeignKey(Machine, models.CASCADE, related_name="evenings")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    minutes = models.PositiveIntegerField()
    """Time there is, in all."""
    aim = models.CharField(max_length=12, default="true")
    job = models.ForeignKey(Job, models.SET_NULL, null=True, related_name="+")
    """What it is for, where the aim is a job."""
    symptom = models.CharField(max_length=20, default="")
    """What it is looking for the cause of, where that is the aim."""
    skip = models.JSONField(default=list)
    """Kinds left out by choice."""
    order = models.JSONField(default=list)
    """Kinds as last planned, to tell what a result changed."""
    ticked = models.JSONField(default=list)
    """What was laid out and ticked off, by its own words."""
    spent_minutes = models.FloatField(default=0)
    """Time used before it was last started."""
    started_at = models.DateTimeField()
    running_since = models.DateTimeField(null=True)
    ended_at = models.DateTimeField(null=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["machine"],
                condition=models.Q(ended_at=None),
                name="one_evening_under_way",
            )
        ]

    def __str__(self) -> str:
        return f"{self.minutes} min at {self.machine}"
