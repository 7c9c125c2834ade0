"""What the advice looks at, and what each piece of it has in common."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from truing.check import History, Quantity, Tolerances
from truing.checks.spindle_tram.evaluate import SpindleTramFinding
from truing.checks.spindle_tram.setup import SpindleTramSetup
from truing.instruments import Instrument
from truing.machine import Machine
from truing.moves.move import Prediction, Shim
from truing.quantities import Estimate, combined
from truing.verdict import verdict
from truing.words import show_estimate

ISOLATE = "Isolate the machine before hands go near the cutter or spindle; turn it by hand."


@dataclass(frozen=True)
class Case:
    """Everything the advice looks at."""

    setup: SpindleTramSetup
    finding: SpindleTramFinding
    tolerances: Tolerances
    machine: Machine
    instrument: Instrument
    stock: Sequence[Shim]
    history: History

    def amiss(self, tolerance_key: str) -> list[Quantity]:
        """Quantities of this sort that are not true."""
        return [
            q
            for q in self.finding.quantities
            if q.tolerance_key == tolerance_key
            and verdict(q.estimate, self.tolerances[tolerance_key]) != "true"
        ]

    def of(self, tolerance_key: str) -> list[Quantity]:
        return [q for q in self.finding.quantities if q.tolerance_key == tolerance_key]


def after(now: Estimate, aimed: float, scatter: float) -> Estimate:
    """Prediction: what was aimed at, with the doubt of both readings and of the move itself."""
    changed = now.value - aimed
    big = combined(now.expanded, now.expanded, scatter * changed)
    return Estimate(value=aimed, u=big / 2, expanded=big)


def prediction(q: Quantity, after: Estimate) -> Prediction:
    """The prediction of one quantity, in words."""
    return Prediction(
        quantity=q.key,
        after=after,
        label=q.label,
        words=show_estimate(after.value, after.expanded, "slope", signed=True),
    )
