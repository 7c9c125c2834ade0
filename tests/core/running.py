"""An independent run of a plain program over a board: small steps, cells, nothing clever.

It shares no code with `truing.programs`: it splits lines with a pattern, moves in steps of a
millimetre, and looks under the whole disc at each of them.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, field

import numpy as np
from shapely import distance, points
from shapely.geometry.base import BaseGeometry

WORD = re.compile(r"([A-Z])\s*([-+]?\d*\.?\d+)")
CELL = 1.0


@dataclass
class Yard:
    """A board from 0, 0 and what stands on it, in the program's own coordinates."""

    wide: float
    deep: float
    radius: float
    most_bite: float
    floor: float
    reach: tuple[float, float, float, float]
    most_feed: float
    most_rev: float
    ramp_deg: float
    safe: float
    heights: np.ndarray | None = None
    kept: list[tuple[BaseGeometry, float]] = field(default_factory=list)
    x0: float = 0.0
    y0: float = 0.0
    body: float = 0.0
    """Radius of what stands over the cutter, `below` over its end."""
    below: float = 0.0
    rapid: float = 3000.0
    accel: float = 200.0


@dataclass
class Ran:
    """What happened: harm by name, and the board afterwards."""

    harm: set[str]
    up: np.ndarray
    x: np.ndarray
    y: np.ndarray


def run(program: str, yard: Yard, *, first: bool = False) -> Ran:
    """Run it; every kind of harm that it does is named, or only the first."""
    x = yard.x0 + np.arange(CELL / 2, yard.wide, CELL)
    y = yard.y0 + np.arange(CELL / 2, yard.deep, CELL)
    up = np.zeros((len(y), len(x))) if yard.heights is None else yard.heights.copy()
    harm: set[str] = set()
    at = [math.nan] * 3
    mode, scale, relative, plane = 0, 1.0, False, 17
    feed, rev, turning, waited = 0.0, 0.0, 0, 0.0
    for raw in program.splitlines():
        if first and harm:
            break
        line = re.sub(r"\(.*?\)", "", raw).upper().strip()
        words = WORD.findall(line)
        if not words:
            continue
        to = list(at)
        moves = False
        dwell = False
        for letter, text in words:
            v = float(text)
            if letter == "G":
                dwell = dwell or v == 4
                if v in (0, 1, 2, 3):
                    mode = int(v)
                elif v in (20, 21):
                    scale = 25.4 if v == 20 else 1.0
                elif v in (90, 91):
                    relative = v == 91
                elif v in (17, 18, 19):
                    plane = int(v)
            elif letter == "F":
                feed = v * scale
            elif letter == "S":
                rev = v
            elif letter == "M":
                if v in (3, 4, 5):
                    turning = {3: 1, 4: -1, 5: 0}[int(v)]
                    waited = 0.0
            elif letter == "P" and dwell:
                waited += v
        for letter, text in words:
            if letter in "XYZ":
                i = "XYZ".index(letter)
                to[i] = float(text) * scale + (at[i] if relative else 0.0)
                moves = True
        if not moves:
            continue
        assert mode in (0, 1), "only lines are run here"
        assert plane in (17, 18, 19)
        if not any(math.isnan(v) for v in at):
            _move(at, to, mode, yard, up, x, y, harm, (feed, rev * turning, waited))
            if mode == 1 and feed > 0:
                waited += 60 * math.dist(at, to) / feed
            elif mode == 0:
                far, speed = math.dist(at, to), yard.rapid / 60
                waited += (
                    far / speed + speed / yard.accel
                    if far > speed**2 / yard.accel
                    else 2 * math.sqrt(far / yard.accel)
                )
        elif mode == 0 and not math.isnan(at[2]) and at[2] < yard.safe - 0.01:
            harm.add("low")
        elif mode == 0 and not math.isnan(at[2]):
            # from a place that nobody knows: how long that takes nobody knows either
            waited = math.inf
        elif (
            mode == 0 and (math.isnan(at[2]) and (to[0] == to[0] or to[1] == to[1]))
        ) or mode == 1:
            harm.add("blind")
        at = to
    if at[2] < yard.safe - 0.01 or math.isnan(at[2]):
        harm.add("left down")
    if turning:
        last = [w for w in program.upper().split() if w in ("M2", "M30")]
        if not last:
            harm.add("left turning")
    return Ran(harm, up, x, y)


