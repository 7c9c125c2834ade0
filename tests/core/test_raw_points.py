"""Plans from a probe's log of thousands of points, cut by a disc of our own into those very points:
not into what was kept of them."""

from __future__ import annotations

import math
import random
import re
from dataclasses import dataclass

import numpy as np
import pytest

from tests.core.test_bed_map import logged
from truing.checks.bed_map.evaluate import BedMapFinding
from truing.machine.board import Board
from truing.measure.problem import Problem
from truing.surfacing.facts import Facts
from truing.surfacing.plan import Surfacing, make
from truing.surfacing.wish import Wish

WIDE, DEEP = 300.0, 200.0
Points = np.ndarray


@dataclass
class Made:
    """A bed: its points, and which of them lie in a pit."""

    points: Points
    pits: Points


def a_bed(rng: random.Random, n: int) -> Made:
    """Tilted, bowed, rough; with a seam, chips and pits here and there."""
    rand = np.random.default_rng(rng.randrange(2**32))
    if rng.random() < 0.5:
        across = round(math.sqrt(n * WIDE / DEEP))
        x, y = np.meshgrid(
            np.linspace(-WIDE / 2, WIDE / 2, across), np.linspace(-DEEP / 2, DEEP / 2, n // across)
        )
        x, y = x.ravel(), y.ravel()
    else:
        x, y = rand.uniform(-WIDE / 2, WIDE / 2, n), rand.uniform(-DEEP / 2, DEEP / 2, n)
    z = rng.uniform(-1e-3, 1e-3) * x + rng.uniform(-1e-3, 1e-3) * y + rng.uniform(0, 6e-6) * x * x
    z += rand.normal(0, rng.choice([0.001, 0.003]), len(x))
    for _ in range(rng.randrange(3)):
        z[np.abs(x - rng.uniform(-140, 140)) < rng.uniform(3, 6)] += rng.uniform(0.2, 1.2)
    for _ in range(rng.randrange(4)):
        z[np.hypot(x - rng.uniform(-140, 140), y - rng.uniform(-90, 90)) < 4] += rng.uniform(0.2, 2)
    pits = np.zeros(len(x), bool)
    for _ in range(rng.randrange(4)):
        here = np.hypot(x - rng.uniform(-140, 140), y - rng.uniform(-90, 90)) < rng.uniform(2, 6)
        z[here] -= rng.uniform(0.6, 5)
        pits |= here
    return Made(np.column_stack([x, y, z]), pits)


def facts_of(finding: BedMapFinding) -> Facts:
    area = next(q for q in finding.quantities if q.key == "area").estimate
    return Facts(
        machine="Curlew",
        table_x_mm=WIDE,
        table_y_mm=DEEP,
        board=Board(thickness_mm=30, least_mm=8),
        map=[(c.x_mm, c.y_mm, c.up_mm) for c in finding.cells],
        patches=finding.patches,
        holes=finding.holes,
        map_expanded_mm=(area.most - area.value) / 2**0.5,
        proven_feed_mm_min=3000,
    )


@dataclass
class Cut:
    """What a program did to each point: the deepest bite into it, and where it stands now."""

    bites: Points
    up: Points
    hit: bool


def cut(program: str, points: Points, radius: float, zero: tuple[float, float, float]) -> Cut:
    """Run it over bare points, each a column; `zero` is where X0 Y0 Z0 lies among them."""
    x, y, up = (points[:, i] - zero[i] for i in range(3))
    up = up.copy()
    bites = np.zeros(len(up))
    at, mode, hit = [math.nan] * 3, 0, False
    for line in program.splitlines():
        words = dict(re.findall(r"([GXYZ])(-?[\d.]+)", re.sub(r"\(.*\)", "", line)))
        if words.get("G") in ("0", "1"):
            mode = int(words["G"])
        if not set(words) & set("XYZ"):
            continue
        to = [float(words.get(a, v)) for a, v in zip("XYZ", at, strict=True)]
        if not any(math.isnan(v) for v in at):
            dx, dy = to[0] - at[0], to[1] - at[1]
            long = dx * dx + dy * dy
            t = np.clip(((x - at[0]) * dx + (y - at[1]) * dy) / long, 0, 1) if long else 0 * x
            near = np.hypot(x - at[0] - t * dx, y - at[1] - t * dy) < radius
            # the lowest that the disc comes to there: a slope at the end that lies lower
            low = np.full(len(x), min(at[2], to[2]))
            off = np.where(near, up - low, 0.0)
            if mode == 0:
                hit |= bool((off > 1e-6).any()) and not (long == 0 and to[2] > at[2])
            else:
                bites = np.maximum(bites, off)
                up = np.where(off > 0, low, up)
        at = to
    return Cut(bites, up, hit)


@pytest.mark.parametrize("seed", range(14))
def test_no_plan_bites_deeper_into_what_was_probed_than_it_says(seed: int) -> None:
    rng = random.Random(seed)
    bed = a_bed(rng, rng.choice([900, 2500, 7676]))
    finding = logged(bed.points.tolist()).finding
    wish = Wish(
        diameter_mm=rng.choice([16.0, 40.0]),
        depth_mm=0.2,
        skim_mm=0.1,
        ramp_deg=1.0,
        zero=rng.choice(["highest", "spot"]),
        zero_x_mm=rng.uniform(-140, 140),
        zero_y_mm=rng.uniform(-90, 90),
        origin="bed",
        pattern=rng.choice(["raster", "rings_in"]),
        reach_left_mm=-200,
        reach_right_mm=200,
        feed_mm_min=3000,
    )
    try:
        plan: Surfacing = make(wish, facts_of(finding))
    except Problem as refused:
        assert refused.field == "zero_x_mm"
        return
    assert plan.report.faults == []
    lowest = bed.points[:, 2].min()
    nearest = np.hypot(bed.points[:, 0] - wish.zero_x_mm, bed.points[:, 1] - wish.zero_y_mm)
    at = bed.points[nearest.argmin() if wish.zero == "spot" else bed.points[:, 2].argmax(), 2]
    done = cut(plan.program, bed.points, wish.diameter_mm / 2, (0.0, 0.0, at))
    assert not done.hit
    assert done.bites.max() <= wish.depth_mm + 0.002
    # all of it is cut but what is drawn as left
    left = done.bites == 0
    for hole in finding.holes:
        x0, y0, x1, y1 = hole.box
        x, y, _ = bed.points.T
        left &= ~((x0 <= x) & (x <= x1) & (y0 <= y) & (y <= y1))
    assert not left.any()
    drawn = [u for u in plan.uncut if "hole" in u.words.metric]
    assert len(drawn) == len([h for h in finding.holes if h.low_mm < plan_floor(plan, at - lowest)])
    # one hole does not cost the board
    sound = bed.points[~bed.pits, 2]
    assert plan.removed_mm <= np.ptp(sound) + wish.skim_mm + wish.depth_mm + 0.1


def plan_floor(plan: Surfacing, zero: float) -> float:
    """Of its last level, over the lowest point."""
    return plan.levels[-1].z_mm + zero
