"""What a series of rounds says: whether it gets better, and what to ask when it does not."""

from __future__ import annotations

import math
from typing import Any, Literal

from pydantic import BaseModel

from truing.contract.case import Case
from truing.contract.move import Prediction
from truing.measure.estimate import Estimate, combined
from truing.measure.words import Words, say, show_estimate

MOST_FORETOLD = 8
"""Rounds: nobody goes on for longer by the same moves."""


class Trend(BaseModel):
    """How one quantity went from the round before to this one."""

    quantity: str
    ratio: float | None
    """Size now over size before; None when both are within their own uncertainty."""
    rounds_left: int | None
    """At this rate; None where there is none, or nobody would go on for so long."""
    sense: Literal["better", "wrong_way", "overshoot", "steady", "nothing"]
    surprise: bool
    """Outside what was predicted ± U, even if inside the tolerance."""
    text: Words


def trend(
    quantity: str,
    label: Words,
    before: Estimate,
    now: Estimate,
    tolerance: float,
    predicted: Estimate | None,
) -> Trend:
    """Compare two successive rounds of one quantity, in the unit of its measure."""
    both_noise = not before.visible and not now.visible
    ratio = None if both_noise or before.value == 0 else abs(now.value) / abs(before.value)
    noise = combined(before.expanded, now.expanded)
    grew = abs(now.value) - abs(before.value) > noise
    flipped = before.value * now.value < 0
    sense: Literal["better", "wrong_way", "overshoot", "steady", "nothing"]
    if both_noise:
        sense = "nothing"
    elif grew:
        sense = "overshoot" if flipped else "wrong_way"
    elif abs(before.value) - abs(now.value) > noise:
        sense = "better"
    else:
        sense = "steady"
    left = None
    # what gets smaller by less than can be seen has no rate
    if sense == "better" and ratio and ratio < 1 and abs(now.value) > tolerance:
        rounds = math.ceil(math.log(tolerance / abs(now.value)) / math.log(ratio) - 1e-9)
        left = rounds if rounds <= MOST_FORETOLD else None
    surprise = predicted is not None and abs(now.value - predicted.value) > predicted.expanded
    return Trend(
        quantity=quantity,
        ratio=ratio,
        rounds_left=left,
        sense=sense,
        surprise=surprise,
        text=_text(label, sense, left, surprise, predicted),
    )


def _text(
    label: Words,
    sense: str,
    left: int | None,
    surprise: bool,
    predicted: Estimate | None,
) -> Words:
    said = {
        "better": "{label}: better than the round before.",
        "wrong_way": "{label}: it has grown in the same sense, so it was moved the wrong way.",
        "overshoot": "{label}: it went past zero and is now larger on the other side.",
        "steady": "{label}: about as before.",
        "nothing": "{label}: both rounds are within what can be read.",
    }[sense]
    text = say(said, label=label)
    if left:
        text += f" At this rate {left} more round{'s' if left > 1 else ''}."
    if surprise and predicted is not None:
        text = say(
            "{text} {p} was predicted: check the corner, the seating of shims, and whether the "
            "dial was bumped.",
            text=text,
            p=show_estimate(predicted.value, predicted.expanded, predicted.measure, signed=True),
        )
    return text


def trends(case: Case[Any, Any], predicted: list[Prediction]) -> list[Trend]:
    """Every judged quantity that the round before of this sitting also had."""
    rounds = case.history.rounds
    alike = case.history.alike(case.setup.condition)
    last = next((r for r in reversed(rounds) if r in alike), None)
    if last is None:
        return []
    before = last.values
    # what was foretold of one condition is nothing to another
    forecast = {p.quantity: p.after for p in predicted} if last is rounds[-1] else {}
    return [
        trend(
            q.key,
            q.label,
            before[q.key],
            q.estimate,
            case.tolerances[q.tolerance_key],
            forecast.get(q.key),
        )
        for q in case.finding.quantities
        if q.key in before and q.tolerance_key is not None
    ]
