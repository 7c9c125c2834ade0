"""The test piece as programs: two patches with the facing cutter, a square and a hole with an end
mill."""

from __future__ import annotations

import math

from truing.checks.cutting import (
    CORNERS,
    OUT,
    RAMP_DEG,
    STOCK,
    Cut,
    Patches,
    Piece,
    Place,
    patches,
)
from truing.checks.test_cut.setup import TestCutSetup
from truing.machine import Machine
from truing.surfacing.path import Move

LEFT_MM = 0.2
"""What roughing leaves for the last pass, which goes the other way round."""


def cuts(setup: TestCutSetup, machine: Machine) -> list[Cut]:
    """What is cut, with which cutter, and how it goes."""
    found = []
    if setup.face:
        how = Patches(diameter_mm=setup.face_mm, steps_mm=(setup.stepover_mm, setup.stepover_mm))
        found += patches(setup, machine, how)
    if setup.square or setup.hole:
        found.append(_outline(setup))
    return found


def _outline(setup: TestCutSetup) -> Cut:
    d = setup.cutter_mm
    half = [v / 2 + (STOCK * d if setup.square else d) for v in _size(setup)]
    feed = setup.fast(d).feed_mm_min
    moves: list[Move] = []
    if setup.hole:
        moves += _hole(setup, feed)
    if setup.square:
        moves += _square(setup, feed)
    names = [n for n, on in (("square", setup.square), ("hole", setup.hole)) if on]
    piece = Piece(
        key="-".join(names),
        title="A " + " and a ".join(names),
        block=(-half[0], -half[1], half[0], half[1]),
        zero="middle of the block",
        diameter_mm=d,
        deepest_mm=setup.outline_mm,
    )
    return Cut(piece, moves)


def _size(setup: TestCutSetup) -> tuple[float, float]:
    if setup.square:
        return setup.width_mm, setup.depth_mm
    return setup.hole_mm, setup.hole_mm


def _depths(setup: TestCutSetup) -> list[float]:
    n = math.ceil(setup.outline_mm / setup.bite_mm - 1e-9)
    return [-setup.outline_mm * (k + 1) / n for k in range(n)]


def _ring(setup: TestCutSetup, left: float) -> list[Place]:
    """The middle of the cutter round the square, counter-clockwise from the front left; it comes
    from outside and goes on to outside, in line with the side that it cuts."""
    d = setup.cutter_mm
    x, y = (v / 2 + d / 2 + left for v in (setup.width_mm, setup.depth_mm))
    corners = [(sx * x, sy * y) for sx, sy in CORNERS.values()]
    # beside the block, and room to come down there
    out = (STOCK + OUT) * d
    return [(-x - out, -y), *corners[1:], corners[0], (-x, -y - out)]


def _square(setup: TestCutSetup, feed: float) -> list[Move]:
    """Roughed down one way round, then cut to size the other way round, bite by bite as well."""
    safe = setup.safe_mm
    moves: list[Move] = []
    depths = _depths(setup)
    for z, ring in [
        *((z, _ring(setup, LEFT_MM)[::-1]) for z in depths),
        *((z, _ring(setup, 0.0)) for z in depths),
    ]:
        # it comes to its first side from where it comes to it on the way round: by its slack a
        # side stands elsewhere when it is come to from the other way
        (x, y), (_, next_y) = ring[:2]
        moves.append(Move(x, 0.0, safe) if y == next_y else Move(0.0, y, safe))
        moves.append(Move(*ring[0], safe))
        moves.append(Move(*ring[0], z, feed))
        moves += [Move(x, y, z, feed) for x, y in ring[1:]]
        moves.append(Move(*ring[-1], safe))
    return moves


def _hole(setup: TestCutSetup, feed: float) -> list[Move]:
    """Down helices inside of it, each wider than the last by less than the cutter, and one more to
    size, each once more round at the bottom; the last turn is made twice, so that all of it begins
    where slack is taken up. Nothing is left standing in the middle."""
    d = setup.cutter_mm
    final = (setup.hole_mm - d) / 2
    rough = max(final - LEFT_MM, 0.6 * final)
    # the first clears its own middle
    radii = [rough if rough < CLEARS * d else FIRST * d]
    more = math.ceil((rough - radii[0]) / (WIDER * d) - 1e-9)
    radii += [radii[0] + (rough - radii[0]) * (k + 1) / more for k in range(more)]
    moves = [m for radius in radii for m in _helix(setup, radius, 1, feed)]
    return [*moves, *_helix(setup, final, 2, feed)]


def _helix(setup: TestCutSetup, radius: float, more: int, feed: float) -> list[Move]:
    safe, clockwise = setup.safe_mm, setup.round == "cw"
    drop = min(setup.bite_mm, 0.9 * 2 * math.pi * radius * math.tan(math.radians(RAMP_DEG)))
    depth = setup.outline_mm + AIR_MM
    turns = math.ceil(depth / drop - 1e-9)
    moves = [Move(radius, 0.0, safe), Move(radius, 0.0, AIR_MM, feed)]
    levels = [AIR_MM - depth * (k + 1) / turns for k in range(turns)]
    levels += [levels[-1]] * more
    moves += [Move(radius, 0.0, round(z, 4), feed, (0.0, 0.0), clockwise) for z in levels]
    # away from the wall before it goes up, into what is cut already
    inside = radius - min(0.1 * radius, 0.1 * setup.cutter_mm)
    return [*moves, Move(inside, 0.0, moves[-1].z, feed), Move(inside, 0.0, safe)]


CLEARS, FIRST, WIDER = 0.49, 0.45, 0.8
"""Of the cutter: a helix of less leaves nothing in its middle; of several the first one's radius,
and by how much each is wider than the one before."""
AIR_MM = 0.3
"""Over the block, where the helix begins."""
