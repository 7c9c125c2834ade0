"""What people share: workshops, their members, machines, instruments and shim stock."""

from __future__ import annotations

import uuid
from typing import ClassVar

from django.conf import settings
from django.db import models


class Workshop(models.Model):
    """A shed: everything below belongs to exactly one."""

    WORKSHOP_PATH: ClassVar[str] = ""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=80)
    time_zone = models.CharField(max_length=64, default="UTC")
    is_demo = models.BooleanField(default=False)
    is_pattern = models.BooleanField(default=False)
    """The demo that each visitor's own is copied from; nobody works in it."""
    pattern_version = models.CharField(max_length=20, blank=True)
    """The version of the core that built it."""
    calendar_key = models.CharField(max_length=43, unique=True, null=True, blank=True)
    """Made when somebody asks for it; whoever has it can read when checks fall due, no more."""
    created_at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return self.name


class Role(models.TextChoices):
    """What a member may do; each may do all that stands below it."""

    OWNER = "owner", "Owner"
    MAKER = "maker", "Maker"
    VIEWER = "viewer", "Viewer"


class Membership(models.Model):
    """A person in a workshop."""

    WORKSHOP_PATH: ClassVar[str] = "workshop"

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="memberships")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=8, choices=Role.choices)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workshop", "user"], name="one_membership_each")
        ]

    def __str__(self) -> str:
        return f"{self.user} is {self.role}"


class Invitation(models.Model):
    """A link that lets one person in, who need not be known here yet."""

    WORKSHOP_PATH: ClassVar[str] = "workshop"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="invitations")
    role = models.CharField(max_length=8, choices=Role.choices)
    whom = models.CharField(max_length=80, blank=True)
    """Whom it is meant for, as a note to those who sent it."""
    hashed = models.CharField(max_length=64, unique=True)
    """SHA-256 of the secret that the link carries: who reads the database cannot join by it."""
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="+")
    made_at = models.DateTimeField()
    until = models.DateTimeField()
    taken_up_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+"
    )
    taken_up_at = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return f"{self.role} for {self.whom or 'somebody'}"


class _Owned(models.Model):
    WORKSHOP_PATH: ClassVar[str] = "workshop"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="%(class)ss")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        abstract = True


class Machine(_Owned):
    """A machine; `spec` is a truing.machine.Machine, `truth` a stand-in's secret or None."""

    name = models.CharField(max_length=60)
    spec = models.JSONField()
    tolerances = models.JSONField(default=dict)
    """Limits the owner changed: kind of check -> tolerance key -> mm/m."""
    intervals = models.JSONField(default=dict)
    """Days between looks that the owner set: kind of check -> days, 0 for never."""
    job_limits = models.JSONField(null=True)
    """Limits for a job that hold for now, over the owner's: {job, name, limits: kind of check ->
    tolerance key -> value}; None for none."""
    truth = models.JSONField(null=True)
    archived = models.BooleanField(default=False)

    class Meta:
        ordering = ["created_at", "id"]

    def __str__(self) -> str:
        return self.name


class Instrument(_Owned):
    """An instrument; `spec` is a truing.instruments.Instrument."""

    name = models.CharField(max_length=60)
    spec = models.JSONField()
    archived = models.BooleanField(default=False)

    class Meta:
        ordering = ["created_at", "id"]

    def __str__(self) -> str:
        return self.name


class Piece(_Owned):
    """A holder, collet, tool, square or cylinder; `spec` is a truing.tooling.Piece."""

    name = models.CharField(max_length=60)
    spec = models.JSONField()
    archived = models.BooleanField(default=False)

    class Meta:
        ordering = ["created_at", "id"]

    def __str__(self) -> str:
        return self.name


class ShimStock(_Owned):
    """Pieces of one thickness in the tin."""

    thickness_mm = models.FloatField()
    count = models.PositiveIntegerField()
    tolerance_mm = models.FloatField(default=0.003)
    material = models.CharField(max_length=40, blank=True)

    class Meta:
        ordering = ["thickness_mm", "id"]

    def __str__(self) -> str:
        return f"{self.count} × {self.thickness_mm} mm"


class Wanted(models.Model):
    """Something to be bought, with why and for what; ticked off once it is there."""

    WORKSHOP_PATH: ClassVar[str] = "workshop"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="wanted")
    machine = models.ForeignKey(Machine, models.SET_NULL, null=True, related_name="+")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    what = models.CharField(max_length=120)
    why = models.CharField(max_length=400, blank=True)
    sort = models.CharField(max_length=12, default="other")
    types = models.JSONField(default=list)
    """Types of instrument that would do."""
    made_at = models.DateTimeField()
    got_at = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return self.what
