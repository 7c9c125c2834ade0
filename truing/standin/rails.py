"""How rails answer: every bolt that is named takes its rail along; between bolts it bends."""

from __future__ import annotations

from truing.contract.move import Move
from truing.machine import Rails
from truing.standin.hands import Hands
from truing.standin.truth import RailsTruth, Truth


def shimmed(move: Move, truth: Truth, hands: Hands) -> Truth:
    """Stacks under places of the rails."""
    changed, rails = truth.rails.model_copy(deep=True), _rails(hands)
    for stack in move.stacks:
        added = sum(stack.after_mm) - sum(stack.before_mm)
        if stack.after_mm != stack.before_mm:
            added += hands.stack_mm(len(stack.after_mm))
        first = (stack.x_mm if rails.runs == "front_back" else stack.y_mm) < 0
        values = changed.first_up_mm if first else changed.second_up_mm
        values[_nearest(changed, rails, stack.x_mm, stack.y_mm)] += added
    return truth.model_copy(update={"rails": changed})


def first_pushed(move: Move, truth: Truth, hands: Hands) -> Truth:
    """The first rail, sideways at its bolts."""
    changed = truth.rails.model_copy(deep=True)
    return _pushed(move, truth, hands, changed, changed.side_mm)


def second_pushed(move: Move, truth: Truth, hands: Hands) -> Truth:
    """The second rail, sideways at its bolts."""
    changed = truth.rails.model_copy(deep=True)
    return _pushed(move, truth, hands, changed, changed.second_mm)


def _pushed(
    move: Move, truth: Truth, hands: Hands, changed: RailsTruth, values: list[float]
) -> Truth:
    for amount in move.amounts:
        at = _nearest(changed, _rails(hands), amount.x_mm, amount.y_mm)
        values[at] += amount.amount_mm * hands.about(0.75, 1.25)
    return truth.model_copy(update={"rails": changed})


def _rails(hands: Hands) -> Rails:
    assert hands.machine.rails is not None
    return hands.machine.rails


def _nearest(truth: RailsTruth, rails: Rails, x_mm: float, y_mm: float) -> int:
    at = (y_mm if rails.runs == "front_back" else x_mm) + rails.length_mm / 2
    return min(range(len(truth.at_mm)), key=lambda i: abs(truth.at_mm[i] - at))
