"""Cutters, and which of them each motion of a program runs with."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from truing.measure.problem import Problem
from truing.programs.motions import TOOL, Motions
from truing.programs.sweep import Tool

MOST_CHANGES = 1000
"""From one cutter to another: no spindle is fed so often."""


class Cutter(BaseModel):
    """What is in the spindle."""

    model_config = ConfigDict(frozen=True)

    diameter_mm: float = Field(gt=0)
    corner_mm: float = 0.0
    included_deg: float = 0.0
    """Of a V; 0 for none."""
    tip_mm: float = 0.0
    """Diameter of a V's flat tip."""
    rated_rev_per_min: float = 0.0
    depth_mm: float = 0.0
    """Most that it takes in one pass; 0 for not stated."""
    plunges: bool = False
    drill: bool = False
    """It only goes down, as deep as it likes."""
    ramp_deg: float = 3.0

    def tool(self, lean_x: float = 0.0, lean_y: float = 0.0) -> Tool:
        """Its shape with the spindle's lean (mm per mm)."""
        slope = 0.0
        if self.included_deg:
            slope = 1 / math.tan(math.radians(self.included_deg / 2))
        return Tool(
            radius_mm=self.diameter_mm / 2,
            corner_mm=0.0 if slope else min(self.corner_mm, self.diameter_mm / 2),
            slope=slope,
            tip_mm=self.tip_mm / 2,
            lean_x=lean_x,
            lean_y=lean_y,
        )


@dataclass(frozen=True)
class Stretch:
    """Motions one after the other with one cutter: from `first` on, up to `end`."""

    first: int
    end: int
    cutter: Cutter

    def of(self, motions: Motions) -> Motions:
        """Those of a program."""
        here = slice(self.first, self.end)
        return Motions(motions.at[here], motions.how[here], motions.odd)


def stretches(motions: Motions, usual: Cutter, tools: dict[int, Cutter]) -> list[Stretch]:
    """A program's motions by the cutter they run with: that of their tool in a table, or the usual
    one. Problem where it changes more often than anybody does."""
    numbers = motions.how[:, TOOL]
    if not tools or not len(numbers):
        return [Stretch(0, len(numbers), usual)]
    begins = np.concatenate([[0], np.flatnonzero(np.diff(numbers)) + 1])
    if len(begins) > MOST_CHANGES:
        raise Problem(
            f"It changes its tool {len(begins) - 1:,} times.",
            expected=f"Up to {MOST_CHANGES:,} changes: split it.",
            field="file",
        )
    found: list[Stretch] = []
    for begin, end in zip(begins, [*begins[1:], len(numbers)], strict=True):
        cutter = tools.get(int(numbers[begin]), usual)
        goes_on = bool(found) and found[-1].cutter == cutter
        first = found.pop().first if goes_on else int(begin)
        found.append(Stretch(first, int(end), cutter))
    return found


def widest(parts: Sequence[Stretch]) -> float:
    """Diameter of the widest of their cutters (mm)."""
    return max(part.cutter.diameter_mm for part in parts)


def by_motion(parts: Sequence[Stretch], what: str) -> NDArray[Any]:
    """What a field of their cutters is for each motion (n,), or for all of them ()."""
    values = [getattr(part.cutter, what) for part in parts]
    if len(set(values)) == 1:
        return np.asarray(values[0])
    return np.repeat(values, [part.end - part.first for part in parts])
