"""A bed that is touched place by place, or walked over by a probe that writes a log."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from truing.checks.bed_map.setup import BedMapSetup
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.kit.instruments import Instrument
from truing.standin.hands import Answers, untouched
from truing.standin.seen import Seen, measured, preload_mm
from truing.standin.truth import Truth

AXIS_MM = 40.0
"""What the axis shows in mid bed."""


def read(
    truth: Truth,
    setup: BedMapSetup,
    station: Station,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """What axis or dial shows at a place; or a log of nine rows of thirteen."""
    counts = -1.0 if setup.counts == "down" else 1.0
    board, noise = truth.board, truth.noise_share
    if station.reads == "log":
        wide, deep = board.wide_mm / 2 - 20, board.deep_mm / 2 - 20
        rows = [
            (round(float(x), 1), round(float(y), 1))
            for y in np.linspace(-deep, deep, 9)
            for x in np.linspace(-wide, wide, 13)
        ]
        z = [
            measured(AXIS_MM + counts * board.up_mm(x, y), instrument, rng, noise).shown_mm or 0.0
            for x, y in rows
        ]
        # the controller counts from its own zero
        x0, y0 = {
            "middle": (0.0, 0.0),
            "corner": (-board.wide_mm / 2, -board.deep_mm / 2),
            "stated": (setup.zero_x_mm, setup.zero_y_mm),
        }[setup.log_zero]
        return Seen(
            columns={"x": [x - x0 for x, _ in rows], "y": [y - y0 for _, y in rows], "z": z}
        )
    up = board.up_mm(station.x_mm, station.y_mm)
    if setup.way == "dial":
        return measured(preload_mm(instrument) + up, instrument, rng, noise)
    return measured(AXIS_MM + counts * up, instrument, rng, noise)


ANSWERS: Answers = {"board": untouched}
