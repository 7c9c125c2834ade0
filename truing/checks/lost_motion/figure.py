"""What is lost, remedy by remedy and link by link, and how it goes along the travel."""

from __future__ import annotations

from truing.checks.lost_motion.advise import done_in
from truing.checks.lost_motion.evaluate import TOLERANCE_KEYS, LostMotionFinding, title_of
from truing.checks.lost_motion.setup import LostMotionSetup
from truing.contract.case import Case
from truing.drawing.figures import (
    Bar,
    Curve,
    CurveFigure,
    CurvePoint,
    Figure,
    WaterfallFigure,
    magnification,
)
from truing.measure.words import plain, show, tick

MotionCase = Case[LostMotionSetup, LostMotionFinding]


def figures(case: MotionCase) -> list[Figure]:
    """The waterfall, and the travel where there are three places or more."""
    return [waterfall(case), *along(case.finding)]


def waterfall(case: MotionCase) -> WaterfallFigure:
    """Bars of the mean: as found, each remedy, now; then the shares that make up what is left."""
    mean, shares = case.finding.mean, case.finding.shares
    rounds = case.history.rounds
    past = [(r.values["mean"].value, done_in(r, case)) for r in rounds if "mean" in r.values]
    values = [v for v, _ in past] + [mean.value]
    bars = []
    if past:
        bars.append(_bar("as found", 0.0, values[0], values[0], "whole"))
        for i, (_, label) in enumerate(past):
            before, after = values[i], values[i + 1]
            bars.append(
                Bar(
                    label=label,
                    from_mm=before,
                    to_mm=after,
                    words=show(after - before, 0.001, signed=True),
                    sort="gain" if after <= before else "loss",
                )
            )
    bars.append(_bar("now", 0.0, mean.value, mean.value, "whole"))
    at = 0.0
    for link, share in shares.items():
        deduced = link == "rest"
        label = title_of(link) + (" (deduced)" if deduced else "")
        sort = "deduced" if deduced else "share"
        bars.append(_bar(label, at, at + share.value, share.value, sort))
        at += share.value
    limit = case.tolerances[TOLERANCE_KEYS[case.setup.cutting]]
    return WaterfallFigure(
        title=plain("What is lost, remedy by remedy and link by link"),
        bars=bars,
        limit_mm=limit,
        limit_words=show(limit, limit / 10),
    )


def _bar(label: str, low: float, high: float, value: float, sort: str) -> Bar:
    return Bar.model_validate(
        {"label": label, "from_mm": low, "to_mm": high, "words": show(value, 0.001), "sort": sort}
    )


def along(finding: LostMotionFinding) -> list[CurveFigure]:
    """Lost motion at each place, where there are enough of them to show a shape."""
    if len(finding.places) < 3:
        return []
    points = [
        CurvePoint(
            label=tick(p.at_mm),
            at_mm=p.at_mm,
            off_mm=p.lost.value,
            words=show(p.lost.value, max(p.lost.expanded / 3, 1e-4)),
        )
        for p in sorted(finding.places, key=lambda p: p.at_mm)
    ]
    span = points[-1].at_mm - points[0].at_mm
    return [
        CurveFigure(
            title=plain("Lost motion along the travel"),
            curves=[Curve(name="lost motion", points=points)],
            bolts=False,
            up="more lost",
            band_mm=None,
            band_words=None,
            factor=magnification(max(1e-4, *(abs(p.off_mm) for p in points)), span),
        )
    ]
