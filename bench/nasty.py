"""Shapes of programs that could keep a check from ending: a million lines of each.

Usage: .venv/bin/python -m bench.nasty [shape …]

Each is read, checked and drawn in a process of its own that has made one small check before, as the
worker's have. Printed are seconds, how many times as long that is as ten million additions in a
plain loop right before and after, memory above that of the warm process, and what came of it.
"""

from __future__ import annotations

import math
import multiprocessing
import random
import sys
import time
from collections.abc import Callable, Iterator
from typing import Any

from bench.loop import plain_loop
from truing.measure.problem import Problem
from truing.programs import read
from truing.programs.check import check
from truing.programs.cutters import Cutter
from truing.programs.ground import Ground, Kept
from truing.programs.picture import picture

LINES = 1_000_000
HEAD = "G21 G17 G90 G94 G54\nG0 Z30\nS15000 M3\nG4 P4\nF1800\n"
END = "G0 Z30\nM5\nM30\n"
FLAT = Cutter(diameter_mm=6, depth_mm=1)
BALL = Cutter(diameter_mm=6, corner_mm=3, depth_mm=1, plunges=True)
POINT = Cutter(diameter_mm=12, included_deg=60, tip_mm=0.1, depth_mm=1, plunges=True)


def ground(cutter: Cutter = FLAT) -> Ground:
    """A board of a metre, four clamps on it."""
    clamps = [
        Kept(name=f"clamp {x} {y}", outline=[(x, y), (x + 40, y), (x + 40, y + 60)], top_mm=20)
        for x in (50, 880)
        for y in (50, 880)
    ]
    return Ground(
        board=(0, 0, 1000, 1000),
        cutter=cutter,
        safe_mm=25,
        floor_mm=-8,
        kept=clamps,
        reach=(-50, -50, 1050, 1050),
    )


def strokes(scale: float, word: str = "G1", z: str = "") -> Iterator[str]:
    """To and fro over all of a board and beyond, each a little further."""
    for k in range(LINES):
        x = 1000 * scale if k % 2 else 0.0
        yield f"{word} X{x:.3f} Y{1000 * scale * k / LINES:.3f}{z}"


def spiral() -> Iterator[str]:
    yield "G0 X500 Y500\nG1 Z-0.4"
    for k in range(LINES):
        a, r = k / 40, 450 * k / LINES
        yield f"G1 X{500 + r * math.cos(a):.3f} Y{500 + r * math.sin(a):.3f}"


def wild() -> Iterator[str]:
    rng = random.Random(1)
    for _ in range(LINES):
        x, y, z = (rng.uniform(-a, b) for a, b in ((100, 1100), (100, 1100), (9, 12)))
        yield f"G{rng.randrange(2)} X{x:.2f} Y{y:.2f} Z{z:.2f}"


