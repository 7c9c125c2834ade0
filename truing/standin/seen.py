"""What the simulated machine lets one read, and helpers to make it."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from pydantic import BaseModel, Field

from truing.kit.instruments import FeelerBlades, Instrument


class Seen(BaseModel):
    """What an instrument shows (mm), or what one feels or sees."""

    shown_mm: float | None = None
    grade: str = ""
    note: str = ""
    columns: dict[str, list[float]] = Field(default_factory=dict)
    """The points of a log."""


def quantised(shown_mm: float, instrument: Instrument) -> float:
    """To the readable step; a feeler stack that still goes in is the one that does not jam."""
    steps = shown_mm / instrument.step_mm
    whole = math.floor(steps + 0.5)
    if isinstance(instrument, FeelerBlades):
        return min(whole * instrument.step_mm, instrument.thickest_mm)
    return whole * instrument.step_mm


def swing(
    surface_mm: Sequence[float], instrument: Instrument, rng: np.random.Generator, share: float
) -> Seen:
    """Greatest less least of one turn (mm), which nobody reads as less than nothing."""
    seen = measured(max(surface_mm) - min(surface_mm), instrument, rng, share)
    return Seen(shown_mm=max(0.0, seen.shown_mm or 0.0))


def preload_mm(instrument: Instrument) -> float:
    """How far a tip is pushed in to begin with, so that it can follow both ways."""
    return min(1.0, instrument.travel_mm / 2)


def measured(
    exact_mm: float, instrument: Instrument, rng: np.random.Generator, noise_share: float
) -> Seen:
    """An exact length as this instrument would show it, with its scatter and its step."""
    noise = float(rng.normal(0.0, instrument.repeatability_mm * noise_share))
    return Seen(shown_mm=quantised((exact_mm + noise) / instrument.true_mm(1.0), instrument))
