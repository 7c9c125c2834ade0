"""A taper that turns in a lathe on its bore under a still tip, and a tool that turns it down."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from truing.checks.taper_truing.setup import TaperTruingSetup
from truing.contract.move import Move
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.kit.instruments import Instrument
from truing.standin.hands import Answers, Hands
from truing.standin.seen import Seen, measured, swing
from truing.standin.truth import TaperTruth, Truth, Vector

RADIUS_MM = 9.0
TURN = np.linspace(0, 2 * np.pi, 720, endpoint=False)


def read(
    truth: Truth,
    setup: TaperTruingSetup,
    station: Station,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """How far the surface goes in and out over one turn; or which part of it the tool missed."""
    taper = truth.tooling.taper
    if station.reads == "grade":
        return Seen(grade=_left(taper))
    if station.tip == "bore":
        return measured(2 * taper.bore_mm, instrument, rng, truth.noise_share)
    where = {"thin": 0.0, "middle": 0.5, "thick": 1.0}[station.tip]
    surface = np.minimum(_round(taper, where), _cone(taper))
    if setup.plunger == "side":
        # it comes up to the cone at right angles and follows its side as that goes out and in
        slope = 0.5 / setup.one_in
        surface = surface * np.hypot(1, slope) / (1 + slope**2)
    return swing(list(surface), instrument, rng, truth.noise_share)


def _round(taper: TaperTruth, where: float) -> Vector:
    """Reach of the section as it came, at every angle: a circle about its own centre."""
    thin = np.array([taper.thin_x_mm, taper.thin_y_mm])
    thick = np.array([taper.thick_x_mm, taper.thick_y_mm])
    return _reach(*map(float, thin + (thick - thin) * where))


@lru_cache(maxsize=512)
def _reach(x_mm: float, y_mm: float) -> Vector:
    along = x_mm * np.cos(TURN) + y_mm * np.sin(TURN)
    beside = y_mm * np.cos(TURN) - x_mm * np.sin(TURN)
    return np.asarray(along + np.sqrt(RADIUS_MM**2 - beside**2))


def _cone(taper: TaperTruth) -> float:
    """Where the tool stands over every section: it touched the highest of them first."""
    first = max(float(_round(taper, w).max()) for w in np.linspace(0, 1, 41))
    return first - taper.cut_mm


def _left(taper: TaperTruth) -> str:
    if not taper.cut_mm:
        return "uncut"
    missed = {
        place: _cone(taper) - float(_round(taper, where).min())
        for place, where in (("thin", 0.0), ("middle", 0.5), ("thick", 1.0))
    }
    worst = max(missed, key=lambda place: missed[place])
    return worst if missed[worst] > 0.0005 else "clean"


def _pass(move: Move, truth: Truth, hands: Hands) -> Truth:
    """A slide that is set by eye takes about what it was set to."""
    taper = truth.tooling.taper
    took = move.amounts[0].amount_mm * hands.about(0.93, 1.07)
    deeper = taper.model_copy(update={"cut_mm": taper.cut_mm + took})
    tooling = truth.tooling.model_copy(update={"taper": deeper})
    return truth.model_copy(update={"tooling": tooling})


ANSWERS: Answers = {"holder": _pass}
