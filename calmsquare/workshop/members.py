"""Who belongs to a workshop, and how somebody comes to."""

from __future__ import annotations

import hashlib
import secrets
from datetime import timedelta
from uuid import UUID

from django.contrib.auth.models import User
from django.db.models import F
from django.db.models.query import QuerySet
from django.utils import timezone

from calmsquare.problems import Conflict
from calmsquare.workshop.models import Invitation, Membership, Role, Workshop
from calmsquare.workshop.people import name_of
from calmsquare.workshop.scope import Scope

HOLDS = timedelta(days=14)
"""How long an invitation can be taken up."""
MOST_INVITATIONS = 50
"""That are open at once in a workshop."""


def change_member(scope: Scope, member_id: int, role: Role | None) -> None:
    """Another role, or out (None). A workshop keeps at least one owner."""
    member = scope.get(Membership, member_id, need=Role.OWNER)
    if _only_owner(member) and role != Role.OWNER:
        raise Conflict("A workshop needs an owner. Make somebody else owner first.")
    if role is None:
        member.delete()
    else:
        member.role = role
        member.save(update_fields=["role"])


def leave(scope: Scope, workshop_id: UUID) -> None:
    """Leave a workshop that has another owner."""
    member = scope.all(Membership).filter(workshop_id=workshop_id, user=scope.user).get()
    if _only_owner(member):
        raise Conflict("A workshop needs an owner. Make somebody else owner first.")
    member.delete()


def _only_owner(member: Membership) -> bool:
    # two who leave at once do so one after the other
    owners = (
        Membership.objects.select_for_update()
        .filter(workshop_id=member.workshop_id, role=Role.OWNER)
        .order_by("pk")
    )
    return [o.pk for o in owners] == [member.pk]


# --- invitations ----------------------------------------------------------------------------------


def invite(scope: Scope, workshop_id: UUID, *, role: Role, whom: str) -> tuple[Invitation, str]:
    """(invitation, secret) for one person, who joins of their own accord: nobody is put into a
    workshop, and nobody learns which addresses have an account. The secret is told this once; the
    record keeps what it hashes to."""
    scope.require(workshop_id, Role.OWNER)
    workshop = Workshop.objects.select_for_update().get(pk=workshop_id)
    if workshop.is_demo:
        raise Conflict("The demo is for looking round alone. Sign in to share a workshop.")
    if open_invitations(scope, workshop_id).count() >= MOST_INVITATIONS:
        raise Conflict(
            f"{MOST_INVITATIONS} invitations are open, and more are not kept. Take some back.",
            code="full",
        )
    secret, now = secrets.token_urlsafe(24), timezone.now()
    made = Invitation.objects.create(
        workshop=workshop,
        role=role,
        whom=whom.strip(),
        hashed=_hashed(secret),
        by=scope.user,
        made_at=now,
        until=now + HOLDS,
    )
    return made, secret


def open_invitations(scope: Scope, workshop_id: UUID) -> QuerySet[Invitation]:
    """Those that can still be taken up, the newest first."""
    scope.role(workshop_id)
    mine = scope.all(Invitation).filter(workshop_id=workshop_id)
    return _open(mine).select_related("by").order_by("-made_at")


def _open(invitations: QuerySet[Invitation]) -> QuerySet[Invitation]:
    """Not taken up, not run out, and made by somebody who still decides who is in."""
    return invitations.filter(
        taken_up_by=None,
        until__gt=timezone.now(),
        workshop__memberships__user=F("by"),
        workshop__memberships__role=Role.OWNER,
    )


def take_back(scope: Scope, invitation_id: UUID) -> None:
    """Withdraw an invitation; owners only."""
    scope.get(Invitation, invitation_id, need=Role.OWNER).delete()


def invited(secret: str) -> Invitation:
    """The invitation that a link carries. Conflict when it cannot be taken up (any more)."""
    found = _open(Invitation.objects.filter(hashed=_hashed(secret)))
    invitation = found.select_related("workshop", "by").first()
    if invitation is None:
        raise Conflict(
            "This invitation does not hold any more: it was used, taken back, or is older than "
            f"{HOLDS.days} days. Ask for another.",
            code="invitation",
        )
    return invitation


def take_up(user: User, secret: str) -> Workshop:
    """Join, as the invitation says. Conflict when it does not hold, or they are a member."""
    invitation = invited(secret)
    # the same link opened twice at once lets one in
    Invitation.objects.select_for_update().get(pk=invitation.pk)
    invitation = invited(secret)
    if Membership.objects.filter(user=user, workshop__is_demo=True).exists():
        raise Conflict("The demo’s visitor cannot join. Sign out, then sign in as yourself.")
    member, created = Membership.objects.get_or_create(
        workshop=invitation.workshop, user=user, defaults={"role": invitation.role}
    )
    if not created:
        raise Conflict(
            f"You are in “{invitation.workshop.name}” already, as {member.get_role_display()}.",
            code="member",
        )
    invitation.taken_up_by, invitation.taken_up_at = user, timezone.now()
    invitation.save(update_fields=["taken_up_by", "taken_up_at"])
    return member.workshop


def inviter(invitation: Invitation) -> str:
    """Who made it, by name."""
    return name_of(invitation.by)


def _hashed(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()
