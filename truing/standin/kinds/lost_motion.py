"""A slide that is driven to a place from both sides through links that each have slack."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from truing.checks.lost_motion.setup import LostMotionSetup
from truing.contract.readings import Reading
from truing.kit.instruments import Instrument
from truing.standin.seen import Seen, measured
from truing.standin.truth import Truth


def read(
    truth: Truth,
    setup: LostMotionSetup,
    station: str,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """Where the slide stands, or how far one link gives."""
    slide = truth.slide(setup.slide)
    if station in slide.links_mm or station in ("wheel", "coupling", "bearing", "nut"):
        return measured(slide.links_mm.get(station, 0.0), instrument, rng, truth.noise_share)
    place, side = float(station[:-1]), station[-1]
    along = 2 * place / slide.travel_mm
    slack = sum(slide.links_mm.values()) - slide.worn_screw_mm * along**2
    slack = max(0.0, slack - slide.compensated_mm)
    # pushed from below the slide stands at the figure; pulled back to it, short by the slack
    stands = 0.3 + (slack if side == "+" else 0.0)
    return measured(stands, instrument, rng, truth.noise_share)
