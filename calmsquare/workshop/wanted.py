"""What is to be bought: what checks, advice and jobs lacked, in one list, with why and for what."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Literal
from uuid import UUID

from django.db import transaction
from django.db.models import F, Q
from django.utils import timezone
from pydantic import BaseModel, Field

from calmsquare.problems import Conflict, FieldError, Invalid
from calmsquare.workshop.models import Machine, Role, Wanted, Workshop
from calmsquare.workshop.people import name_of
from calmsquare.workshop.scope import Scope
from truing.kit.instruments import INSTRUMENT_TITLES

MOST_WANTED = 200
"""On one list; nobody reads more."""
GOT_STAYS = timedelta(days=30)
"""How long what was bought stays on the list, so that a slip can be taken back."""
Sort = Literal["instrument", "shim", "other"]


class WantedIn(BaseModel):
    """Something to be bought; `id` is made by the browser."""

    id: UUID
    what: str = Field(min_length=1, max_length=120)
    why: str = Field("", max_length=400)
    sort: Sort = "other"
    types: list[str] = Field(default_factory=list, max_length=12)
    """Types of instrument that would do."""
    machine_id: UUID | None = None
    """What it is for."""


class GotIn(BaseModel):
    """It was bought, or not after all."""

    got: bool


class WantedOut(BaseModel):
    """Something on the list."""

    id: UUID
    what: str
    why: str
    sort: Sort
    types: list[str]
    machine: str | None
    by: str
    made_at: datetime
    got_at: datetime | None


def wanted_of(scope: Scope, workshop_id: UUID) -> list[WantedOut]:
    """The list of a workshop: what is wanted, oldest first, then what was bought lately."""
    scope.role(workshop_id)
    found = scope.all(Wanted).filter(workshop_id=workshop_id).select_related("machine", "by")
    shown = Q(got_at=None) | Q(got_at__gte=timezone.now() - GOT_STAYS)
    rows = found.filter(shown).order_by(F("got_at").desc(nulls_first=True), "made_at")
    return [_out(w) for w in rows[: 2 * MOST_WANTED]]


def _out(wanted: Wanted) -> WantedOut:
    return WantedOut(
        id=wanted.pk,
        what=wanted.what,
        why=wanted.why,
        sort=wanted.sort,
        types=wanted.types,
        machine=wanted.machine.name if wanted.machine else None,
        by=name_of(wanted.by),
        made_at=wanted.made_at,
        got_at=wanted.got_at,
    )


@transaction.atomic
def want(scope: Scope, workshop_id: UUID, form: WantedIn) -> list[WantedOut]:
    """Put something on the list; what stands there already, for the same reason, stays once.
    Invalid for a machine of another workshop or a type that there is not; Conflict for a full list
    or an id that is somebody else's."""
    workshop = scope.get(Workshop, workshop_id, need=Role.MAKER, for_update=True)
    machine = scope.get(Machine, form.machine_id) if form.machine_id else None
    if machine is not None and machine.workshop_id != workshop.pk:
        raise Invalid([FieldError(field="machine_id", message="It is in another workshop.")])
    if unknown := [t for t in form.types if t not in INSTRUMENT_TITLES]:
        raise Invalid(
            [FieldError(field="types", message=f"There is no instrument “{unknown[0]}”.")]
        )
    open_ = scope.all(Wanted).filter(workshop=workshop, got_at=None)
    same = open_.filter(what=form.what.strip(), why=form.why.strip(), machine=machine).exists()
    if not same and not open_.filter(pk=form.id).exists():
        if Wanted.objects.filter(pk=form.id).exists():
            raise Conflict("Another record has this id.", code="duplicate")
        if open_.count() >= MOST_WANTED:
            raise Conflict("The list is full. Tick off what you have, or take it off.", code="full")
        Wanted.objects.create(
            id=form.id,
            workshop=workshop,
            machine=machine,
            by=scope.user,
            what=form.what.strip(),
            why=form.why.strip(),
            sort=form.sort,
            types=form.types,
            made_at=timezone.now(),
        )
    return wanted_of(scope, workshop_id)


def got(scope: Scope, wanted_id: UUID, form: GotIn) -> list[WantedOut]:
    """It was bought, or not after all."""
    wanted = scope.get(Wanted, wanted_id, need=Role.MAKER)
    wanted.got_at = timezone.now() if form.got else None
    wanted.save(update_fields=["got_at"])
    return wanted_of(scope, wanted.workshop_id)


def take_off(scope: Scope, wanted_id: UUID) -> list[WantedOut]:
    """It is not wanted any more."""
    wanted = scope.get(Wanted, wanted_id, need=Role.MAKER)
    wanted.delete()
    return wanted_of(scope, wanted.workshop_id)
