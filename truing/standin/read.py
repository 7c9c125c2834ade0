"""Readings of the stand-in, whatever the kind of check."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import cache
from importlib import import_module
from pkgutil import iter_modules
from types import ModuleType
from typing import Any

import numpy as np

from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.kit.instruments import Instrument
from truing.measure.problem import Problem
from truing.standin import kinds
from truing.standin.seen import Seen
from truing.standin.truth import Truth

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
    return reader(truth, setup, station, instrument, rng, readings)


def as_typed(seen: Seen, instrument: Instrument) -> tuple[str, str]:
    """(text, unit) as a person would type what the instrument shows; empty for no length."""
    if seen.shown_mm is None:
        return "", instrument.unit
    size = instrument.read(f"1 {instrument.unit}").mm
    return f"{seen.shown_mm / size:+.5g}", instrument.unit
