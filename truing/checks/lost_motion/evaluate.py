"""From two approaches to what is lost between them, along the travel and link by link."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

from truing.checks.common import at_place, peak_to_valley, quantity
from truing.checks.lost_motion.figure import waterfall
from truing.checks.lost_motion.setup import LINKS, Link, LostMotionSetup, stations
from truing.contract.finding import Finding, Quantity
from truing.contract.gather import Gathered, gather
from truing.contract.history import History
from truing.contract.readings import Reading
from truing.drawing.figures import Curve, CurveFigure, CurvePoint, magnification
from truing.kit.instruments import Instrument
from truing.measure.estimate import Estimate, combined
from truing.measure.problem import Problem
from truing.measure.words import Words, capital, place, plain, say, show, show_estimate

TOLERANCE_KEYS = {"both": "both_sides", "one": "one_side"}


class LostMotionFinding(Finding):
    """Lost motion (mm) at each place, its mean and unevenness, and the shares of the mean."""

    kind: Literal["lost_motion"] = "lost_motion"
    lost: dict[str, Estimate]
    mean: Estimate
    uneven: Estimate
    shares: dict[str, Estimate]
    """By link; `rest` is what no link that was read accounts for."""


def evaluate(
    setup: LostMotionSetup,
    readings: Sequence[Reading],
    instrument: Instrument,
    history: History,
) -> LostMotionFinding:
    """See `Check.evaluate`."""
    got = gather(stations(setup), readings, instrument, history)
    places = [f"{x:g}" for x in setup.places_mm if got.has(f"{x:g}-", f"{x:g}+")]
    if not places:
        raise Problem(
            "No place has been read from both sides yet.",
            expected="Come back to it from the other side, past it by a full turn.",
            field="readings",
        )
    # which way the dial counts does not matter: what is lost is what both approaches differ by
    raw = sum(got.means[f"{p}+"].mean_mm - got.means[f"{p}-"].mean_mm for p in places)
    sense = -1.0 if raw < 0 else 1.0
    lost = {p: got.combine({f"{p}+": sense, f"{p}-": -sense})[0] for p in places}
    weight = sense / len(places)
    mean, gain = got.combine(
        {f"{p}{side}": weight * s for p in places for side, s in (("+", 1), ("-", -1))}
    )
    u = math.sqrt(2) * max(m.u_mm for m in got.means.values())
    uneven, floor = peak_to_valley({p: e.value for p, e in lost.items()}, u)
    if len(places) < 2:
        uneven, floor = Estimate(value=0.0, u=u, expanded=2 * u), 0.0
    shares = _shares(setup, got, mean)
    worst = max(lost, key=lambda p: lost[p].value)
    return LostMotionFinding(
        quantities=[
            _worst(setup, worst, lost[worst]),
            quantity(
                "mean",
                "Mean along the travel",
                mean,
                plain(""),
                gain=gain,
                measure="length",
                tolerance_key=None,
                signed=False,
            ),
            *_share_quantities(shares),
        ],
        stations=got.station_means(),
        notes=got.notes("The result stands, but check the dial’s clamp."),
        spread=got.own,
        s_mm=got.s_mm,
        step_mm=instrument.step_mm,
        lines=_lines(setup, got, mean, uneven, floor, len(places)),
        figures=[waterfall(setup, mean, shares, history), *_along(setup, lost)],
        lost=lost,
        mean=mean,
        uneven=uneven,
        shares=shares,
    )


def _worst(setup: LostMotionSetup, worst: str, estimate: Estimate) -> Quantity:
    size = show_estimate(estimate.value, estimate.expanded, "length")
    where = at_place(float(worst), setup.slide)
    sentence = (
        say("It loses {size} at {where} before it moves.", size=size, where=where)
        if estimate.visible
        else say("No lost motion that can be told from nothing: {size}.", size=size)
    )
    return quantity(
        "lost",
        "Lost motion, worst place",
        estimate,
        sentence,
        gain=math.sqrt(2),
        measure="length",
        tolerance_key=TOLERANCE_KEYS[setup.cutting],
        signed=False,
    )


def _shares(setup: LostMotionSetup, got: Gathered, mean: Estimate) -> dict[str, Estimate]:
    shares: dict[str, Estimate] = {}
    for link in setup.links:
        if got.has(link):
            share = got.combine({link: 1.0})[0]
            shares[link] = share.model_copy(update={"value": abs(share.value)})
    if not shares:
        return {}
    total = mean.value + setup.compensation_mm
    big = combined(mean.expanded, *(s.expanded for s in shares.values()))
    rest = total - sum(s.value for s in shares.values())
    return {**shares, "rest": Estimate(value=rest, u=big / 2, expanded=big)}


def _share_quantities(shares: dict[str, Estimate]) -> list[Quantity]:
    return [
        quantity(
            f"share:{link}",
            capital(title_of(link)),
            estimate,
            plain(""),
            gain=1.0,
            measure="length",
            tolerance_key=None,
            deduced=link == "rest",
            signed=link == "rest",
        )
        for link, estimate in shares.items()
    ]


def title_of(link: str) -> str:
    """What a share is called."""
    if link == "rest":
        return "all the rest"
    key: Link = link  # type: ignore[assignment]
    return LINKS[key][0]


def _lines(
    setup: LostMotionSetup,
    got: Gathered,
    mean: Estimate,
    uneven: Estimate,
    floor: float,
    places: int,
) -> list[Words]:
    lines = [
        say(
            "On the mean {m}; each approach repeats within ±{s}.",
            m=show_estimate(mean.value, mean.expanded, "length"),
            s=show(2 * got.s_mm, max(got.s_mm / 5, 1e-4)),
        )
    ]
    if places > 1:
        size = show_estimate(uneven.value, uneven.expanded, "length")
        if uneven.value - floor > uneven.expanded:
            lines.append(
                say(
                    "It changes along the travel by {size}: the screw is worn where it works most. "
                    "Compensation can only take out the mean.",
                    size=size,
                )
            )
        else:
            lines.append(say("Even along the travel within {size}.", size=size))
    if setup.compensation_mm:
        lines.append(
            say(
                "That is with {c} taken out by the controller.",
                c=show(setup.compensation_mm, 0.001),
            )
        )
    return lines


def _along(setup: LostMotionSetup, lost: dict[str, Estimate]) -> list[CurveFigure]:
    if len(lost) < 3:
        return []
    points = [
        CurvePoint(
            label=place(float(p)),
            at_mm=float(p),
            off_mm=e.value,
            words=show(e.value, max(e.expanded / 3, 1e-4)),
        )
        for p, e in sorted(lost.items(), key=lambda item: float(item[0]))
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
