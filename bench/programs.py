"""Programs and plans at their size: medians, and the ratio to a plain read of the same file.

Usage: .venv/bin/python -m bench.programs
"""

from __future__ import annotations

import math
import random
import resource
import time
from collections.abc import Callable
from statistics import median

from tests.core.test_surfacing import a_board, a_wish
from truing.measure.problem import Problem
from truing.programs import read
from truing.programs.check import check
from truing.programs.ground import Cutter, Ground
from truing.programs.relief import relief
from truing.programs.sweep import Grid
from truing.surfacing.plan import make

LINES = 1_000_000
REPEATS = 5
PLANS = 500
GROUND = Ground(
    board=(0, 0, 1000, 1000), cutter=Cutter(diameter_mm=6, depth_mm=1), safe_mm=5, floor_mm=-8
)


def timed(work: Callable[[], object], repeats: int = REPEATS) -> float:
    """Median time of some calls, in ms; one before them is not counted."""
    work()
    times = []
    for _ in range(repeats):
        began = time.perf_counter()
        work()
        times.append((time.perf_counter() - began) * 1000)
    return median(times)


def rings(lines: int) -> bytes:
    """A spiral of short lines over a board, as drawing programs write them."""
    head = "G21 G17 G90 G94 G54\nG0 Z5\nS15000 M3\nG4 P4\nG0 X500 Y500\nG1 Z-0.4 F1800\n"
    path = (
        f"G1 X{500 + r * math.cos(a):.3f} Y{500 + r * math.sin(a):.3f}\n"
        for a, r in ((k / 40, 450 * k / lines) for k in range(lines - 10))
    )
    return (head + "".join(path) + "G0 Z5\nM5\nM30\n").encode()


def plainly(data: bytes) -> int:
    """What reading it line by line takes, without understanding a word."""
    return sum(len(line) for line in data.splitlines())


def main() -> None:
    data = rings(LINES)
    line_by_line = timed(lambda: plainly(data))
    whole = timed(lambda: check(read(data), GROUND))
    used = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"a plain read of {LINES:,} lines: {line_by_line:.0f} ms")
    print(f"read and checked: {whole:.0f} ms, {whole / line_by_line:.1f} times that; {used:.0f} MB")
    motions = read(rings(100_000)).motions
    for diameter, corner in ((60.0, 0.0), (60.0, 1.0), (3.0, 1.5)):
        cutter = Cutter(diameter_mm=diameter, corner_mm=corner)
        tool = cutter.tool(0.0004, 0.0003)

        def left(tool=tool) -> None:  # type: ignore[no-untyped-def]
            relief(motions, tool, Grid.over(GROUND.board, 1.0))

        print(
            f"relief of a million cells by 100,000 motions, {diameter:g} mm, corners "
            f"{corner:g} mm: {timed(left, 3):.0f} ms"
        )
    rng = random.Random(2)
    times, refused, faults = [], 0, 0
    for _ in range(PLANS):
        facts = a_board(rng)
        wish = a_wish(rng, facts)
        began = time.perf_counter()
        try:
            plan = make(wish, facts)
        except Problem:
            refused += 1
            continue
        times.append((time.perf_counter() - began) * 1000)
        faults += bool(plan.report.faults)
    print(
        f"a plan with its program read back: {median(times):.0f} ms; of {PLANS} random ones "
        f"{refused} refused as impossible, {faults} not passed by the checker"
    )


if __name__ == "__main__":
    main()
