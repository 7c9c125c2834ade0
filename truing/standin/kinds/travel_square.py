"""A tip that goes up a square or cylinder, or along a square that lies: where it comes to, and
where the edge is there."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from scipy.spatial.transform import Rotation

from truing.checks.travel_square.setup import EdgeStation, TravelSquareSetup
from truing.contract.readings import Reading
from truing.kit.instruments import Instrument
from truing.standin.bases import shimmed
from truing.standin.hands import Answers
from truing.standin.seen import Seen, measured, preload_mm
from truing.standin.truth import Truth, Vector


def read(
    truth: Truth,
    setup: TravelSquareSetup,
    station: EdgeStation,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """What the dial shows: how much further the tip has come than the edge it presses on."""
    lies = setup.upright is None
    far = _lying(truth, station) if lies else _standing(truth, setup, station)
    return measured(preload_mm(instrument) + far, instrument, rng, truth.noise_share)


def _standing(truth: Truth, setup: TravelSquareSetup, station: EdgeStation) -> float:
    assert setup.upright is not None
    riser, way = setup.upright
    axis = 0 if way == "left_right" else 1
    rises = truth.rising(riser)
    height = station.at_mm or 0.0
    tip = rises * height / rises[2]
    edge = np.zeros(3)
    edge[axis] = setup.points(1) * truth.square.away_mm_per_m / 1000
    edge[2] = 1.0
    if station.pose == 2:
        edge = Rotation.from_euler("z", np.pi).apply(edge)
    radius = 0.0
    if setup.way == "cylinder":
        radius = truth.square.taper_mm_per_m / 1000 * height
    return float(station.points * (tip[axis] - edge[axis] * height) + radius)


def _lying(truth: Truth, station: EdgeStation) -> float:
    """The square lies a little turned on the table, as one does; it is turned over about its blade
    as a rigid body."""
    lies = Rotation.from_euler("z", 0.7e-3)
    own = truth.square.away_mm_per_m / 1000
    blade, stock = np.array([0.0, 1.0, 0.0]), np.array([np.cos(own), -np.sin(own), 0.0])
    if station.pose == 2:
        stock = Rotation.from_rotvec(np.pi * blade).apply(stock)
        # and it comes to lie a little otherwise
        lies = Rotation.from_euler("z", -0.4e-3)
    edge: Vector = lies.apply(blade if station.edge == "blade" else stock)
    # along the travel that takes the tip along this edge, and across it, the way the tip points
    along, across = (1, 0) if station.edge == "blade" else (0, 1)
    path = truth.travel.rear() if station.edge == "blade" else truth.travel.right()
    at = station.at_mm or 0.0
    tip = path[across] * at / path[along]
    return float(station.points * (tip - edge[across] * at / edge[along]))


ANSWERS: Answers = {"column_base": shimmed}
