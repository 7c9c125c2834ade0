"""What hands make of advice: they fall short or go too far, shims vary, tightening shifts.

Each kind's stand-in says in its `ANSWERS` how the machine answers a move on each mechanism that the
kind adjusts.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from truing.contract.move import Move
from truing.machine import Machine
from truing.machine.mechanisms import Mechanism
from truing.standin.truth import Truth

SHIM_SD_MM = 0.001
"""How far a shim is off what it says: seldom by more than its tolerance."""


@dataclass(frozen=True)
class Hands:
    """Somebody who makes a move on a machine."""

    machine: Machine
    rng: np.random.Generator
    shim_sd_mm: float = SHIM_SD_MM

    def about(self, low: float = 0.85, high: float = 1.15) -> float:
        """What is made of a stated amount."""
        return float(self.rng.uniform(low, high))

    def tap(self, truth: Truth) -> float:
        """What is made of a tap on this machine."""
        return truth.tap_gain * self.about(0.75, 1.25)

    def stack_mm(self, pieces: int = 1) -> float:
        """How far a stack of so many pieces is off."""
        return float(self.rng.normal(0.0, self.shim_sd_mm) * math.sqrt(max(1, pieces)))


Answer = Callable[[Move, Truth, Hands], Truth]
Answers = dict[Mechanism, Answer]


def untouched(move: Move, truth: Truth, hands: Hands) -> Truth:
    """For a mechanism that a move disturbs without setting it: nothing that is read changes."""
    return truth


def slide_with(truth: Truth, direction: str, **change: Any) -> Truth:
    """The machine with something else about one of its slides."""
    slide = truth.slide(direction).model_copy(update=change)
    return truth.model_copy(update={"slides": {**truth.slides, direction: slide}})
