"""How much a workshop may keep of what is large: photos and programs together."""

from __future__ import annotations

from collections.abc import Callable
from uuid import UUID

from calmsquare.problems import Conflict
from calmsquare.workshop.models import Workshop

MOST_BYTES = 2_000_000_000
"""Some five thousand photos, or twenty of the longest programs."""

_measures: list[Callable[[UUID], int]] = []


def counted(measure: Callable[[UUID], int]) -> Callable[[UUID], int]:
    """Register what tells the bytes that an app keeps for a workshop."""
    _measures.append(measure)
    return measure


def room_for(workshop_id: UUID, coming: int) -> None:
    """Conflict when so many bytes more are too many; whoever sends something at the same time
    waits, so that two do not both take the last of the room."""
    Workshop.objects.select_for_update().get(pk=workshop_id)
    kept = sum(measure(workshop_id) for measure in _measures)
    if kept + coming > MOST_BYTES:
        raise Conflict(
            f"{kept / 1e6:,.0f} MB of photos and programs are kept for this workshop, and more "
            f"than {MOST_BYTES / 1e6:,.0f} MB are not. Remove programs that need no more checking.",
            code="full",
        )
