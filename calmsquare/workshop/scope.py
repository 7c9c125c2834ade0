"""The one place that decides what somebody can see and change.

Every query for a record goes through `Scope`, which joins it to the memberships of the person
asking. What is in another workshop does not exist for them: the answer is 404, not 403.
"""

from __future__ import annotations

from typing import Any, TypeVar, cast
from uuid import UUID

from django.contrib.auth.models import AbstractBaseUser, AnonymousUser, User
from django.core.exceptions import PermissionDenied
from django.db.models import F, Model, QuerySet
from django.http import Http404

from calmsquare.problems import Conflict
from calmsquare.workshop.models import Membership, Role

M = TypeVar("M", bound=Model)

_RANK = {Role.VIEWER: 0, Role.MAKER: 1, Role.OWNER: 2}


class Scope:
    """What one person can see."""

    def __init__(self, user: AbstractBaseUser | AnonymousUser) -> None:
        self.user = cast(User, user)  # AnonymousUser matches no membership
        self._roles: dict[UUID, Role] = {}

    def all(self, model: type[M]) -> QuerySet[M]:
        """Every record of this model in the person's workshops."""
        path = _joined(model, "memberships__user")
        return model._default_manager.filter(**{path: self.user})

    def get(
        self,
        model: type[M],
        id: UUID | int,
        *,
        need: Role = Role.VIEWER,
        for_update: bool = False,
        related: tuple[str, ...] = (),
        without: tuple[str, ...] = (),
    ) -> M:
        """One record, for someone who needs at least this role; `related` is fetched with it,
        `without` only when it is asked for.

        Http404 when it is not theirs to see; PermissionDenied when it is, but not to change.
        """
        mine = F(_joined(model, "memberships__role"))
        found = (
            self.all(model).annotate(role_of_mine=mine)
            if model is not Membership
            else self.all(model)
        )
        # on the way to its workshop, whatever is asked about it next
        way = [*related, *filter(None, [model.WORKSHOP_PATH])]  # type: ignore[attr-defined]
        found = found.select_related(*way) if way else found
        found = found.defer(*without) if without else found
        if for_update:
            found = found.select_for_update(of=("self",))
        record = found.filter(pk=id).first()
        if record is None:
            raise Http404
        role = getattr(record, "role_of_mine", None)
        if role is not None:
            self._roles[self.workshop_id(record)] = Role(role)
        if need != Role.VIEWER:
            self.require(self.workshop_id(record), need)
        return record

    def role(self, workshop_id: UUID) -> Role:
        """The person's role there; Http404 without one."""
        if workshop_id not in self._roles:
            mine = Membership.objects.filter(workshop_id=workshop_id, user=self.user)
            role = mine.values_list("role", flat=True).first()
            if role is None:
                raise Http404
            self._roles[workshop_id] = Role(role)
        return self._roles[workshop_id]

    def require(self, workshop_id: UUID, need: Role) -> None:
        """PermissionDenied unless the person's role is at least `need`."""
        role = self.role(workshop_id)
        if _RANK[role] < _RANK[need]:
            who = {Role.MAKER: "an owner or a maker", Role.OWNER: "an owner"}[need]
            raise PermissionDenied(
                f"You are a {role.label.lower()} here; {who} can change this. Ask an owner of the "
                "workshop for another role."
            )

    @staticmethod
    def workshop_id(record: Model) -> UUID:
        """The workshop a record belongs to."""
        at: Any = record
        for step in filter(None, type(record).WORKSHOP_PATH.split("__")):  # type: ignore[attr-defined]
            at = getattr(at, step)
        return UUID(str(at.pk))


def made_before(scope: Scope, model: type[M], id: UUID, **where: Any) -> M | None:
    """The record that was made by the same request before, which is answered once more; None where
    there is none. Conflict when the id is another record's."""
    found = scope.all(model).filter(pk=id, **where).first()
    if found is None and model._default_manager.filter(pk=id).exists():
        raise Conflict("Another record has this id. Load the page anew.", code="duplicate")
    return found


def _joined(model: type[Model], tail: str) -> str:
    path: str = model.WORKSHOP_PATH  # type: ignore[attr-defined]
    return f"{path}__{tail}" if path else tail
