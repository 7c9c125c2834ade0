"""True, out, or too close to call, and the way out of the last."""

from __future__ import annotations

import math
from typing import Literal

from pydantic import BaseModel

from truing.measure.estimate import Estimate
from truing.measure.words import Words, plain, say, show

Verdict = Literal["true", "out", "too_close"]

VERDICT_WORDS: dict[Verdict, str] = {
    "true": "True",
    "out": "Out",
    "too_close": "Too close to call",
}
MOST_PASSES = 10


class WayOut(BaseModel):
    """What would settle a verdict that is too close to call."""

    passes: int | None
    """Total readings per station that give an even chance of a decision; None: no number will."""
    passes_sure: int | None
    """As many as decide nine times in ten."""
    needed_expanded: float
    """U that an instrument would have to reach, in the quantity's unit."""
    text: Words


def verdict(value: Estimate, tolerance: float, floor: float = 0.0) -> Verdict:
    """|x| + U ≤ T is true, |x| − U > T is out, anything between is too close to call.

    `floor` is what noise alone makes of a highest-less-lowest figure: below it the figure cannot
    be told from nothing, and it has to clear the limit by as much to be out.
    """
    size = abs(value.value)
    if max(size, floor) + value.expanded <= tolerance:
        return "true"
    return "out" if size - floor - value.expanded > tolerance else "too_close"


def worst(verdicts: list[Verdict]) -> Verdict:
    """The verdict of a check from those of its quantities."""
    if "out" in verdicts:
        return "out"
    return "too_close" if "too_close" in verdicts else "true"


def way_out(
    value: Estimate,
    tolerance: float,
    *,
    gain: float,
    s_mm: float,
    step_mm: float,
    extended: bool,
) -> WayOut:
    """How many readings per station would decide, or which U an instrument must have.

    `gain` is √C, the quantity per mm of one station's reading. Only one extension is offered
    (`extended` says it was used): repeating until it passes makes a false "true" four times as
    likely.
    """
    gap = abs(tolerance - abs(value.value))
    if gap < value.expanded / 10:
        return WayOut(
            passes=None,
            passes_sure=None,
            needed_expanded=gap,
            text=plain(
                "It lies on the limit itself, and no instrument will tell on which side. Take it "
                "as out, and make the move."
            ),
        )
    need = say("an instrument good to ±{u}", u=show(gap, gap / 10 or 1e-3, value.measure))
    room = (gap / 2) ** 2 - gain**2 * step_mm**2 / 12
    n = math.ceil(gain**2 * s_mm**2 / room) if room > 0 else MOST_PASSES + 1
    if extended:
        return WayOut(
            passes=None,
            passes_sure=None,
            needed_expanded=gap,
            text=say(
                "The extra passes are in and it is still too close. Use {need}, or accept that it "
                "cannot be told from the limit.",
                need=need,
            ),
        )
    if n > MOST_PASSES:
        return WayOut(
            passes=None,
            passes_sure=None,
            needed_expanded=gap,
            text=say("This instrument cannot decide it. Use {need}.", need=need),
        )
    n = max(n, 2)
    sure = math.ceil(2.7 * n)
    return WayOut(
        passes=n,
        passes_sure=sure,
        needed_expanded=gap,
        text=plain(
            f"Take {n} passes in all for an even chance of a decision, {sure} for nine in ten. "
            "Decide once, then stop."
        ),
    )
