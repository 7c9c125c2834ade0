"""Plans for a board and the programs that were made of them; programs of others, to be checked."""

from __future__ import annotations

import uuid
from collections.abc import Iterable, Iterator
from typing import ClassVar

from django.conf import settings
from django.db import models

from calmsquare.workshop.models import Machine


class _OfMachine(models.Model):
    WORKSHOP_PATH: ClassVar[str] = "machine__workshop"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField()

    class Meta:
        abstract = True


class SurfacingPlan(_OfMachine):
    """A plan that was kept, with its program as it was written."""

    machine = models.ForeignKey(Machine, models.CASCADE, related_name="surfacing_plans")
    wish = models.JSONField()
    plan = models.JSONField()
    """truing.surfacing.plan.Surfacing, without its programs."""
    program = models.TextField()
    air_program = models.TextField()
    file_name = models.CharField(max_length=120)
    removed_mm = models.FloatField()
    done_at = models.DateTimeField(null=True)
    """When the board was surfaced by it."""
    done = models.JSONField(null=True)
    """truing.surfacing.done.Done: what was seen and measured afterwards."""

    class Meta:
        ordering = ["-made_at", "id"]

    def __str__(self) -> str:
        return self.file_name


class Program(_OfMachine):
    """A program that somebody wants to have checked. Its bytes stay as they came, piece by piece
    beside it."""

    machine = models.ForeignKey(Machine, models.CASCADE, related_name="programs")
    name = models.CharField(max_length=120)
    size = models.PositiveIntegerField()
    stated = models.JSONField()
    """truing.surfacing.foreign.Stated: cutter, origin and zero it is checked for."""
    ground = models.JSONField()
    """truing.programs.ground.Ground made of it when the check was asked for."""

    class State(models.TextChoices):
        """Where its check stands."""

        WAITING = "waiting", "Waiting"
        RUNNING = "running", "Running"
        DONE = "done", "Done"
        STOPPED = "stopped", "Stopped"
        FAILED = "failed", "Failed"

    state = models.CharField(max_length=8, choices=State.choices, default=State.WAITING)
    share = models.FloatField(default=0)
    """Of the check that is done, 0 to 1."""
    stop = models.BooleanField(default=False)
    tries = models.PositiveIntegerField(default=0)
    beat_at = models.DateTimeField(null=True)
    """When a worker last said that it is at it."""
    reason = models.TextField(blank=True)
    """Why it failed, in words for its owner."""
    report = models.JSONField(null=True)
    picture = models.JSONField(null=True)
    """truing.programs.picture.Picture."""

    class Meta:
        ordering = ["-made_at", "id"]

    def __str__(self) -> str:
        return self.name

    def keep(self, data: Iterable[bytes]) -> None:
        """Its bytes, in pieces that no process has to hold all of."""
        for number, piece in enumerate(data):
            ProgramPiece.objects.create(program=self, number=number, data=piece)

    def pieces(self) -> Iterator[bytes]:
        """And as they were kept, one after the other."""
        for id in list(self.kept.values_list("pk", flat=True)):
            yield bytes(ProgramPiece.objects.values_list("data", flat=True).get(pk=id))


PIECE_BYTES = 4 * 1024 * 1024


class ProgramPiece(models.Model):
    """Some of a program's bytes."""

    WORKSHOP_PATH: ClassVar[str] = "program__machine__workshop"

    program = models.ForeignKey(Program, models.CASCADE, related_name="kept")
    number = models.PositiveIntegerField()
    data = models.BinaryField()

    class Meta:
        ordering = ["program", "number"]
        constraints = [models.UniqueConstraint("program", "number", name="one_piece_of_a_number")]

    def __str__(self) -> str:
        return f"{self.program_id} {self.number}"
