"""How the stand-in answers a move."""

from __future__ import annotations

import numpy as np

from truing.contract.move import Move
from truing.machine import Machine
from truing.measure.problem import Problem
from truing.standin.hands import SHIM_SD_MM, Answers, Hands
from truing.standin.read import readers
from truing.standin.truth import Truth


def answers(kind: str) -> Answers:
    """How the machine answers the moves of a kind of check, by mechanism."""
    module = readers().get(kind)
    return getattr(module, "ANSWERS", {})


def apply(
    kind: str,
    move: Move,
    truth: Truth,
    machine: Machine,
    rng: np.random.Generator,
    *,
    shim_sd_mm: float = SHIM_SD_MM,
) -> Truth:
    """The machine after someone made this move of a kind of check (a new Truth; the old one is
    untouched). Problem for a mechanism that nobody taught it."""
    answer = answers(kind).get(move.mechanism)
    if answer is None:
        raise Problem(
            f"The simulated machine does not know what {move.mechanism} does.",
            expected="Say what you did instead.",
            field="key",
        )
    return answer(move, truth, Hands(machine, rng, shim_sd_mm))
