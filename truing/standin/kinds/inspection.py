"""A walk round the machine: what is wrong with it is there to be seen."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from truing.checks.inspection.setup import InspectionSetup, InspectionStation
from truing.contract.readings import Reading
from truing.kit.instruments import Instrument
from truing.standin.hands import Answers
from truing.standin.seen import Seen, measured
from truing.standin.truth import Truth


def read(
    truth: Truth,
    setup: InspectionSetup,
    station: InspectionStation,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """What one sees, or how far a slide goes."""
    if station.travel is not None:
        travel = truth.slide(station.travel).travel_mm
        return measured(travel, instrument, rng, truth.noise_share)
    # what is in order is the first of the answers
    grade = truth.faults.get(station.key, station.grades[0].key)
    return Seen(grade=grade, note=NOTES.get(grade, "looked at"))


NOTES = {
    "fine": "in order",
    "flows": "clean oil",
    "dry": "nothing comes",
    "list": "to be seen to",
    "danger": "must not run",
    "mended": "done",
}


ANSWERS: Answers = {}
