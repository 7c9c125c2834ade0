"""The waterfall: what was lost, what each remedy took off it, and what the rest is made of."""

from __future__ import annotations

from truing.checks.lost_motion.setup import LINKS, LostMotionSetup
from truing.contract.history import History
from truing.drawing.figures import Bar, WaterfallFigure
from truing.measure.estimate import Estimate
from truing.measure.words import plain, show


def waterfall(
    setup: LostMotionSetup, mean: Estimate, shares: dict[str, Estimate], history: History
) -> WaterfallFigure:
    """Bars of the mean: as found, each remedy, now; then the shares that make up what is left."""
    past = [(r.values["mean"].value, r.did) for r in history.rounds if "mean" in r.values]
    values = [v for v, _ in past] + [mean.value]
    bars = []
    if past:
        bars.append(_bar("as found", 0.0, values[0], values[0], "whole"))
        for i, (_, did) in enumerate(past):
            before, after = values[i], values[i + 1]
            sort = "gain" if after <= before else "loss"
            bars.append(
                Bar(
                    label=did.partition(":")[0] or "read again",
                    from_mm=before,
                    to_mm=after,
                    words=show(after - before, 0.001, signed=True),
                    sort=sort,
                )
            )
    bars.append(_bar("now", 0.0, mean.value, mean.value, "whole"))
    at = 0.0
    for link, share in shares.items():
        deduced = link == "rest"
        label = "all the rest (deduced)" if deduced else LINKS[link][0]  # type: ignore[index]
        bars.append(
            _bar(label, at, at + share.value, share.value, "deduced" if deduced else "share")
        )
        at += share.value
    limit = 0.02 if setup.cutting == "both" else 0.05
    return WaterfallFigure(
        title=plain("What is lost, remedy by remedy and link by link"),
        bars=bars,
        limit_mm=limit,
        limit_words=show(limit, 0.001),
    )


def _bar(label: str, low: float, high: float, value: float, sort: str) -> Bar:
    return Bar(
        label=label,
        from_mm=low,
        to_mm=high,
        words=show(value, 0.001),
        sort=sort,
    )
