"""From two approaches to what is lost between them, along the travel and link by link."""

from __future__ import annotations

import math
from typing import Literal

from pydantic import BaseModel

from truing.checks.common import at_place
from truing.checks.lost_motion.links import NAMED, Link
from truing.checks.lost_motion.setup import LostMotionSetup, stations
from truing.contract.case import Case
from truing.contract.finding import Finding, Quantity, quantity, shown
from truing.contract.gather import Gathered, gather
from truing.measure.estimate import Estimate
from truing.measure.extremes import peak_to_valley, worst_of
from truing.measure.problem import Problem
from truing.measure.words import Words, capital, say, show, show_estimate

TOLERANCE_KEYS = {"both": "both_sides", "one": "one_side"}


class LostAt(BaseModel):
    """What is lost at one place along the travel."""

    at_mm: float
    lost: Estimate


class LostMotionFinding(Finding):
    """Lost motion at each place, its mean and unevenness, and the shares of the mean."""

    kind: Literal["lost_motion"] = "lost_motion"
    places: list[LostAt]
    mean: Estimate
    uneven: Estimate
    shares: dict[str, Estimate]
    """By link; `rest` is what no link that was read accounts for."""
    counts_up: Literal["plus", "minus"] = "plus"
    """Which way the slide goes when the dial counts up, as the lag itself or the set-up tells."""


def evaluate(case: Case[LostMotionSetup, LostMotionFinding]) -> LostMotionFinding:
    """See `Check.evaluate`."""
    setup = case.setup
    got = gather(case, stations(setup))
    places = [x for x in setup.places_mm if got.has(f"{x:g}-", f"{x:g}+")]
    if not places:
        raise Problem(
            "No place has been read from both sides yet.",
            expected="Come back to it from the other side, past it by a full turn.",
            field="readings",
        )
    raw = sum(got.means[f"{p:g}+"].mean_mm - got.means[f"{p:g}-"].mean_mm for p in places)
    sense = _sense(setup, raw)
    lost = [
        LostAt(at_mm=p, lost=got.combine({f"{p:g}+": sense, f"{p:g}-": -sense})[0]) for p in places
    ]
    weight = sense / len(places)
    mean, gain = got.combine(
        {f"{p:g}{side}": weight * s for p in places for side, s in (("+", 1), ("-", -1))}
    )
    uneven = peak_to_valley([p.lost.value for p in lost], max(p.lost.expanded for p in lost))
    shares = _shares(setup, got, mean)
    at, worst = worst_of([p.lost for p in lost])
    return LostMotionFinding(
        quantities=[
            _worst(setup, lost[at].at_mm, worst),
            quantity(
                "mean",
                "Mean along the travel",
                mean,
                None,
                gain=gain,
                tolerance_key=None,
                signed=False,
            ),
            *_share_quantities(shares),
        ],
        **got.told("The result stands, but check the dial’s clamp."),
        lines=_lines(setup, got, mean, uneven, len(places)),
        places=lost,
        mean=mean,
        uneven=uneven,
        shares=shares,
        counts_up="plus" if sense > 0 else "minus",
    )


def _sense(setup: LostMotionSetup, raw: float) -> float:
    """What makes a lag plus. Pulled back to a figure from beyond it a slide stands short of it on
    the plus side; which way the dial counts is nobody's business while nothing is compensated."""
    if setup.plus_is == "unknown" or not setup.compensation_mm:
        return -1.0 if raw < 0 else 1.0
    return 1.0 if setup.plus_is == "plus" else -1.0


def _worst(setup: LostMotionSetup, at_mm: float, estimate: Estimate) -> Quantity:
    size = shown(estimate)
    where = at_place(at_mm, setup.slide)
    told: dict[str, Words | str] = {"size": size, "where": where}
    over = estimate.value < 0
    sentence = (
        say("It misses by {size} at {where}: short or ahead, only the dial’s sense tells.", **told)
        if estimate.visible and doubtful(setup)
        else say("It runs ahead by {size} at {where}: more is taken out than is lost.", **told)
        if estimate.visible and over
        else say("It loses {size} at {where} before it moves.", **told)
        if estimate.visible
        else say("No lost motion that can be told from nothing: {size}.", size=size)
    )
    return quantity(
        "lost",
        "Lost motion, worst place",
        estimate,
        sentence,
        gain=math.sqrt(2),
        tolerance_key=TOLERANCE_KEYS[setup.cutting],
        signed=False,
    )


def _shares(setup: LostMotionSetup, got: Gathered, mean: Estimate) -> dict[str, Estimate]:
    shares: dict[str, Estimate] = {}
    for link in setup.links:
        if got.has(link):
            share = got.combine({link: 1.0})[0]
            shares[link] = share.model_copy(update={"value": abs(share.value)})
    if not shares or doubtful(setup):
        return shares
    rest = mean.shifted(setup.compensation_mm)
    for share in shares.values():
        rest = rest - share
    return {**shares, "rest": rest}


def _share_quantities(shares: dict[str, Estimate]) -> list[Quantity]:
    return [
        quantity(
            f"share:{link}",
            capital(title_of(link)),
            estimate,
            None,
            gain=1.0,
            tolerance_key=None,
            deduced=link == "rest",
            signed=link == "rest",
        )
        for link, estimate in shares.items()
    ]


def doubtful(setup: LostMotionSetup) -> bool:
    """Whether the controller compensates, and nobody said which way the dial counts: then a lag
    and a lead look the same."""
    return setup.compensation_mm > 0 and setup.plus_is == "unknown"


def title_of(link: str) -> str:
    """What a share is called."""
    if link == "rest":
        return "all the rest"
    key: Link = link  # type: ignore[assignment]
    return NAMED[key].title


def _lines(
    setup: LostMotionSetup,
    got: Gathered,
    mean: Estimate,
    uneven: Estimate,
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
        size = shown(uneven)
        if uneven.visible:
            lines.append(
                say(
                    "It changes along the travel by {size}: the drive is worn where it works most. "
                    "Compensation can only take out the mean.",
                    size=size,
                )
            )
        else:
            lines.append(say("Even along the travel: it changes by {size}.", size=size))
    if setup.compensation_mm:
        lines.append(
            say(
                "That is with {c} taken out by the controller.",
                c=show(setup.compensation_mm, 0.001),
            )
        )
    return lines
