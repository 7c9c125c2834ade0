"""Median time of the core for every kind of check on the stand-in: judging, and advising on it.

Usage: .venv/bin/python -m bench.core
"""

from __future__ import annotations

import time
from collections.abc import Callable
from statistics import median

import numpy as np

from tests.core.cases import CASES, IDS, Case
from tests.core.helpers import evaluate
from truing.contract.history import History
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
    core, machine, setup = kind(case.kind), case.machine, case.setup()
    rng = np.random.default_rng(3)
    read = one_round(core, setup, case.truth(rng, machine, setup), case.instrument, rng)
    limits = core.tolerances(machine)
    finding = evaluate(core, setup, read, case.instrument, History())
    judge = timed(
        lambda: judge(core, setup, evaluate(core, setup, read, case.instrument, History()), limits)
    )
    advise = timed(
        lambda: advise(
            core, setup, finding, limits, machine, case.instrument, case.stock, History()
        )
    )
    return f"{len(read)} readings, evaluate and judge {judge:.2f} ms, advise {advise:.1f} ms"


def main() -> None:
    for case, name in zip(CASES, IDS, strict=True):
        print(f"{name}: {report(case)}")


if __name__ == "__main__":
    main()
