"""A workshop with everything in it, copied by the database: one statement for each table.

Every id of the copy is made from the old one and the copy's own salt, so that what refers to what
needs no table to look it up in; times are moved on together.
"""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from datetime import timedelta
from typing import Any

from django.db import connection, models

from calmsquare.jobs.models import Job, JobOn, Making
from calmsquare.logbook.models import (
    Acceptance,
    Check,
    Decision,
    Event,
    Move,
    Note,
    Photo,
    PhotoFile,
    Reading,
    Round,
)
from calmsquare.planning.models import Evening
from calmsquare.surfacing.models import Program, ProgramPiece, SurfacingPlan
from calmsquare.workshop.models import (
    Instrument,
    Invitation,
    Machine,
    Membership,
    Piece,
    ShimStock,
    Wanted,
    Workshop,
)

COPIED: tuple[type[models.Model], ...] = (
    Workshop,
    Membership,
    Invitation,
    Instrument,
    Piece,
    ShimStock,
    Machine,
    Wanted,
    Check,
    Round,
    Reading,
    Move,
    Note,
    Event,
    Decision,
    Acceptance,
    Photo,
    PhotoFile,
    Job,
    JobOn,
    Making,
    Evening,
    SurfacingPlan,
    Program,
    ProgramPiece,
)
"""Everything that belongs to a workshop, each after what it refers to."""


def copy(pattern: Workshop, shift: timedelta) -> Workshop:
    """A workshop like this one with everything in it, all its times later by `shift`."""
    salt = uuid.uuid4().hex
    # ids of the kit also stand inside of what is kept as JSON
    kit = (pattern.instruments, pattern.pieces)
    named = [str(i) for some in kit for i in some.values_list("pk", flat=True)]
    with connection.cursor() as cursor:
        for model in COPIED:
            _copy_table(cursor, model, pattern, salt, shift, named)
        cursor.execute("SELECT md5(%s || %s)::uuid", [str(pattern.pk), salt])
        (id,) = cursor.fetchone()
    return Workshop.objects.get(pk=id)


def _copy_table(
    cursor: Any,
    model: type[models.Model],
    pattern: Workshop,
    salt: str,
    shift: timedelta,
    named: Sequence[str],
) -> None:
    names, values, params = [], [], []
    for field in model._meta.concrete_fields:
        if isinstance(field, models.AutoField):
            continue
        column = f'"{field.column}"'
        value, given = _value(field, f"t.{column}", salt, shift, named)
        names.append(column)
        values.append(value)
        params += given
    found = model._default_manager.filter(**{path_of(model): pattern.pk}).order_by()
    ids, id_params = found.values("pk").query.sql_with_params()
    pk = f'"{model._meta.pk.column}"'
    cursor.execute(
        f'INSERT INTO "{model._meta.db_table}" ({", ".join(names)}) '
        f'SELECT {", ".join(values)} FROM "{model._meta.db_table}" t WHERE t.{pk} IN ({ids})',
        [*params, *id_params],
    )


def path_of(model: type[models.Model]) -> str:
    """The way from a record to its workshop, as a query names it."""
    if model is PhotoFile:
        return "photo__machine__workshop"
    return str(getattr(model, "WORKSHOP_PATH", "")) or "pk"


def _value(
    field: models.Field[Any, Any], column: str, salt: str, shift: timedelta, named: Sequence[str]
) -> tuple[str, list[Any]]:
    """(SQL, parameters) of a column's value in the copy."""
    to = field.related_model
    refers = isinstance(field, models.ForeignKey) and to in COPIED
    if refers or isinstance(field, models.UUIDField):
        return f"md5({column}::text || %s)::uuid", [salt]
    if isinstance(field, models.DateTimeField):
        return f"{column} + %s", [shift]
    if field.name in _NAMES_KIT:
        text, params = f"{column}::text", []
        for id in named:
            text = f"replace({text}, %s, md5(%s || %s)::uuid::text)"
            params.append([id, id, salt])
        kind = "jsonb" if isinstance(field, models.JSONField) else "text"
        return f"({text})::{kind}", [p for three in params for p in three]
    if field.name in ("is_pattern", "calendar_key"):
        return ("false" if field.name == "is_pattern" else "NULL"), []
    return column, []


_NAMES_KIT = frozenset(
    {
        *("setup", "subject", "lesson", "snapshot", "others"),
        *("outcome", "advice", "advised", "made", "truth", "truth_before"),
    }
)


def delete(workshops: Sequence[Workshop]) -> None:
    """These workshops and everything in them, table by table."""
    ids = [w.pk for w in workshops]
    if not ids:
        return
    for model in reversed(COPIED):
        found = model._default_manager.filter(**{f"{path_of(model)}__in": ids})
        found._raw_delete(found.db)
