"""Boards with a bumpy face and things in their way, and wishes for surfacing them, at random."""

from __future__ import annotations

import random

import numpy as np

from truing.machine.board import Board, KeepOut
from truing.surfacing.facts import Facts
from truing.surfacing.wish import Wish


def a_board(rng: random.Random) -> Facts:
    """A small board with a bumpy face, and things in its way."""
    wide, deep = rng.uniform(90, 150), rng.uniform(70, 110)
    tilt, twist = rng.uniform(-0.004, 0.004), rng.uniform(-3e-5, 3e-5)
    places = [
        (x, y)
        for x in np.linspace(-wide / 2, wide / 2, 5)
        for y in np.linspace(-deep / 2, deep / 2, 4)
    ]
    up = [tilt * x + twist * x * y + rng.uniform(0, 0.1) for x, y in places]
    kept = []
    for k in range(rng.randrange(3)):
        kept.append(
            KeepOut(
                name=f"thing {k}",
                what=rng.choice(["screw", "clamp", "insert"]),
                shape=rng.choice(["circle", "rectangle", "polygon"]),
                corners_mm=[rng.uniform(2, 12) * s for s in (1, 1, -1, 0.5, 0.2, -1)],
                x_mm=rng.uniform(-wide / 2, wide / 2),
                y_mm=rng.uniform(-deep / 2, deep / 2),
                across_mm=rng.uniform(4, 20),
                deep_mm=rng.uniform(4, 20),
                top_mm=rng.choice([-6.0, -1.5, 2.0, 15.0]),
            )
        )
    return Facts(
        machine="Avocet",
        table_x_mm=wide,
        table_y_mm=deep,
        board=Board(thickness_mm=18, least_mm=8, keep_outs=kept),
        map=[(x, y, z - min(up)) for (x, y), z in zip(places, up, strict=True)],
        map_expanded_mm=0.01,
        lean_x=(rng.uniform(-0.4, 0.4), 0.05),
        lean_y=(rng.uniform(-0.4, 0.4), 0.05),
        proven_feed_mm_min=3000,
        day="2026-05-02",
    )


def a_wish(rng: random.Random, facts: Facts) -> Wish:
    short = rng.random() < 0.3
    x, y = facts.table_x_mm / 2, facts.table_y_mm / 2
    d = rng.choice([16.0, 22.0, 30.0])
    beyond = d / 2 + 5
    return Wish(
        diameter_mm=d,
        depth_mm=rng.choice([0.3, 0.5, 1.0]),
        skim_mm=rng.choice([0.1, 0.2]),
        pattern=rng.choice(["raster", "raster", "rings_in", "rings_out"]),
        along=rng.choice(["best", "x", "y"]),
        both_ways=rng.random() < 0.7,
        stepover_mm=rng.choice([0.0, 0.5 * d, 0.85 * d]),
        ridge_mm=0.05,
        zero=rng.choice(["highest", "spot"]),
        plate_mm=rng.choice([0.0, 10.0]),
        origin=rng.choice(["corner", "middle", "bed"]),
        units=rng.choice(["mm", "inch"]),
        reach_left_mm=-x + 3 if short else -x - beyond,
        reach_right_mm=x + beyond,
        reach_front_mm=-y - beyond,
        reach_rear_mm=y - 2 if short else y + beyond,
        by_hand=False,
        rated_rev=12000,
        body_mm=rng.choice([0.0, 44.0]),
        below_mm=12,
    )
