"""A plan for a machine without a controller: lines, dial positions, depths."""

from __future__ import annotations

from itertools import pairwise

from pydantic import BaseModel

from truing.measure.words import Words, join, plain, say, show
from truing.surfacing.lines import Pass

MOST_LINES = 400


class HandLine(BaseModel):
    """One pass: set this, go from here to there."""

    level: int
    set_words: Words
    go_words: Words


def by_hand(
    levels: list[tuple[float, list[Pass]]], origin: tuple[float, float], along: str
) -> list[HandLine]:
    """Every straight pass of every level, from the program's zero."""
    found: list[HandLine] = []
    for n, (z, passes) in enumerate(levels, 1):
        for p in passes:
            for a, b in pairwise(p):
                ends = [(q[0] - origin[0], q[1] - origin[1]) for q in (a, b)]
                found.append(
                    HandLine(
                        level=n,
                        set_words=say(
                            "Z {z}, {axis} {at}",
                            z=show(z, 0.01),
                            axis="Y" if along == "x" else "X",
                            at=show(ends[0][1 if along == "x" else 0], 0.1),
                        ),
                        go_words=join(
                            [plain("from"), _place(ends[0]), plain("to"), _place(ends[1])]
                        ),
                    )
                )
    return found[:MOST_LINES]


def _place(at: tuple[float, float]) -> Words:
    x, y = (show(v, 0.1, unit=False) for v in at)
    return say("X {x} Y {y}", x=x, y=y)
