"""From push and pull to play at each place, and how the middle compares with the ends."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from truing.checks.common import at_place
from truing.checks.slide_play.setup import FEELS, SlidePlaySetup, stations
from truing.contract.case import Case
from truing.contract.finding import Finding, Note, Quantity, quantity, shown
from truing.contract.gather import Gathered, gather
from truing.contract.readings import GradeReading
from truing.drawing.figures import Curve, CurveFigure, CurvePoint, magnification
from truing.measure.estimate import Estimate
from truing.measure.extremes import peak_to_valley, worst_of
from truing.measure.words import Words, plain, say, show, show_estimate, tick


class PlayAt(BaseModel):
    """Play at one place along the travel, and how it moves there."""

    at_mm: float
    station: str
    play: Estimate
    feel: str = ""


class SlidePlayFinding(Finding):
    """Play and feel at each place, and how the middle compares with the ends."""

    kind: Literal["slide_play"] = "slide_play"
    places: list[PlayAt]
    middle: Estimate | None
    """Play in the middle less play at the ends; None where it is even as far as can be read."""


def _middle(
    setup: SlidePlaySetup, got: Gathered, sense: dict[str, float]
) -> tuple[Estimate, float] | None:
    places = [x for x in setup.places_mm if got.has(f"{x:g}")]
    if len(places) < 3:
        return None
    low, high = min(places), max(places)
    mid = min(places, key=lambda x: abs(x - (low + high) / 2))
    weights = {f"{mid:g}": 1.0, f"{low:g}": -0.5, f"{high:g}": -0.5}
    return got.combine({key: w * sense[key] for key, w in weights.items()})


def evaluate(case: Case[SlidePlaySetup, SlidePlayFinding]) -> SlidePlayFinding:
    """See `Check.evaluate`."""
    setup = case.setup
    plan = stations(setup)
    got = gather(case, plan)
    by_key = {s.key: s.at_mm for s in plan}
    feels = {
        by_key[r.station]: r.grade
        for r in case.readings
        if isinstance(r, GradeReading) and r.station in by_key
    }
    # it shakes as much whichever way the dial counts: play is a size
    sense = {k: -1.0 if m.mean_mm < 0 else 1.0 for k, m in got.means.items()}
    play = [
        PlayAt(
            at_mm=s.at_mm or 0.0,
            station=s.key,
            play=got.combine({s.key: sense[s.key]})[0],
            feel=feels.get(s.at_mm, ""),
        )
        for s in plan
        if s.key in got.means
    ]
    at, size = worst_of([p.play for p in play])
    middle = _middle(setup, got, sense)
    # of places that cannot be told from even the middle is no other than the ends
    doubts = max(p.play.expanded for p in play)
    even = not peak_to_valley([p.play.value for p in play], doubts).visible
    return SlidePlayFinding(
        quantities=[_worst(setup, play[at].at_mm, size)],
        **got.told("The play stands, but check the dial’s clamp.", more=_signs(got)),
        lines=_lines(middle[0] if middle else None, even),
        places=play,
        middle=middle[0] if middle and not even else None,
    )


def _worst(setup: SlidePlaySetup, at_mm: float, estimate: Estimate) -> Quantity:
    where = at_place(at_mm, setup.slide)
    size = shown(estimate)
    return quantity(
        "play",
        "Play, worst place",
        estimate,
        say("It shakes by {size} at {where}.", size=size, where=where),
        gain=1.0,
        tolerance_key="play",
        signed=False,
    )


def _signs(got: Gathered) -> list[Note]:
    """Places read the other way round than the others: the size holds, the dial may not."""
    plus = [k for k, m in got.means.items() if m.mean_mm > m.expanded_mm]
    minus = [k for k, m in got.means.items() if m.mean_mm < -m.expanded_mm]
    if not plus or not minus:
        return []
    fewer = min(plus, minus, key=len)
    text = (
        "Here the dial went the other way than elsewhere. Play counts as a size, so that it makes "
        "no difference, unless the dial was moved or bumped: if so, read the place again."
    )
    return [Note(tone="look", text=plain(text), station=fewer[0])]


def _lines(middle: Estimate | None, even: bool) -> list[Words]:
    if middle is None:
        return []
    if even:
        return [plain("Even along the travel, as far as can be read.")]
    size = show_estimate(abs(middle.value), middle.expanded, "length")
    if middle.value > middle.expanded:
        return [
            say(
                "The middle has {size} more play than the ends: its ways are worn. Set the gib for "
                "the tightest place, never on the middle.",
                size=size,
            )
        ]
    if middle.value < -middle.expanded:
        return [say("The ends have {size} more play than the middle.", size=size)]
    return [plain("Even along the travel, as far as can be read.")]


def curve(case: Case[SlidePlaySetup, SlidePlayFinding]) -> CurveFigure:
    """Play along the travel, with how it feels at each place."""
    setup = case.setup
    labels = {g.key: g.label for g in FEELS}
    points = [
        CurvePoint(
            label=tick(p.at_mm) + (f" · {labels.get(p.feel, p.feel)}" if p.feel else ""),
            at_mm=p.at_mm,
            off_mm=p.play.value,
            words=show(p.play.value, max(p.play.expanded, 1e-4)),
        )
        for p in sorted(case.finding.places, key=lambda p: p.at_mm)
    ]
    span = max(setup.places_mm) - min(setup.places_mm) or 100.0
    return CurveFigure(
        title=plain("Play along the travel"),
        curves=[Curve(name="play", points=points)],
        bolts=False,
        up="more play",
        band_mm=case.tolerances["play"],
        band_words=None,
        factor=magnification(max(*(p.off_mm for p in points), 0.001), span),
    )
