"""The record: checks, their rounds, readings as typed, moves and notes."""

from __future__ import annotations

import uuid
from typing import ClassVar

from django.conf import settings
from django.db import models

from calmsquare.workshop.models import Instrument, Machine


class _Written(models.Model):
    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")

    class Meta:
        abstract = True


class Check(_Written):
    """One sitting of one kind of check on a machine."""

    WORKSHOP_PATH: ClassVar[str] = "machine__workshop"

    machine = models.ForeignKey(Machine, models.CASCADE, related_name="checks")
    kind = models.CharField(max_length=40)
    opened_at = models.DateTimeField()
    closed_at = models.DateTimeField(null=True)

    class Meta:
        indexes = [models.Index(fields=["machine", "kind", "-opened_at"])]

    def __str__(self) -> str:
        return f"{self.kind} on {self.machine}"


class Round(_Written):
    """One round of readings. While it is open its finding follows the readings; settled, it and
    everything that went in (`snapshot`) stay as they were judged."""

    WORKSHOP_PATH: ClassVar[str] = "check_run__machine__workshop"

    check_run = models.ForeignKey(Check, models.CASCADE, related_name="rounds")
    number = models.PositiveIntegerField()
    version = models.PositiveIntegerField(default=1)
    """Counts changes of the set-up, so that an old page cannot write over a newer one."""
    setup = models.JSONField(null=True)
    instrument = models.ForeignKey(Instrument, models.SET_NULL, null=True)
    instrument_spec = models.JSONField(null=True)
    opened_at = models.DateTimeField()
    settled_at = models.DateTimeField(null=True)
    verdict = models.CharField(max_length=12, blank=True)
    outcome = models.JSONField(null=True)
    """Finding, judgement, advice, trends as last computed."""
    predicted = models.JSONField(default=list)
    """What the move before this round was to lead to; fixed before it is read."""
    snapshot = models.JSONField(null=True)
    core_version = models.CharField(max_length=20, blank=True)

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(fields=["check_run", "number"], name="one_round_per_number")
        ]
        indexes = [models.Index(fields=["-opened_at"])]

    def __str__(self) -> str:
        return f"round {self.number} of {self.check_run}"


class Reading(_Written):
    """A reading as typed, beside the length it was read as. Corrected by a newer one that
    supersedes it; never overwritten."""

    WORKSHOP_PATH: ClassVar[str] = "round__check_run__machine__workshop"

    round = models.ForeignKey(Round, models.CASCADE, related_name="readings")
    station = models.CharField(max_length=60)
    sent = models.JSONField()
    """Exactly what the browser sent, to tell a repeated send from another reading."""
    text = models.CharField(max_length=60)
    unit = models.CharField(max_length=10)
    shown_mm = models.FloatField()
    zeroed_on = models.UUIDField(null=True)
    supersedes = models.OneToOneField(
        "self", models.RESTRICT, null=True, related_name="superseded_by"
    )
    withdrawn = models.BooleanField(default=False)
    """A correction that says the reading should not count at all."""
    read_at = models.DateTimeField()
    received_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["read_at", "received_at", "id"]

    def __str__(self) -> str:
        return f"{self.station}: {self.text}"


class Move(_Written):
    """What was done after a round."""

    WORKSHOP_PATH: ClassVar[str] = "round__check_run__machine__workshop"

    round = models.OneToOneField(Round, models.CASCADE, related_name="move")
    advised = models.JSONField(null=True)
    """The move as advised; None for something else, which `said` tells."""
    made = models.JSONField(null=True)
    """truing.check.MoveMade, for later rounds to learn from."""
    said = models.CharField(max_length=500, blank=True)
    nipped = models.CharField(max_length=60, blank=True)
    tight = models.CharField(max_length=60, blank=True)
    made_at = models.DateTimeField()

    def __str__(self) -> str:
        return self.said or "move"


class Note(_Written):
    """A remark somebody wrote beside a round."""

    WORKSHOP_PATH: ClassVar[str] = "round__check_run__machine__workshop"

    round = models.ForeignKey(Round, models.CASCADE, related_name="notes")
    text = models.TextField(max_length=2000)
    written_at = models.DateTimeField()

    class Meta:
        ordering = ["written_at", "id"]

    def __str__(self) -> str:
        return self.text[:40]
