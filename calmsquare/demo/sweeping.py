"""Sheds of passers-by go: after a day, and earlier where they take more room than there is."""

from __future__ import annotations

from collections import Counter
from datetime import timedelta
from functools import reduce
from operator import add
from uuid import UUID

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import BigIntegerField, Func, QuerySet, Sum, Value
from django.db.models.functions import Coalesce
from django.utils import timezone

from calmsquare.demo.copying import COPIED, delete, path_of
from calmsquare.workshop.models import Workshop
from calmsquare.workshop.room import DEMO_BYTES

ADDRESS = "@saltmarsh.invalid"
VISITOR = "visitor-"
KEPT = timedelta(days=1)
"""A visitor's shed is swept up after that."""
MOST_BYTES = 2_000_000_000
"""Of all sheds of visitors together."""
ROW_BYTES = 80
"""What a row takes beside its columns: its head, and its place in the indexes."""


class _Size(Func):
    """What a column takes on the disk, as it lies there."""

    function = "pg_column_size"
    output_field = BigIntegerField()


def weights(sheds: QuerySet[Workshop]) -> Counter[UUID]:
    """Bytes that each of these sheds takes in the database, all its tables together."""
    found: Counter[UUID] = Counter(dict.fromkeys(sheds.values_list("pk", flat=True), 0))
    for model in COPIED:
        path = path_of(model)
        columns = [Coalesce(_Size(f.attname), 0) for f in model._meta.concrete_fields]
        row = reduce(add, columns, Value(ROW_BYTES))
        rows = model._default_manager.filter(**{f"{path}__in": sheds}).order_by()
        found.update(dict(rows.values_list(path).annotate(bytes=Sum(row))))
    return found


def visitors() -> QuerySet[User]:
    """Everybody who opened the demo and is not swept up yet."""
    return User.objects.filter(username__startswith=VISITOR, username__endswith=ADDRESS)


@transaction.atomic
def sweep(most: int = 20) -> int:
    """Take away visitors of more than a day ago and their sheds, a few at a time; how many."""
    gone = visitors().filter(date_joined__lt=timezone.now() - KEPT)
    return _sweep_up(list(gone.select_for_update(skip_locked=True).order_by("pk")[:most]))


@transaction.atomic
def make_room() -> int:
    """Take away as many sheds as are too many for the room that there is: the overfull, then the
    oldest; how many."""
    sheds = Workshop.objects.filter(is_demo=True, is_pattern=False).order_by("created_at", "pk")
    weighed = weights(sheds.order_by())
    over = weighed.total() - MOST_BYTES
    going = []
    oldest_first = list(sheds.values_list("pk", flat=True)) if over > 0 else []
    for pk in sorted(oldest_first, key=lambda pk: weighed[pk] <= DEMO_BYTES):
        if over <= 0:
            break
        over -= weighed[pk]
        going.append(pk)
    gone = visitors().filter(memberships__workshop__in=going).values("pk")
    return _sweep_up(list(visitors().filter(pk__in=gone).select_for_update(skip_locked=True)))


def _sweep_up(them: list[User]) -> int:
    delete(list(Workshop.objects.filter(is_demo=True, memberships__user__in=them)))
    User.objects.filter(pk__in=[v.pk for v in them]).delete()
    return len(them)
