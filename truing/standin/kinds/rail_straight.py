"""A dial on the first rail's carriage, run along an edge that may itself be bent."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from truing.checks.rail_straight.setup import RailStraightSetup
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.kit.instruments import Instrument
from truing.standin import rails
from truing.standin.hands import Answers
from truing.standin.seen import Seen, measured
from truing.standin.truth import Truth


def read(
    truth: Truth,
    setup: RailStraightSetup,
    station: Station,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """What the dial shows at a bolt."""
    at = station.at_mm or 0.0
    lie = truth.rails
    sideways = setup.plane == "side"
    stands = lie.along(lie.side_mm if sideways else lie.first_up_mm, at)
    edge = lie.edge_mm(at)
    if setup.way == "reversal":
        # sideways pass A points to plus, upwards it points down; pass B the other way
        toward_plus = (station.tip == "A") == sideways
    else:
        toward_plus = setup.tip == "plus"
    # the carriage goes where the rail goes and pushes the tip on to the edge, or off it
    pushed = stands if toward_plus else -stands
    return measured(0.4 + pushed + edge, instrument, rng, truth.noise_share)


ANSWERS: Answers = {"rail_first": rails.first_pushed, "rail_packs": rails.shimmed}
