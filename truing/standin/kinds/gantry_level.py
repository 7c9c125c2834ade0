"""A gantry on two motors that is lowered until it touches the bed, or carries a dial over it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from truing.checks.gantry_level.setup import GantryLevelSetup
from truing.contract.move import Move
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.kit.instruments import Instrument
from truing.standin.hands import Answers, Hands
from truing.standin.seen import Seen, measured
from truing.standin.truth import Truth

AXIS_MM = 40.0
"""What the axis shows where gantry and bed are as they should be."""


def _contact(truth: Truth, x_mm: float) -> float:
    """What an axis that counts up shows when the tip touches: more where the bed is high, less
    where the gantry is."""
    gantry = truth.gantry
    return AXIS_MM + gantry.bed_mm(x_mm) - gantry.height_mm(x_mm)


def read(
    truth: Truth,
    setup: GantryLevelSetup,
    station: Station,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """What axis or dial shows at a place; or a probe's log, three touches at each of three."""
    noise = truth.noise_share
    counts = -1.0 if setup.scale_counts == "down" else 1.0
    if station.reads == "log":
        gantry = truth.gantry
        places = np.linspace(gantry.left_x_mm, gantry.right_x_mm, 5)[1:-1]
        rows: list[tuple[float, float, float]] = []
        for x in [float(p) for p in places for _ in range(3)]:
            for feed, runs_on in ((300.0, gantry.overrun_mm), (30.0, 0.0)):
                exact = counts * (_contact(truth, x) - runs_on)
                seen = measured(exact, instrument, rng, noise)
                rows.append((round(x, 2), seen.shown_mm or 0.0, feed))
        xs, zs, feeds = zip(*rows, strict=True)
        return Seen(columns={"x": list(xs), "z": list(zs), "feed": list(feeds)})
    x = station.at_mm or 0.0
    if setup.way == "dial":
        # the head stays where it is: a bed that comes closer pushes the dial in
        return measured(_contact(truth, x) - AXIS_MM + 1.0, instrument, rng, noise)
    runs_on = truth.gantry.overrun_mm if station.tip == "fast" else 0.0
    return measured(counts * (_contact(truth, x) - runs_on), instrument, rng, noise)


def _homed(move: Move, truth: Truth, hands: Hands) -> Truth:
    """Both ends go to where their new offsets or stops put them; the spindle goes with the beam."""
    gantry, lift = truth.gantry, hands.machine.lift
    assert lift is not None
    ends = {"left": gantry.left_up_mm, "right": gantry.right_up_mm}
    for act in move.acts:
        end = "right" if "right" in act.end else "left"
        ends[end] += (act.by_mm if act.way == "up" else -act.by_mm) * hands.about(0.9, 1.1)
    for change in move.changes:
        name = change.path.removeprefix("lift.").removesuffix("_offset_mm")
        further = float(change.after) - float(change.before)
        # backing off further takes an end away from its switch
        ends[name] += (-further if lift.homes == "top" else further) + hands.rng.normal(0, 0.004)
    turned = (ends["right"] - gantry.right_up_mm) - (ends["left"] - gantry.left_up_mm)
    span = gantry.right_x_mm - gantry.left_x_mm
    moved = gantry.model_copy(update={"left_up_mm": ends["left"], "right_up_mm": ends["right"]})
    # the right end up takes the top to the left: a turn about Y the other way
    lean = truth.base_about_y_mrad - turned / span * 1000
    return truth.model_copy(update={"gantry": moved, "base_about_y_mrad": lean})


ANSWERS: Answers = {"lift_home": _homed}
