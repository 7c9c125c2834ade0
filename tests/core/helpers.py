"""Small makers for core tests."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import UTC, datetime, timedelta
from typing import Any

from truing.contract.history import History
from truing.contract.readings import GradeReading, LengthReading
from truing.kit.instruments import PlungerDial
from truing.registry import kind

TRAM = kind("spindle_tram")
FINE = PlungerDial(graduation_mm=0.0002, range_mm=10, repeatability_mm=0.0001)
START = datetime(2026, 3, 1, tzinfo=UTC)
NOTHING = History()


def setup(**more: Any) -> Any:
    return TRAM.setup_type(**{"radius_mm": 100.0, "radius_u_mm": 0.0, **more})


def readings(values: Iterable[tuple[str, float]], **more: Any) -> list[LengthReading]:
    return [
        LengthReading(
            id=f"r{i}", station=s, shown_mm=v, read_at=START + timedelta(seconds=i), **more
        )
        for i, (s, v) in enumerate(values)
    ]


def leans(finding: Any) -> dict[str, float]:
    return {q.key: q.estimate.value for q in finding.quantities}


def answers(values: Iterable[tuple[str, str]], **more: Any) -> list[GradeReading]:
    return [
        GradeReading(
            id=f"g{i}", station=s, grade=v, read_at=START + timedelta(hours=1, seconds=i), **more
        )
        for i, (s, v) in enumerate(values)
    ]
