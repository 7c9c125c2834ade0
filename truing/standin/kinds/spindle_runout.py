"""A bar that turns with its spindle under a tip that stays."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from scipy.spatial.transform import Rotation

from truing.checks.spindle_runout.setup import RunoutStation, SpindleRunoutSetup
from truing.contract.readings import Reading
from truing.kit.instruments import Instrument
from truing.standin.hands import Answers, untouched
from truing.standin.seen import Seen, measured, preload_mm, swing
from truing.standin.truth import Truth, Vector

RADIUS_MM = 8.0


def read(
    truth: Truth,
    setup: SpindleRunoutSetup,
    station: RunoutStation,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """What the tip is pushed in by, or how far it goes in and out over one turn."""
    z = station.at_mm or 0.0
    wander = rng.normal(0.0, truth.turning.wander_mm * truth.noise_share, 2)
    centre = _centre(truth, setup, z, station.seat) + wander
    if setup.way == "swing":
        turns = np.linspace(0, 2 * np.pi, 720, endpoint=False)
        seen = [_reach(truth, setup, centre, float(t), station.seat) for t in turns]
        return swing(seen, instrument, rng, truth.noise_share)
    out = _reach(truth, setup, centre, station.angle_rad, station.seat) - RADIUS_MM
    return measured(preload_mm(instrument) + out, instrument, rng, truth.noise_share)


def _centre(truth: Truth, setup: SpindleRunoutSetup, z: float, seat: int) -> Vector:
    """Where the middle of what is read stands at this distance, in the spindle's frame."""
    s = truth.turning
    bore = np.array([s.off_x_mm, s.off_y_mm])
    bore = bore + np.array([s.tilt_x_mm_per_m, s.tilt_y_mm_per_m]) * z / 1000
    if setup.surface == "taper":
        return np.asarray(bore)
    bar = np.array([s.bar_x_mm, s.bar_y_mm])
    bar = bar + np.array([s.bar_tilt_x_mm_per_m, s.bar_tilt_y_mm_per_m]) * z / 1000
    turned = Rotation.from_euler("z", np.pi * seat).apply([*bar, 0.0])[:2]
    return np.asarray(bore + turned)


def _reach(
    truth: Truth, setup: SpindleRunoutSetup, centre: Vector, angle: float, seat: int
) -> float:
    """How far the surface reaches along the ray that faces the tip: a circle about its centre, and
    an oval that turns with it."""
    ray = np.array([np.cos(angle), np.sin(angle)])
    along = float(centre @ ray)
    beside = float(centre[0] * ray[1] - centre[1] * ray[0])
    oval = truth.turning.oval_mm * np.cos(2 * (angle - np.pi * seat))
    return along + float(np.sqrt(RADIUS_MM**2 - beside**2)) + float(oval)


ANSWERS: Answers = {"spindle_bearing": untouched}
