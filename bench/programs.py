"""Programs and plans at their size: medians, and the ratio to a plain read of the same file.

Usage: .venv/bin/python -m bench.programs
"""

from __future__ import annotations

import math
import random
import time
from collections.abc import Callable
from datetime import UTC, datetime
from statistics import median
from typing import Any

from bench import nasty
from tests.core.boards import a_board, a_wish
from truing.contract.case import Case
from truing.contract.readings import LogReading
from truing.kit.instruments import ScaleTrigger
from truing.machine import starting_point
from truing.machine.board import Board
from truing.measure.problem import Problem
from truing.programs import read
from truing.programs.check import check
from truing.programs.cutters import Cutter
from truing.programs.ground import Ground
from truing.programs.relief import relief
from truing.programs.sweep import Grid
from truing.registry import kind
from truing.surfacing.facts import Facts
from truing.surfacing.plan import make
from truing.surfacing.wish import Wish

LINES = 1_000_000
REPEATS = 5
PLANS = 500
POINTS = 100_000
BED = kind("bed_map")
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
    length = 0
    for line in data.splitlines():
        length += len(line)
    return length


def a_log() -> Case[Any, Any]:
    """A probe's walk over a bed that is tilted and bent."""
    across = math.isqrt(POINTS)
    places = [-400 + 800 * k / (across - 1) for k in range(across)]
    x = [v for _ in range(POINTS // across) for v in places]
    y = [-500 + 1000 * k / (POINTS // across - 1) for k in range(POINTS // across) for _ in places]
    z = [
        40 + 4e-4 * a + 1e-6 * b * b + random.Random(i).gauss(0, 0.005)
        for i, (a, b) in enumerate(zip(x, y, strict=True))
    ]
    columns = {"x": x, "y": y, "z": z}
    log = LogReading(id="log", station="log", read_at=datetime.now(UTC), columns=columns)
    machine = starting_point("gantry_router")
    return Case(
        setup=BED.setup_type(way="log"),
        instrument=ScaleTrigger(resolution_mm=0.001, repeatability_mm=0.001),
        machine=machine,
        tolerances=BED.tolerances(machine),
        readings=[log],
    )


def full_board() -> tuple[Facts, Wish]:
    """A board of a metre by 0.7, mapped on a grid, skimmed with a wide cutter."""
    places = [(x, y) for y in range(-340, 341, 85) for x in range(-480, 481, 80)]
    facts = Facts(
        machine="Bench",
        table_x_mm=1000,
        table_y_mm=700,
        board=Board(thickness_mm=18, least_mm=8),
        map=[(x, y, 0.3 + 3e-4 * x - 2e-4 * y) for x, y in places],
        map_expanded_mm=0.02,
        lean_x=(0.2, 0.05),
        lean_y=(-0.1, 0.05),
        proven_feed_mm_min=3000,
    )
    reach = {"reach_left_mm": -560, "reach_right_mm": 560}
    reach |= {"reach_front_mm": -420, "reach_rear_mm": 420}
    return facts, Wish(diameter_mm=50, depth_mm=0.3, **reach)


def main() -> None:
    data = rings(LINES)
    line_by_line = timed(lambda: plainly(data))
    whole = timed(lambda: check(read(data), GROUND))
    for what, took in (("a plain loop over", line_by_line), ("read and checked,", whole)):
        per_second = LINES / took * 1000
        print(f"{what} {LINES:,} lines: {took:.0f} ms, {per_second:,.0f} lines a second")
    print(f"that is {whole / line_by_line:.1f} times the plain loop")
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
    log = a_log()
    print(f"a map of {POINTS:,} points: {timed(lambda: BED.weigh(log)):.0f} ms")
    facts, wish = full_board()
    print(f"a plan of a full board: {timed(lambda: make(wish, facts), 3):.0f} ms")
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
    print("a million lines of each nasty shape, read, checked and drawn:")
    nasty.main(list(nasty.SHAPES))


if __name__ == "__main__":
    main()
