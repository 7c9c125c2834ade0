"""Whether a move is worth making: one rule for all kinds of check."""

from __future__ import annotations

from typing import Any

from truing.contract.case import Case
from truing.contract.move import Advice, Move


def worthwhile(case: Case[Any, Any], advice: Advice) -> Advice:
    """Moves that take something off what is not true and can be told from nothing. While a reading
    is in doubt that would decide them there are none, but what to do about it."""
    wild = case.finding.pointed_out
    if wild is not None:
        return Advice(moves=[], leave=None, remarks=[wild.text])
    return advice.model_copy(update={"moves": [m for m in advice.moves if worth(case, m)]})


def worth(case: Case[Any, Any], move: Move) -> bool:
    """Whether a move is about something that has to change. One that takes off no judged quantity
    (a setting to be entered, say) stands for itself; where all quantities are true, what was seen
    or felt asks for it."""
    amiss = {q.key for key in case.tolerances for q in case.amiss(key)}
    told = {q.key for q in case.finding.quantities if q.tolerance_key is not None}
    judged = [t.quantity for t in move.takes if t.quantity in told]
    if not judged or not amiss:
        return True
    sure = {q.key for q in case.finding.quantities if q.estimate.visible}
    return any(key in amiss and key in sure for key in judged)
