"""What is told of shims and of motors' offsets: the stacks that are found for bases and rails at
random, from tins that are full, small and nearly empty."""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator

from tests.core.trees import number, tree
from truing.kit.shims import Shim
from truing.machine import Pad
from truing.machine.parts import MotorPair
from truing.measure.problem import Problem
from truing.moves.heights import plan_heights
from truing.moves.offsets import AWAY, carried_right, changes_of, entries_of, moved_mm
from truing.moves.shims import best_stack, nearest_stacks, pieces_of, plan_pads, sold_near

THICK = (0.02, 0.025, 0.03, 0.05, 0.051, 0.1, 0.127, 0.15, 0.2, 0.254, 0.3, 0.5)
BASES = 24
RAILS = 8


def stacks() -> str:
    """Bases that lean and rails that are uneven, each with a tin."""
    lines: list[str] = []
    for seed in range(BASES):
        rng = random.Random(seed)
        pads = _base(rng, askew=seed % 4 == 3)
        lines += [f"== base {seed}", *_tin(tin := _a_tin(rng, pads)), *tree("pads", pads)]
        lean = rng.uniform(-0.6, 0.6), rng.uniform(-0.6, 0.6)
        lines += _told(
            "level",
            lambda p=pads, t=tin, x=lean: plan_pads(
                p, t, take_x_mm_per_m=x[0], take_y_mm_per_m=x[1], most_pieces=3
            ),
        )
        up = [round(rng.uniform(-0.15, 0.15), 4) for _ in pads]
        lines += _told(
            f"from {up}", lambda p=pads, t=tin, u=up: plan_heights(p, u, t, most_pieces=3)
        )
        wanted = [round(rng.uniform(0, 0.5), 3) for _ in pads]
        pieces = pieces_of(tin, [p.shims_mm for p in pads])
        lines.append(f"one by one, {wanted}: {nearest_stacks(wanted, pieces, 3)}")
        for mm in wanted:
            lines.append(
                f"for {mm}: {best_stack(mm, tin, there=pads[0].shims_mm)}, sold "
                f"{number(sold_near(mm))}, below it {number(sold_near(mm, below=True))}"
            )
        lines.append("")
    for seed in range(RAILS):
        rng = random.Random(100 + seed)
        pads = _rail(rng, 5 + seed % 7)
        tin = _a_tin(rng, pads)
        up = [round(rng.uniform(-0.1, 0.1), 4) for _ in pads]
        lines += [f"== rail {seed}", *_tin(tin), *tree("pads", pads)]
        lines += _told(
            f"from {up}", lambda p=pads, t=tin, u=up: plan_heights(p, u, t, most_pieces=3)
        )
        lines.append("")
    return "\n".join(lines)


def _base(rng: random.Random, askew: bool) -> list[Pad]:
    """Three or four pads, at the corners of a rectangle or not, some with shims under them."""
    x, y = rng.uniform(60, 300), rng.uniform(60, 300)
    corners = [(-x, -y), (x, -y), (-x, y), (x, y)]
    if askew:
        corners = [(a + rng.uniform(-20, 20), b + rng.uniform(-20, 20)) for a, b in corners]
    corners = corners[: rng.choice([3, 4, 4])]
    return [_pad(rng, i, *at) for i, at in enumerate(corners)]


def _rail(rng: random.Random, count: int) -> list[Pad]:
    """Places in two rows."""
    at = [(60.0 * (i // 2), 200.0 * (i % 2)) for i in range(count)]
    return [_pad(rng, i, *place) for i, place in enumerate(at)]


def _pad(rng: random.Random, i: int, x: float, y: float) -> Pad:
    lying = rng.sample(THICK, rng.choice([0, 0, 1, 2]))
    return Pad(name=f"P{i}", x_mm=round(x, 1), y_mm=round(y, 1), shims_mm=lying)


def _a_tin(rng: random.Random, pads: list[Pad]) -> list[Shim]:
    """A full one, a small one or hardly any."""
    kinds, most = rng.choice([(9, 8), (5, 4), (3, 2), (1, 1)])
    return [Shim(thickness_mm=t, count=rng.randint(1, most)) for t in rng.sample(THICK, kinds)] + [
        Shim(thickness_mm=0.1, count=len(pads) // 4)
    ]


def _tin(tin: list[Shim]) -> Iterator[str]:
    yield "tin " + ", ".join(f"{s.count} × {number(s.thickness_mm)}" for s in tin)


def _told(name: str, found: Callable[[], object]) -> Iterator[str]:
    try:
        yield from tree(name, found())
    except Problem as refused:
        yield f"{name}: {refused}"


def offsets() -> str:
    """What is entered for two motors, homed at either end, from offsets at random."""
    lines: list[str] = []
    for seed in range(16):
        rng = random.Random(seed)
        pair = MotorPair(
            left_offset_mm=round(rng.uniform(0.5, 3), 2),
            right_offset_mm=round(rng.uniform(0.5, 3), 2),
            least_offset_mm=rng.choice([0.0, 0.2, 0.5]),
        )
        for homes in AWAY:
            by = round(rng.uniform(-2, 2), 3)
            to = carried_right(pair, homes, by)
            moved = [number(v) for v in moved_mm(pair, homes, to)]
            lines += [f"== {seed}, homes {homes}, by {by}", *tree("pair", pair), f"moves {moved}"]
            lines += tree("changes", changes_of("lift", pair, to))
            lines += [*tree("entries", entries_of(pair, to)), ""]
    return "\n".join(lines)


OTHERS: dict[str, Callable[[], str]] = {"stacks": stacks, "offsets": offsets}
