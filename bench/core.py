"""Median time of the core for every kind of check on the stand-in: judging, and advising on it.

Usage: .venv/bin/python -m bench.core
"""

from __future__ import annotations

import time
from collections.abc import Callable
from statistics import median

import numpy as np

from tests.core.cases import CASES, IDS, Case
from truing.registry import kind
from truing.standin.evening import one_round

REPEATS = 15


def timed(work: Callable[[], object]) -> float:
    """Median time of some calls, in ms."""
    times = []
    for _ in range(REPEATS):
        began = time.perf_counter()
        work()
        times.append((time.perf_counter() - began) * 1000)
    return median(times)


def report(case: Case) -> str:
    """What one way of reading one kind takes."""
    core, stated = kind(case.kind), case.case()
    rng = np.random.default_rng(3)
    truth = case.truth(rng, stated.machine, stated.setup)
    read = stated.but(readings=one_round(core, stated.setup, truth, stated.instrument, rng))
    known = core.weigh(read)
    weigh, advise = timed(lambda: core.weigh(read)), timed(lambda: core.advise(known))
    count = len(read.readings)
    return f"{count} readings, evaluate and judge {weigh:.2f} ms, advise {advise:.1f} ms"


def main() -> None:
    for case, name in zip(CASES, IDS, strict=True):
        print(f"{name}: {report(case)}")


if __name__ == "__main__":
    main()
