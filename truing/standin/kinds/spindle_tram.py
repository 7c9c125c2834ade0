"""A tip swung over a table: where it would really stand, and what the instrument would show."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from scipy.optimize import brentq

from truing.checks.spindle_tram.setup import SpindleTramSetup
from truing.contract.move import Move
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.kit.instruments import Instrument
from truing.standin.bases import shimmed
from truing.standin.hands import Answers, Hands
from truing.standin.heads import tap_mrad, turned
from truing.standin.seen import Seen, quantised
from truing.standin.truth import Truth

ARM_HEIGHT_MM = 60.0
"""Nominal height of the tip's base above the table; it only has to clear it."""

BOLT_Q_LONGER_MM = 0.23
"""The bar's second bolt sticks out further than the first, as it would."""

SEED_GAP_MM = 0.8


def read(
    truth: Truth,
    setup: SpindleTramSetup,
    station: Station,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """What the instrument shows at a station, noise and readable step included."""
    if setup.way == "scrape":
        return _scraped(truth, setup, station, instrument, rng)
    if setup.way == "gauges":
        return _gauged(truth, setup, station, instrument, rng)
    gap = _gap_mm(truth, station.x_mm, station.y_mm, station.at_mm or 0.0)
    noise = float(rng.normal(0.0, instrument.repeatability_mm * truth.noise_share))
    if setup.way == "swing":
        exact = ARM_HEIGHT_MM - gap + noise
        shown = exact / instrument.true_mm(1.0)
    elif setup.way == "trigger":
        # the head comes straight down until the tip touches; its scale then stands here
        height = ARM_HEIGHT_MM - gap + noise
        shown = 120.0 + height if setup.height_counts == "up" else 120.0 - height
    else:
        stick_out = BOLT_Q_LONGER_MM if station.tip == "Q" else 0.0
        shown = max(0.0, gap - ARM_HEIGHT_MM + SEED_GAP_MM - stick_out + noise)
    return Seen(shown_mm=quantised(shown, instrument))


ROUND = 48
"""Places round the circle at which the end of a rod is looked at."""


def _scraped(
    truth: Truth,
    setup: SpindleTramSetup,
    station: Station,
    instrument: Instrument,
    rng: np.random.Generator,
) -> Seen:
    """The rod goes down step by step; each place is touched at the first step that reaches it."""
    turns = np.arange(ROUND) / ROUND * 2 * math.pi
    gaps = np.array(
        [
            _gap_mm(truth, setup.radius_mm * math.cos(t), setup.radius_mm * math.sin(t), 0.0)
            for t in turns
        ]
    )
    gaps += rng.normal(0.0, 0.2 * instrument.repeatability_mm * truth.noise_share, ROUND)
    start = float(rng.uniform(0.0, setup.drop_mm))
    steps = np.ceil((gaps - gaps.min() + start) / setup.drop_mm)
    if station.reads == "grade":
        hours = round((90 - math.degrees(float(turns[int(gaps.argmin())]))) / 30) % 12 or 12
        return Seen(grade=f"{hours}")
    return Seen(shown_mm=float(steps.max() - steps.min()) * setup.drop_mm)


def _gauged(
    truth: Truth,
    setup: SpindleTramSetup,
    station: Station,
    instrument: Instrument,
    rng: np.random.Generator,
) -> Seen:
    """The rod is set at the rear so that the thin gauge goes and the thick one does not."""
    rear = _gap_mm(truth, 0.0, setup.radius_mm, 0.0)
    here = _gap_mm(truth, station.x_mm, station.y_mm, 0.0)
    scatter = float(rng.normal(0.0, instrument.repeatability_mm * truth.noise_share))
    gap = (setup.thin_mm + setup.thick_mm) / 2 + here - rear
    if station.key != "12":
        gap += scatter
    return Seen(grade="narrow" if gap < setup.thin_mm else "wide" if gap > setup.thick_mm else "in")


def _gap_mm(truth: Truth, x_mm: float, y_mm: float, place_mm: float) -> float:
    """Distance from the tip's base to the table along the spindle's own axis."""
    radius = math.hypot(x_mm, y_mm)
    axis = truth.axis(place_mm)
    outward = np.array([x_mm, y_mm, 0.0]) / radius
    # the arm is square to the spindle: take out what of it lies along the axis
    arm = outward - axis * float(outward @ axis)
    arm = arm / np.linalg.norm(arm) * radius
    tip = np.array([0.0, 0.0, ARM_HEIGHT_MM]) + arm

    def above(distance: float) -> float:
        at = tip - axis * distance
        return float(at[2]) - truth.surface_mm(float(at[0]), float(at[1]))

    return float(brentq(above, 0.0, 4 * ARM_HEIGHT_MM, xtol=1e-10))


def _end_plate(move: Move, truth: Truth, hands: Hands) -> Truth:
    """The beam turns at one end and is held at the other."""
    gantry = hands.machine.gantry
    assert gantry is not None
    left, right = gantry.left_plate_x_mm, gantry.right_plate_x_mm
    at_left = move.mechanism == "end_plate_left"
    held, moved = (right, left) if at_left else (left, right)
    # the plate itself turns by more than what the arm shows where it stands
    [act] = move.acts
    arm = 0.0
    if act.target is not None and "@" in act.target.quantity:
        arm = float(act.target.quantity.partition("@")[2])
    meant = tap_mrad(act) * (1 if act.way == "front" else -1)
    if act.target is not None:
        meant *= (moved - held) / (arm - held)
    twist = truth.beam_twist_mrad_per_m / 1000
    ends = [truth.head_about_x_mrad + twist * x for x in (left, right)]
    ends[0 if at_left else 1] += hands.tap(truth) * meant + truth.tighten_about_x_mrad
    new_twist = (ends[1] - ends[0]) / (right - left)
    return truth.model_copy(
        update={
            "beam_twist_mrad_per_m": new_twist * 1000,
            "head_about_x_mrad": ends[0] - new_twist * left,
        }
    )


def _bracket(move: Move, truth: Truth, hands: Hands) -> Truth:
    assert hands.machine.bracket is not None
    upper, lower = move.stacks
    out = [sum(s.after_mm) - sum(s.before_mm) + hands.stack_mm() for s in (upper, lower)]
    # in front of its plate, a thicker upper stack pushes the top to the operator
    forward = 1 if hands.machine.bracket.side == "front" else -1
    turn = forward * (out[0] - out[1]) / (upper.y_mm - lower.y_mm) * 1000
    return truth.model_copy(update={"head_about_x_mrad": truth.head_about_x_mrad + turn})


ANSWERS: Answers = {
    "head_pivot": turned,
    "bracket_pivot": turned,
    "end_plate_left": _end_plate,
    "end_plate_right": _end_plate,
    "column_base": shimmed,
    "bracket": _bracket,
}
