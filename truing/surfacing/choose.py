"""Which way to feed and how wide to step, so that a leaning spindle's ridges stay small."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from truing.effects.ridges import (
    Doubtful,
    Feed,
    Ridge,
    widest,
    worst_dish,
    worst_leans,
    worst_ridge,
)
from truing.measure.words import Words, plain, say, show, show_most
from truing.surfacing.wish import Wish

SHARES = (0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9)
"""Stepovers that are set beside each other, of what the cutter cuts flat."""
USUAL = 0.6
MOST = 0.9
"""The widest that is proposed: a rim's wear must not leave a strip."""


class RidgeRow(BaseModel):
    """What one stepover leaves, fed either way; None where the lean is not known (mm)."""

    stepover_mm: float
    x_mm: float | None
    y_mm: float | None


class StepChoice(BaseModel):
    """How a plan steps, and what it leaves."""

    along: Literal["x", "y"]
    stepover_mm: float
    ridge_mm: float | None
    """At the most; None where the lean is not known."""
    dish_mm: float | None
    rows: list[RidgeRow]
    words: Words
    worst_leans: tuple[float, float] | None = None
    """Along X and Y (mm/m): those within their U that leave the most."""


def choose(
    wish: Wish, lean_x: Doubtful | None, lean_y: Doubtful | None, longer: Feed
) -> StepChoice:
    """Feed and stepover for a wish; `longer` is the way in which lines turn least often."""
    flat = wish.flat_mm
    if lean_x is None or lean_y is None:
        along: Feed = longer if wish.along == "best" else wish.along
        step = wish.stepover_mm or round(USUAL * flat, 2)
        return StepChoice(
            along=along,
            stepover_mm=step,
            ridge_mm=None,
            dish_mm=None,
            rows=[RidgeRow(stepover_mm=s * flat, x_mm=None, y_mm=None) for s in SHARES],
            words=plain(
                "How the spindle leans is not known, or not any more: what ridges it leaves cannot "
                "be said before the tram is measured."
            ),
        )
    rows = [
        RidgeRow(
            stepover_mm=s * flat,
            x_mm=worst_ridge(flat, s * flat, lean_x, lean_y, "x").height_mm,
            y_mm=worst_ridge(flat, s * flat, lean_x, lean_y, "y").height_mm,
        )
        for s in SHARES
    ]
    ways: dict[Feed, float] = {
        f: wish.stepover_mm or widest(flat, wish.ridge_mm, lean_x, lean_y, f, MOST * flat)
        for f in ("x", "y")
    }
    left = {f: worst_ridge(flat, s or USUAL * flat, lean_x, lean_y, f) for f, s in ways.items()}
    along = wish.along if wish.along != "best" else _better(ways, left, longer)
    step = ways[along]
    hidden = step > 0
    step = step or USUAL * flat
    stays = left[along].height_mm
    words = say(
        "Fed {way} with {s} steps its ridges stay below {h}.",
        way="left to right" if along == "x" else "front to rear",
        s=show(step, 0.1),
        h=show_most(stays, 0.001),
    )
    if not hidden or stays > wish.ridge_mm:
        words = say(
            "With this lean no step hides the ridges below {w}: {h} would stay. Only the tram can "
            "better that.",
            w=show(wish.ridge_mm, 0.001),
            h=show_most(stays, 0.001),
        )
        if wish.stepover_mm and widest(flat, wish.ridge_mm, lean_x, lean_y, along) > 0:
            words = say(
                "Steps of {s} leave ridges of up to {h}; {best} would keep them below {w}.",
                s=show(step, 0.1),
                h=show_most(stays, 0.001),
                best=show(widest(flat, wish.ridge_mm, lean_x, lean_y, along), 0.1),
                w=show(wish.ridge_mm, 0.001),
            )
    return StepChoice(
        along=along,
        stepover_mm=step,
        ridge_mm=stays,
        dish_mm=worst_dish(flat, lean_x, lean_y, along),
        rows=rows,
        words=words,
        worst_leans=worst_leans(flat, step, lean_x, lean_y, along),
    )


def _better(ways: dict[Feed, float], left: dict[Feed, Ridge], longer: Feed) -> Feed:
    """The way with the wider step; where they are alike, the way in which lines turn least."""
    if abs(ways["x"] - ways["y"]) > 0.02 * max(ways.values()):
        return "x" if ways["x"] > ways["y"] else "y"
    return longer
