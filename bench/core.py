"""Median time of the core on a four-position tram, two passes.

Usage: .venv/bin/python -m bench.core
"""

from __future__ import annotations

import time
from datetime import UTC, datetime, timedelta
from statistics import median
from typing import Any

from truing.check import History, LengthReading, kind
from truing.instruments import PlungerDial


def main() -> None:
    tram = kind("spindle_tram")
    setup: Any = tram.setup_type(radius_mm=110)
    dial = PlungerDial()
    start = datetime(2026, 1, 1, tzinfo=UTC)
    stations = [("12", 0.02), ("3", 0.045), ("6", -0.01), ("9", -0.02)] * 2
    readings = [
        LengthReading(id=str(i), station=s, shown_mm=v, read_at=start + timedelta(seconds=i))
        for i, (s, v) in enumerate(stations)
    ]
    limits = {"lean_x": 0.1, "nod": 0.1}
    times = []
    for _ in range(500):
        began = time.perf_counter()
        finding = tram.evaluate(setup, readings, dial, History())
        tram.judge(setup, finding, limits)
        times.append((time.perf_counter() - began) * 1000)
    print(f"evaluate and judge, median of {len(times)}: {median(times):.2f} ms")


if __name__ == "__main__":
    main()
