"""Pieces put into a spindle one in the other, as bodies that turn with it under a still tip."""

from __future__ import annotations

import cmath
import zlib
from collections.abc import Sequence

import numpy as np

from truing.checks.tool_runout.setup import ToolRunoutSetup, ToolStation, Visit, visits
from truing.contract.move import Move
from truing.contract.readings import Reading
from truing.kit.instruments import Instrument
from truing.standin.hands import Answers, Hands
from truing.standin.seen import Seen, measured, preload_mm, swing
from truing.standin.truth import Truth, Vector

RADIUS_MM = 3.0


def read(
    truth: Truth,
    setup: ToolRunoutSetup,
    station: ToolStation,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """What the tip is pushed in by, or how far it goes in and out over one turn."""
    visit = visits(setup)[station.visit]
    wander = rng.normal(0.0, truth.turning.wander_mm * truth.noise_share, 2)
    centre = end_of_chain(truth, setup, visit, station.at_mm or 0.0) + wander
    if setup.reads == "swing":
        seen = _reach(centre, np.linspace(0, 2 * np.pi, 720, endpoint=False))
        return swing(list(seen), instrument, rng, truth.noise_share)
    facing = station.angle_rad
    if setup.way == "index" and setup.marks_on == "above":
        # a mark on the pin has gone round with all that it was turned by
        facing += sum(visit.angles.values()) + _set(truth, setup)
    out = float(_reach(centre, np.array([facing]))[0]) - RADIUS_MM
    return measured(preload_mm(instrument) + out, instrument, rng, truth.noise_share)


def _set(truth: Truth, setup: ToolRunoutSetup) -> float:
    return sum(truth.tooling.turned_rad.get(s, 0.0) for s in setup.slots)


def end_of_chain(truth: Truth, setup: ToolRunoutSetup, visit: Visit, z_mm: float) -> Vector:
    """Where the middle of what is read stands at this height, in the spindle's frame: each piece
    carries all that sits in it, turned about the axis with it."""
    tooling, spindle = truth.tooling, truth.turning
    out = tooling.reach_mm + z_mm
    # all of them turn about the one axis
    point = complex(
        spindle.off_x_mm + spindle.tilt_x_mm_per_m * out / 1000,
        spindle.off_y_mm + spindle.tilt_y_mm_per_m * out / 1000,
    )
    turned = 0.0
    for slot in setup.slots:
        turned += tooling.turned_rad.get(slot, 0.0) + visit.angles.get(slot, 0.0)
        key = setup.piece(slot)
        if visit.candidate and slot == setup.swapped:
            key = visit.candidate
        piece = tooling.piece(key, slot)
        lever = z_mm / 1000
        off = complex(
            piece.off_x_mm + piece.tilt_x_mm_per_m * lever,
            piece.off_y_mm + piece.tilt_y_mm_per_m * lever,
        )
        point += off * cmath.exp(1j * turned)
    return np.array([point.real, point.imag]) + _seated(truth, setup, visit)


def _seated(truth: Truth, setup: ToolRunoutSetup, visit: Visit) -> Vector:
    """How this seating came out: the same for as long as it is not taken out again."""
    if setup.way == "plain" and not truth.tooling.turned_rad:
        return np.zeros(2)
    known = truth.tooling.model_dump_json() + setup.way
    own = np.random.default_rng([zlib.crc32(known.encode()), visit.number])
    off = own.normal(0.0, truth.tooling.seat_sd_mm * truth.noise_share, 2)
    for slot, sd_mm in truth.tooling.seats_mm.items():
        # a worn seat comes out elsewhere whenever it is made, a sound one does not
        if slot in visit.angles or slot == setup.swapped:
            off = off + own.normal(0.0, sd_mm * truth.noise_share, 2)
    dirt = np.array([truth.tooling.dirt_mm.get(visit.number, 0.0), 0.0])
    return np.asarray(off + dirt)


def _reach(centre: Vector, angles: Vector) -> Vector:
    """How far a round surface reaches along each ray that faces the tip."""
    rays = np.array([np.cos(angles), np.sin(angles)])
    beside = centre[0] * rays[1] - centre[1] * rays[0]
    return np.asarray(centre @ rays + np.sqrt(RADIUS_MM**2 - beside**2))


def _turned(move: Move, truth: Truth, hands: Hands) -> Truth:
    """A piece seated where it was told to, within what a hand and an eye do."""
    if not move.key.startswith("seat_"):
        # another piece is in it now, which the next round names
        return truth
    told = move.amounts[0].turns * 2 * np.pi
    turned = dict(truth.tooling.turned_rad)
    turned[move.about] = turned.get(move.about, 0.0) + told + hands.rng.normal(0.0, np.radians(3))
    tooling = truth.tooling.model_copy(update={"turned_rad": turned})
    return truth.model_copy(update={"tooling": tooling})


ANSWERS: Answers = {"holder": _turned, "collet": _turned, "tool": _turned}
