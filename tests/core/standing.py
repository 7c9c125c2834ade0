"""How a machine stands by a log, some hours after a day in March."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

from truing.course import KINDS
from truing.course.standing import Log, Standing, standings
from truing.machine import Machine, starting_point

DAY = datetime(2026, 3, 1, 18, tzinfo=UTC)
KEYS = [k.key for k in KINDS]
EVERYTHING = tuple(KEYS)
MILL = starting_point("column_mill")


def at(hours: float) -> datetime:
    return DAY + timedelta(hours=hours)


def stand(machine: Machine, log: Log, now: float = 1000, built: Any = EVERYTHING) -> list[Standing]:
    return standings(machine, log, built=built, now=at(now))


def by_kind(found: list[Standing]) -> dict[str, Standing]:
    return {s.kind: s for s in found}