def arcs(radius: float, plane: int = 17, more: str = "") -> Iterator[str]:
    rng = random.Random(2)
    centre = {17: f"I{radius:g}", 18: f"K{radius:g}", 19: f"J{radius:g}"}[plane]
    yield f"G{plane}\nG1 Z-0.5"
    for k in range(LINES // 2):
        yield f"G1 X{rng.uniform(0, 1000):.1f} Y{rng.uniform(0, 1000):.1f}"
        yield f"G{2 + k % 2} {centre}{more}"


def each(line: str) -> Callable[[], Iterator[str]]:
    return lambda: (line.format(k=k, a=k % 997, b=k % 1009) for k in range(LINES))


def turns() -> Iterator[str]:
    for k in range(LINES // 2):
        yield f"G0 X{k % 997} Y{k % 1009} Z-1\nG1 X{k % 1009} Y{k % 997}"


def switched() -> Iterator[str]:
    for k in range(LINES // 3):
        yield f"M3 S9000\nG1 X{k % 997} Y{k % 1009} Z-1\nM5"


SHAPES: dict[str, tuple[Callable[[], Iterator[str]], Cutter]] = {
    "a spiral of short lines": (spiral, FLAT),
    "long rapids above it all": (lambda: strokes(1, "G0", " Z30"), FLAT),
    "long rapids through the clamps": (lambda: strokes(1, "G0", " Z10"), FLAT),
    "long rapids through the board": (lambda: strokes(1, "G0", " Z-1"), FLAT),
    "rapids and cuts by turns": (turns, FLAT),
    "strokes over all of it": (lambda: strokes(1, "G1", " Z-1"), FLAT),
    "strokes in thousandths": (lambda: strokes(900, "G1", " Z-1"), FLAT),
    "strokes in the wrong unit": (lambda: strokes(25.4, "G1", " Z-1"), FLAT),
    "anywhere, up and down": (wild, FLAT),
    "anywhere, a ball": (wild, BALL),
    "anywhere, a point": (wild, POINT),
    "small circles": (lambda: arcs(5), FLAT),
    "wide circles": (lambda: arcs(90_000), FLAT),
    "circles, a ball": (lambda: arcs(40), BALL),
    "circles, a point": (lambda: arcs(400), POINT),
    "upright circles": (lambda: arcs(5, 18), FLAT),
    "wide upright circles": (lambda: arcs(90_000, 19), POINT),
    "helices without end": (lambda: arcs(5, 17, " Z-3 P999"), FLAT),
    "holes": (each("G81 X{a} Y{b} Z-2 R1"), FLAT),
    "holes, peck by peck": (each("G83 X{a} Y{b} Z-99 R1 Q0.1"), FLAT),
    "the spindle on and off": (switched, FLAT),
    "behind a slash": (each("/G1 X{a} Y{b} Z-1"), FLAT),
    "codes that nobody knows": (each("G777 X{a}"), FLAT),
    "nothing but remarks": (each(";a"), FLAT),
    "variables": (each("#{a}=1"), FLAT),
    "rubbish between words": (each("G1 X{a} ~ Y{b}"), FLAT),
    "a feed in each line": (each("F{b}"), FLAT),
}


def tried(name: str, to: Any) -> None:
    """Run one, and say what it took."""
    lines, cutter = SHAPES[name]
    small = read((HEAD + "G0 X0 Y0\nG1 Z-1\nG2 X9 I5\n" + END).encode())
    for tool in (FLAT, cutter):
        check(small, ground(tool))
        picture(small.motions, ground(tool))
    data = (HEAD + "\n".join(lines()) + "\n" + END).encode()
    # what it took to write it must not hide what it takes to read it
    with open("/proc/self/clear_refs", "w") as peaks:
        peaks.write("5")
    with open("/proc/self/status") as status:
        now = next(int(line.split()[1]) for line in status if line.startswith("VmRSS"))
    loop = plain_loop()
    began = time.perf_counter()
    try:
        program = read(data)
        report = check(program, ground(cutter))
        picture(program.motions, ground(cutter))
        report.model_dump_json()
        said = f"{report.verdict}: {report.sentence.metric}"
    except Problem as problem:
        said = f"refused: {problem.message}"
    took = time.perf_counter() - began
    with open("/proc/self/status") as status:
        peak = next(int(line.split()[1]) for line in status if line.startswith("VmHWM"))
    loop = (loop + plain_loop()) / 2
    to.send((took, took / loop, (peak - now) / 1024, len(data) / 1e6, said))


def main(names: list[str]) -> None:
    """Try these, and print each."""
    worst: tuple[float, str] = (0.0, "")
    most = 0.0
    fork = multiprocessing.get_context("fork")
    for name in names:
        ours, theirs = fork.Pipe(duplex=False)
        child = fork.Process(target=tried, args=(name, theirs))
        child.start()
        theirs.close()
        try:
            took, loops, memory, size, said = ours.recv()
        except EOFError:
            child.join()
            print(f"{name}: died (code {child.exitcode})")
            continue
        child.join()
        told = f"{took:.2f} s, {loops:.1f} loops, {memory:.0f} MB over {size:.0f} MB of file"
        print(f"{name}: {told}; {said[:110]}")
        worst, most = max(worst, (loops, name)), max(most, memory)
    print(f"slowest: {worst[1]}, {worst[0]:.1f} loops; most memory {most:.0f} MB")


if __name__ == "__main__":
    main(sys.argv[1:] or list(SHAPES))
