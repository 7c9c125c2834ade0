"""What this chain tells against the one that was read before it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from truing.checks.tool_runout.magnitudes import apart
from truing.contract.case import Case
from truing.contract.finding import Quantity, shown
from truing.course.standing import day
from truing.machine.subject import Subject
from truing.measure.words import Words, capital, plain, say


def since_before(case: Case[Any, Any], quantities: Sequence[Quantity]) -> list[Words]:
    """Where one piece was changed since another chain was read at the same height, how far that
    stands off; where more were, that nothing is told of either."""
    setup = case.setup
    if setup.way != "plain" or not setup.made_of:
        return []
    key = f"tir@{max(setup.heights_mm):g}"
    now = next((q.estimate for q in quantities if q.key == key), None)
    if now is None:
        return []
    before = next(
        (
            k
            for k in case.known
            if k.kind == setup.kind and key in k.values and k.subject != setup.subject.text
        ),
        None,
    )
    if before is None:
        return []
    then = Subject.read(before.subject).keys
    fresh = [k for k in setup.made_of if k not in then]
    gone = [k for k in then if k not in setup.made_of]
    if len(fresh) == 1 and len(gone) <= 1:
        return [
            say(
                "Against {day} only {piece} is new: it stands off the one before it by {off} of "
                "TIR, with all else as it was.",
                day=day(before.at),
                piece=setup.names.get(fresh[0], "one piece"),
                off=shown(apart(now, before.values[key])),
            )
        ]
    if len(fresh) > 1:
        names = " and ".join(setup.names.get(k, "a piece") for k in fresh)
        text = f"{capital(names)} were changed since {day(before.at)}: nothing is told of either. "
        return [plain(text + "Put one of them back and read again.")]
    return []
