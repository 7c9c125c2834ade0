"""From push and pull to play at each place, and how the middle compares with the ends."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from truing.checks.common import at_place, quantity
from truing.checks.slide_play.setup import FEELS, USUAL_MM, SlidePlaySetup, stations
from truing.contract.finding import Finding, Note, Quantity
from truing.contract.gather import Gathered, gather
from truing.contract.history import History
from truing.contract.readings import GradeReading, Reading
from truing.drawing.figures import Curve, CurveFigure, CurvePoint, magnification
from truing.kit.instruments import Instrument
from truing.measure.estimate import Estimate
from truing.measure.words import Words, place, plain, say, show, show_estimate


class SlidePlayFinding(Finding):
    """Play at each place (mm), how the middle compares with the ends, and how it feels."""

    kind: Literal["slide_play"] = "slide_play"
    play: dict[str, Estimate]
    middle: Estimate | None
    """Play in the middle less play at the ends."""
    feels: dict[str, str]


def _middle(setup: SlidePlaySetup, got: Gathered) -> tuple[Estimate, float] | None:
    places = [x for x in setup.places_mm if got.has(f"{x:g}")]
    if len(places) < 3:
        return None
    low, high = min(places), max(places)
    mid = min(places, key=lambda x: abs(x - (low + high) / 2))
    return got.combine({f"{mid:g}": 1.0, f"{low:g}": -0.5, f"{high:g}": -0.5})


def evaluate(
    setup: SlidePlaySetup,
    readings: Sequence[Reading],
    instrument: Instrument,
    history: History,
) -> SlidePlayFinding:
    """See `Check.evaluate`."""
    plan = stations(setup)
    got = gather(plan, readings, instrument, history)
    play = {key: got.combine({key: 1.0})[0] for key in got.means}
    feels = {r.station.partition(":")[0]: r.grade for r in readings if isinstance(r, GradeReading)}
    worst = max(play, key=lambda k: play[k].value)
    middle = _middle(setup, got)
    return SlidePlayFinding(
        quantities=[_worst(setup, worst, play[worst])],
        stations=got.station_means(),
        notes=[*_signs(play), *got.notes("The play stands, but check the dial’s clamp.")],
        spread=got.own,
        s_mm=got.s_mm,
        step_mm=instrument.step_mm,
        lines=_lines(setup, play, middle[0] if middle else None),
        figures=[_figure(setup, play, feels)],
        play=play,
        middle=middle[0] if middle else None,
        feels=feels,
    )


def _worst(setup: SlidePlaySetup, key: str, estimate: Estimate) -> Quantity:
    where = at_place(float(key), setup.slide)
    size = show_estimate(estimate.value, estimate.expanded, "length")
    return quantity(
        "play",
        "Play, worst place",
        estimate,
        say("It shakes by {size} at {where}.", size=size, where=where),
        gain=1.0,
        measure="length",
        tolerance_key="play",
        signed=False,
    )


def _signs(play: dict[str, Estimate]) -> list[Note]:
    wrong = [k for k, e in play.items() if e.value < -e.expanded]
    if not wrong:
        return []
    text = "Play came out negative: read push less pull, with the dial on the side you push from."
    return [Note(tone="look", text=plain(text), station=wrong[0])]


def _lines(
    setup: SlidePlaySetup, play: dict[str, Estimate], middle: Estimate | None
) -> list[Words]:
    if middle is None:
        return []
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


def _figure(setup: SlidePlaySetup, play: dict[str, Estimate], feels: dict[str, str]) -> CurveFigure:
    labels = {g.key: g.label for g in FEELS}
    points = [
        CurvePoint(
            label=place(float(k)) + (f" · {labels.get(feels[k], feels[k])}" if k in feels else ""),
            at_mm=float(k),
            off_mm=e.value,
            words=show(e.value, max(e.expanded, 1e-4)),
        )
        for k, e in sorted(play.items(), key=lambda item: float(item[0]))
    ]
    span = max(setup.places_mm) - min(setup.places_mm) or 100.0
    return CurveFigure(
        title=plain("Play along the travel"),
        curves=[Curve(name="play", points=points)],
        bolts=False,
        up="more play",
        band_mm=USUAL_MM,
        band_words=None,
        factor=magnification(max(*(p.off_mm for p in points), 0.001), span),
    )
