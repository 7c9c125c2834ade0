"""The record: checks, their rounds, readings as typed, moves and notes."""

from __future__ import annotations

import uuid
from typing import ClassVar

from django.conf import settings
from django.db import models

from calmsquare.workshop.models import Instrument, Machine
from truing.machine.subject import THE_MACHINE


class _Written(models.Model):
    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")

    class Meta:
        abstract = True


class _Retractable(_Written):
    """Something logged that can turn out to have been logged wrongly. It stays in the record, and
    stops counting."""

    taken_back_at = models.DateTimeField(null=True)
    taken_back_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+"
    )

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
        constraints = [
            models.UniqueConstraint(
                fields=["machine", "kind"],
                condition=models.Q(closed_at=None),
                name="one_open_check_of_a_kind",
            )
        ]

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
    subject = models.CharField(max_length=200, default=THE_MACHINE.text)
    """What the set-up is about, as truing's `Subject.text`."""
    setup = models.JSONField(null=True)
    instrument = models.ForeignKey(Instrument, models.SET_NULL, null=True)
    instrument_spec = models.JSONField(null=True)
    opened_at = models.DateTimeField()
    settled_at = models.DateTimeField(null=True)
    verdict = models.CharField(max_length=12, blank=True)
    others = models.JSONField(default=dict)
    """Further instruments that readings of it name, by id, as they were then."""
    outcome = models.JSONField(null=True)
    """truing.record.Outcome as last computed: finding, judgement, trends."""
    summary = models.JSONField(null=True)
    """truing.record.Summary of the outcome, for lists and the course."""
    read_at = models.DateTimeField(null=True)
    """When its first reading was taken."""
    lesson = models.JSONField(null=True)
    """truing.record.Lesson: what later rounds about the same subject lean on."""
    advice = models.JSONField(null=True)
    """The advice last asked for, with the id of all that went into it."""
    predicted = models.JSONField(default=list)
    """What the move before this round was to lead to; fixed before it is read."""
    snapshot = models.JSONField(null=True)
    core_version = models.CharField(max_length=20, blank=True)

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(fields=["check_run", "number"], name="one_round_per_number")
        ]
        indexes = [
            models.Index(fields=["-opened_at"]),
            models.Index(
                fields=["check_run", "subject", "-number"], name="logbook_rou_check_r_subject"
            ),
        ]

    def __str__(self) -> str:
        return f"round {self.number} of {self.check_run}"


class Reading(_Written):
    """A reading as typed, beside the length it was read as. Corrected by a newer one that
    supersedes it; never overwritten."""

    WORKSHOP_PATH: ClassVar[str] = "round__check_run__machine__workshop"

    round = models.ForeignKey(Round, models.CASCADE, related_name="readings")
    station = models.CharField(max_length=60)
    reads = models.CharField(max_length=12, default="length")
    """As truing.contract.readings.Reads: a length, a grade, an observation or a log."""
    grade = models.CharField(max_length=20, blank=True)
    note = models.CharField(max_length=500, blank=True)
    """What was seen, for an observation."""
    sent = models.JSONField()
    """Exactly what the browser sent, to tell a repeated send from another reading."""
    text = models.CharField(max_length=60)
    unit = models.CharField(max_length=10)
    shown_mm = models.FloatField(null=True)
    """What was read."""
    x_mm = models.FloatField(null=True)
    y_mm = models.FloatField(null=True)
    """The place where it was taken or happened, where the reading brings its own."""
    instrument_key = models.CharField(max_length=40, blank=True)
    """Id of the instrument, where that is not the round's own; how it was stands in `others`."""
    columns = models.JSONField(null=True)
    """The points of a log, by column."""
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


class Move(_Retractable):
    """What was done after a round."""

    WORKSHOP_PATH: ClassVar[str] = "round__check_run__machine__workshop"

    round = models.OneToOneField(Round, models.CASCADE, related_name="move")
    advised = models.JSONField(null=True)
    """The move as advised; None for something else, which `said` tells."""
    made = models.JSONField(null=True)
    """truing.contract.history.MoveMade, for later rounds to learn from."""
    said = models.CharField(max_length=500, blank=True)
    needle = models.JSONField(default=list)
    """Readings while it was made: schemas.NeedleIn of each, as typed."""
    made_at = models.DateTimeField()
    truth_before = models.JSONField(null=True)
    """A stand-in's truth before the move, to go back to when it is taken back."""

    def __str__(self) -> str:
        return self.said or "move"


class Note(_Retractable):
    """A remark somebody wrote beside a round."""

    WORKSHOP_PATH: ClassVar[str] = "round__check_run__machine__workshop"

    round = models.ForeignKey(Round, models.CASCADE, related_name="notes")
    text = models.TextField(max_length=2000)
    written_at = models.DateTimeField()

    class Meta:
        ordering = ["written_at", "id"]

    def __str__(self) -> str:
        return self.text[:40]


class _OfMachine(_Retractable):
    """A record with a time that belongs to a machine rather than to a round."""

    WORKSHOP_PATH: ClassVar[str] = "machine__workshop"

    machine = models.ForeignKey(Machine, models.CASCADE, related_name="%(class)ss")
    at = models.DateTimeField()

    class Meta:
        abstract = True


class Event(_OfMachine):
    """Something that happened to a machine: moved, crashed, a part replaced, a season, hours."""

    kind = models.CharField(max_length=12)
    said = models.CharField(max_length=500, blank=True)
    mechanisms = models.JSONField(default=list)
    """What it touched, as truing.machine.mechanisms names them."""
    hours = models.FloatField(null=True)
    degrees = models.FloatField(null=True)
    """How far the head was tilted."""
    gate = models.JSONField(null=True)
    """For a step that cannot be undone: truing.course.gates.Gate as it stood then."""

    class Meta:
        indexes = [models.Index(fields=["machine", "-at"])]

    def __str__(self) -> str:
        return self.said or self.kind


class Decision(_OfMachine):
    """A check left as it is, with the reason and the figures of that moment."""

    kind = models.CharField(max_length=40)
    reason = models.CharField(max_length=500)
    figures = models.JSONField(default=list)
    """LogValue of each quantity then."""

    class Meta:
        indexes = [models.Index(fields=["machine", "-at"])]

    def __str__(self) -> str:
        return f"{self.kind} left: {self.reason}"


class Acceptance(_OfMachine):
    """The machine accepted for work; provisional while it has open items."""

    note = models.CharField(max_length=500, blank=True)
    open_items = models.JSONField(default=list)
    """truing.course.gates.OpenItem of each thing that was not true then."""
    jobs = models.JSONField(default=list)
    """JobThen of each job of the workshop: whether it was good enough for it."""

    class Meta:
        indexes = [models.Index(fields=["machine", "-at"])]

    def __str__(self) -> str:
        return f"{self.machine} accepted"


class Photo(_OfMachine):
    """A photo of a machine, or of what a round or an event was about."""

    round = models.ForeignKey(Round, models.SET_NULL, null=True, related_name="photos")
    event = models.ForeignKey(Event, models.SET_NULL, null=True, related_name="photos")
    caption = models.CharField(max_length=200, blank=True)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()

    class Meta:
        indexes = [models.Index(fields=["machine", "-at"])]

    def __str__(self) -> str:
        return self.caption or "photo"


class PhotoFile(models.Model):
    """The pictures themselves, apart from the record so that lists stay light."""

    photo = models.OneToOneField(Photo, models.CASCADE, primary_key=True, related_name="file")
    large = models.BinaryField()
    small = models.BinaryField()

    def __str__(self) -> str:
        return str(self.photo)