def _move(at, to, mode, yard, up, x, y, harm, state) -> None:  # type: ignore[no-untyped-def]
    feed, speed, waited = state
    far = math.dist(at, to)
    steps = max(1, math.ceil(far / CELL))
    sideways = math.dist(at[:2], to[:2]) > 1e-9
    cut = 0.0
    top = float(up.max())
    begun, share = np.array(at), np.arange(1, steps + 1)[:, None] / steps
    path = begun + (np.array(to) - begun) * share
    left, front, right, rear = yard.reach
    low, high = path[:, :2].min(axis=0), path[:, :2].max(axis=0)
    if not (left - 0.02 <= low[0] and high[0] <= right + 0.02):
        harm.add("reach")
    if not (front - 0.02 <= low[1] and high[1] <= rear + 0.02):
        harm.add("reach")
    for shape, height in yard.kept:
        away = distance(shape, points(path[:, :2]))
        for above, radius in ((0.0, yard.radius), (yard.below, yard.body)):
            if np.any((path[:, 2] + above < height - 0.05) & (away < radius - 0.05)):
                harm.add("kept")
    for px, py, pz in path[path[:, 2] < top].tolist():
        i0 = max(0, math.ceil((px - yard.radius - x[0]) / CELL))
        i1 = min(len(x), math.floor((px + yard.radius - x[0]) / CELL) + 1)
        j0 = max(0, math.ceil((py - yard.radius - y[0]) / CELL))
        j1 = min(len(y), math.floor((py + yard.radius - y[0]) / CELL) + 1)
        if i0 >= i1 or j0 >= j1:
            continue
        dx, dy = x[i0:i1] - px, y[j0:j1] - py
        # what is a cell inside the rim, so that the cells themselves do no harm
        here = (
            dx[None, :] ** 2 + dy[:, None] ** 2 <= (yard.radius - (CELL if mode == 0 else 0)) ** 2
        )
        part = up[j0:j1, i0:i1]
        bite = np.where(here, part - pz, 0.0)
        deep = float(bite.max(initial=0.0))
        if mode == 0:
            if deep > 0.05 and (sideways or to[2] < at[2]):
                harm.add("rapid")
            continue
        cut = max(cut, deep)
        part[here & (part > pz)] = pz
    over = (
        min(at[0], to[0]) < x[-1] + yard.radius
        and max(at[0], to[0]) > x[0] - yard.radius
        and min(at[1], to[1]) < y[-1] + yard.radius
        and max(at[1], to[1]) > y[0] - yard.radius
    )
    if mode == 0 and sideways and over and min(at[2], to[2]) < yard.safe - 0.01:
        harm.add("low")
    if mode != 1:
        return
    if cut > 0.05:
        if cut > yard.most_bite + 0.02:
            harm.add("bite")
        if not speed > 0:
            harm.add("spindle")
        elif waited < 0.2 * 3 - 0.01:
            harm.add("spin up")
        down = at[2] - to[2]
        flat = math.dist(at[:2], to[:2])
        if down > 0.05 and down > flat * math.tan(math.radians(yard.ramp_deg)) * 1.01:
            harm.add("plunge")
        if min(at[2], to[2]) < yard.floor - 0.01:
            harm.add("floor")
    if not feed > 0:
        harm.add("feed")
    if feed > yard.most_feed * 1.001:
        harm.add("too fast")
    if abs(speed) > yard.most_rev * 1.001:
        harm.add("too fast")
