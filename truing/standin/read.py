"""Readings of the stand-in, whatever the kind of check."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from functools import cache
from importlib import import_module
from pkgutil import iter_modules
from types import ModuleType
from typing import Any

import numpy as np

from truing.contract.readings import LengthReading, Reading
from truing.contract.setup import Station
from truing.kit.instruments import DigitalIndicator, Instrument
from truing.measure.problem import Problem
from truing.standin import kinds
from truing.standin.seen import Seen, quantised
from truing.standin.truth import Truth

LAGS = 0.7
"""Share of its hysteresis that the stand-in's indicator really has."""
Reader = Callable[[Truth, Any, Any, Instrument, np.random.Generator, Sequence[Reading]], Seen]


@cache
def readers() -> dict[str, ModuleType]:
    """The kinds of check that the stand-in can play, by key."""
    return {
        found.name: import_module(f"{kinds.__name__}.{found.name}")
        for found in iter_modules(kinds.__path__)
    }


def read(
    truth: Truth,
    setup: Any,
    station: Station,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading] = (),
) -> Seen:
    """What is read at a station after the readings so far, noise and readable step included.

    Problem for a kind that the stand-in cannot play.
    """
    module = readers().get(setup.kind)
    if module is None:
        raise Problem("The stand-in does not know this check.", expected="Read a real machine.")
    reader: Reader = module.read
    if not (instrument.reversal_mm and truth.noise_share and setup.tip_sides):
        return reader(truth, setup, station, instrument, rng, readings)
    # what the tip does comes before anybody reads it to a step
    seen = reader(truth, setup, station, _finer(instrument), rng, readings)
    if seen.shown_mm is None:
        return seen
    lags = instrument.reversal_mm * LAGS * min(1.0, truth.noise_share)
    before = [r.shown_mm for r in readings if isinstance(r, LengthReading)]
    if setup.tip_sides > 1:
        shown = math.copysign(max(0.0, abs(seen.shown_mm) - lags), seen.shown_mm)
    else:
        # it follows only once the play in its works is taken up
        low, high = seen.shown_mm - lags / 2, seen.shown_mm + lags / 2
        shown = min(max(before[-1], low), high) if before else low
    return seen.model_copy(update={"shown_mm": quantised(shown, instrument)})


def _finer(instrument: Instrument) -> Instrument:
    """The same indicator with steps so small that nothing is rounded yet."""
    field = "resolution_mm" if isinstance(instrument, DigitalIndicator) else "read_fraction"
    return instrument.model_copy(update={field: getattr(instrument, field) * 1e-4})


def as_typed(seen: Seen, instrument: Instrument) -> tuple[str, str]:
    """(text, unit) as a person would type what the instrument shows; empty for no length."""
    if seen.shown_mm is None:
        return "", instrument.unit
    size = instrument.read(f"1 {instrument.unit}").mm
    return f"{seen.shown_mm / size:+.5g}", instrument.unit
