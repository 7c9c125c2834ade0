"""What is told of surfacing and of programs: plans and what they write, what is found in programs
of all sorts, and what these leave."""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator

import numpy as np

from tests.core.boards import a_board, a_wish
from tests.core.faulty import FAULTS, GOOD, GROUND
from tests.core.spelt import written
from tests.core.trees import number, tree
from truing.measure.problem import Problem
from truing.programs import Program, read
from truing.programs.check import check
from truing.programs.ground import Ground
from truing.programs.motions import Motions
from truing.programs.picture import picture
from truing.programs.spans import spans
from truing.programs.sweep import steep_drop, sweep
from truing.programs.timing import Drives, times
from truing.programs.trespass import trespass
from truing.surfacing.foreign import Stated, ground_for
from truing.surfacing.plan import Surfacing, make

BOARDS = 6


def surfacing() -> str:
    """Plans for boards and wishes at random, with the first and last lines of their programs."""
    lines: list[str] = []
    for seed in range(BOARDS):
        rng = random.Random(seed)
        facts = a_board(rng)
        wish = a_wish(rng, facts).model_copy(update={"by_hand": seed % 3 == 2})
        lines += [f"== board {seed}", *tree("wish", wish)]
        try:
            lines += _planned(make(wish, facts))
        except Problem as problem:
            lines.append(f"refused: {problem}")
        lines.append("")
    return "\n".join(lines)


def _planned(found: Surfacing) -> Iterator[str]:
    short = found.model_copy(update={"program": "", "air_program": "", "mark": "", "levels": []})
    yield from tree("plan", short)
    for level in found.levels:
        yield from tree(f"level {level.z_mm:.3f}, {level.length_mm:.1f} long", level.words)
    for name, program in (("program", found.program), ("in the air", found.air_program)):
        written = program.splitlines()
        yield from tree(name, [*written[:40], *written[-8:]])


CUTTERS = {
    "flat": {"diameter_mm": 8.0, "depth_mm": 2.0},
    "cornered": {"diameter_mm": 10.0, "corner_mm": 2.0, "depth_mm": 1.0, "plunges": True},
    "ball": {"shape": "ball", "diameter_mm": 6.0, "depth_mm": 3.0},
    "point": {
        "shape": "v",
        "diameter_mm": 6.0,
        "included_deg": 60.0,
        "tip_mm": 0.1,
        "tir_mm": 0.02,
    },
    "in a wide nut": {"diameter_mm": 6.0, "body_mm": 30.0, "below_mm": 8.0},
}
"""As they are stated."""
RANDOM = 15


def programs() -> str:
    """A good program and every fault of it, programs at random under every sort of cutter, and some
    that are garbled."""
    lines: list[str] = []
    for code, (old, new) in {"good": ("M3", "M3"), **FAULTS}.items():
        report = check(read(GOOD.replace(old, new).encode()), GROUND)
        lines += [f"== {code}", *tree("report", report), ""]
    for seed in range(RANDOM):
        rng = random.Random(seed)
        cutter, stated = list(CUTTERS.items())[seed % len(CUTTERS)]
        facts = a_board(rng)
        ground = ground_for(
            Stated.model_validate({"x_mm": 4.0, "y_mm": -3.0, "top_mm": 0.5, **stated}), facts
        )
        text = written(rng)[0].encode()
        lines += [f"== at random {seed}, {cutter}", *tree("ground", ground)]
        lines += [*_checked(text, ground, lean=rng.uniform(-0.002, 0.002)), ""]
        lines += [f"== garbled {seed}", *_checked(_garbled(rng, text), ground), ""]
    return "\n".join(lines)


def _garbled(rng: random.Random, text: bytes) -> bytes:
    """With a few bytes changed, dropped and doubled."""
    data = bytearray(text)
    for _ in range(6):
        at = rng.randrange(len(data))
        data[at : at + rng.choice([0, 1, 2])] = bytes([rng.choice(b"GXYZ#[(;/ %N9.-+\xff\nFJ")])
    return bytes(data)


def _checked(text: bytes, ground: Ground, lean: float = 0.0) -> Iterator[str]:
    try:
        program = read(text)
    except Problem as refused:
        yield f"refused: {refused}"
        return
    yield from tree("report", check(program, ground, Drives(accel_mm_s2=(300, 200, 100))))
    yield from _followed(program)
    yield from _touched(program.motions, ground)
    seen = picture(program.motions, ground, lean, -lean / 2)
    deep = np.array(seen.depth_mm)
    some = deep.ravel()[:: deep.size // 40 + 1]
    yield f"leaves {deep.shape}: {' '.join(number(v) for v in some)}, in all {deep.sum():.5g}"
    short = {"x_mm": [], "y_mm": [], "depth_mm": []}
    yield from tree("drawn", seen.model_copy(update=short))


def _followed(program: Program) -> Iterator[str]:
    """Every motion, both ways that a program can be read."""
    ways: list[Motions] = [program.motions, *([program.without] if program.without else [])]
    for motions in ways:
        took = times(motions, Drives())
        for row, how, seconds in zip(motions.at, motions.how, took.seconds, strict=True):
            told = " ".join(number(float(v)) for v in row)
            yield f"  {told} | {' '.join(str(int(v)) for v in how)} | {number(float(seconds))}"


def _touched(motions: Motions, ground: Ground) -> Iterator[str]:
    """What each motion bites, how far it comes below what is kept and dives, and the box
    that it stays in; of those that do any of it."""
    boxes = spans(motions)
    grid, keep = ground.surface(motions, boxes), ground.keep_grid(ground.cutter)
    yield f"grid {[*grid.up.shape, number(grid.cell_mm), number(float(grid.up.mean()))]}"
    bites = sweep(motions, ground.cutter.tool(), grid).bites_mm
    low = trespass(motions, keep) if keep else np.zeros(len(motions.at))
    dives = steep_drop(motions, 0.05, ground.highest_mm)
    for n in np.flatnonzero(np.maximum(np.maximum(bites, low), dives) > 1e-5):
        told = [bites[n], low[n], dives[n], *boxes[n]]
        yield f"  {n}: {' '.join(number(float(v)) for v in told)}"
    yield f"left {number(float(grid.up.sum(dtype=float)))}"
    if keep:
        inside = np.isfinite(keep.up)
        yield f"kept {keep.up.shape} {inside.sum()} {number(float(keep.up[inside].sum()))}"


OTHERS: dict[str, Callable[[], str]] = {"surfacing": surfacing, "programs": programs}
