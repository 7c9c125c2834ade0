"""True, out, or too close to call, and the way out of the last."""

from __future__ import annotations

import math
from typing import Literal

from pydantic import BaseModel

from truing.measure.estimate import Estimate
from truing.measure.spread import LEAST_DOF, t_factor
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


def verdict(value: Estimate, tolerance: float) -> Verdict:
    """True when the largest that it may be is within the limit, out when the smallest is not,
    anything between is too close to call."""
    if value.most <= tolerance:
        return "true"
    return "out" if value.least > tolerance else "too_close"


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
    passes: int,
    spread_dof: int,
    stations: int,
) -> WayOut:
    """How many readings per station would decide, or which U an instrument must have.

    `gain` is √C, the quantity per mm of one station's reading; `passes` have been read at each of
    so many `stations`, with `spread_dof` degrees of freedom behind s. Only one extension is offered
    (`extended` says it was used): repeating until it passes makes a false "true" four times as
    likely.
    """
    gap = abs(tolerance - abs(value.value))
    half = (value.most - value.least) / 2 if value.limits else value.expanded
    if gap < min(half, tolerance) / 10:
        return _none(
            gap,
            plain(
                "It lies on the limit itself, and no instrument will tell on which side. Take it "
                "as out, and make the move."
            ),
        )
    need = say("an instrument good to ±{u}", u=show(gap, gap / 10 or 1e-3, value.measure))
    if extended:
        return _none(
            gap,
            say(
                "The extra passes are in and it is still too close. Use {need}, or accept that it "
                "cannot be told from the limit.",
                need=need,
            ),
        )

    def reading(n: int) -> float:
        """U² of the readings alone after n passes."""
        dof = spread_dof + stations * (n - passes)
        k = t_factor(dof) if dof >= LEAST_DOF else 2.0
        return gain**2 * (4 * step_mm**2 / 12 + k**2 * s_mm**2 / n)

    # what further readings leave as it is: the span, an edge, an instrument's own error
    fixed = max(0.0, half**2 - reading(passes))
    enough = (n for n in range(passes + 1, MOST_PASSES + 1) if reading(n) + fixed <= gap**2)
    n = next(enough, None)
    if n is None:
        return _none(gap, say("This instrument cannot decide it. Use {need}.", need=need))
    sure = max(n, math.ceil(2.7 * n))
    return WayOut(
        passes=n,
        passes_sure=sure,
        needed_expanded=gap,
        text=plain(
            f"Take {n} passes in all for an even chance of a decision, {sure} for nine in ten. "
            "Decide once, then stop."
        ),
    )


def _none(gap: float, text: Words) -> WayOut:
    return WayOut(passes=None, passes_sure=None, needed_expanded=gap, text=text)
