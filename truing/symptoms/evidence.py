"""What the record of a machine says of its causes: how each check came out, if that still holds."""

from __future__ import annotations

from collections.abc import Iterable

from truing.course.standing import Decision, Result, Standing, Status
from truing.symptoms.candidates import Check, Sitting
from truing.symptoms.data import FAR, GROSS
from truing.symptoms.weigh import Seen

DUE = 0.5
"""What a result counts for that should have been looked at again by now."""


class Record:
    """How checks stand, for weighing."""

    def __init__(self, found: Iterable[Standing]) -> None:
        self._by_kind = {s.kind: s for s in found}

    def _at(self, check: Sitting) -> tuple[Status, Result | None] | None:
        standing = self._by_kind.get(check[0])
        if standing is None or not standing.built or standing.withheld:
            return None
        part = next((p for p in standing.parts if p.key == check[1]), None)
        return (part.status, part.result) if part else (standing.status, standing.result)

    def can(self, check: Sitting) -> bool:
        """Whether it can be made at all now."""
        return self._at(check) is not None

    def read(self, check: Sitting) -> bool:
        """Whether what was read of it still holds."""
        at = self._at(check)
        return at is not None and at[0] in ("true", "out", "too_close")

    def came_out(self, check: Check) -> list[Seen]:
        """How it came out and what that counts for; nothing where it tells nothing. Too close to
        call is half of each: what is seen on a part is seldom that near its limit."""
        at = self._at(check.sitting)
        if at is None or at[1] is None or at[0] not in ("true", "out", "too_close"):
            return []
        counts = DUE if self._by_kind[check.kind].is_due else 1.0
        times = at[1].times_limit
        # out with every figure within its limit: what was felt or seen made it so
        felt = times is not None and times < 1
        if at[0] == "too_close":
            return [("true", counts / 2), ("out", counts / 2)]
        if at[0] == "true" or (felt is not check.felt and times is not None):
            return [("true", counts)]
        if times is None:
            return [("far", counts)]
        # what a hand feels is plain to see on the part
        gross = felt or times >= GROSS
        return [("gross" if gross else "far" if times >= FAR else "out", counts)]

    def out(self, check: Check) -> bool:
        """Whether it is out, by what of it is looked at."""
        at = self._at(check.sitting)
        seen = self.came_out(check)
        return at is not None and at[0] == "out" and seen[0][0] != "true"

    def close(self, sitting: Sitting) -> bool:
        """Whether it was too close to call."""
        at = self._at(sitting)
        return at is not None and at[0] == "too_close"

    def times(self, check: Check) -> float | None:
        """By how many times its limit it is out."""
        at = self._at(check.sitting)
        return at[1].times_limit if at and at[1] and not check.felt else None

    def left(self, check: Check) -> Decision | None:
        """The decision to leave it as it is."""
        standing = self._by_kind.get(check.kind)
        return standing.left if standing else None
