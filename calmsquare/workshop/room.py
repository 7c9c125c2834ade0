"""How much a workshop may keep of what is large: photos and programs together."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from uuid import UUID

from django.db.models import QuerySet

from calmsquare.problems import Conflict
from calmsquare.workshop.models import Workshop

MOST_BYTES = 2_000_000_000
"""Some five thousand photos, or twenty of the longest programs."""
DEMO_BYTES, DEMO_FILE_BYTES = 20_000_000, 5_000_000
"""Of a passer-by's shed, and of one file in it."""

Measure = Callable[[QuerySet[Workshop]], dict[UUID, int]]
_measures: list[Measure] = []


def counted(measure: Measure) -> Measure:
    """Register what tells the bytes that an app keeps for each of some workshops."""
    _measures.append(measure)
    return measure


def kept_for(workshops: QuerySet[Workshop]) -> Counter[UUID]:
    """Bytes of photos and programs that are kept for each of them."""
    kept: Counter[UUID] = Counter()
    for measure in _measures:
        kept.update(measure(workshops))
    return kept


def room_for(workshop_id: UUID, coming: int) -> None:
    """Conflict when so many bytes more are too many; whoever sends something at the same time
    waits, so that two do not both take the last of the room."""
    workshop = Workshop.objects.select_for_update().get(pk=workshop_id)
    if workshop.is_demo and coming > DEMO_FILE_BYTES:
        raise Conflict(
            f"{coming / 1e6:.1f} MB are more than the demo takes of one file: "
            f"{DEMO_FILE_BYTES / 1e6:.0f} MB. A workshop of your own takes larger ones.",
            code="demo",
        )
    most = DEMO_BYTES if workshop.is_demo else MOST_BYTES
    kept = kept_for(Workshop.objects.filter(pk=workshop_id)).total()
    if kept + coming > most:
        raise Conflict(
            f"{kept / 1e6:,.0f} MB of photos and programs are kept for this workshop, and more "
            f"than {most / 1e6:,.0f} MB are not. Remove programs that need no more checking.",
            code="full",
        )
