"""What runout does to the cut: tooth load, and the sizes of cutter that it leaves alone."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from truing.measure.estimate import Estimate
from truing.measure.words import Words, plain, say, show

USUAL_MM = 0.02
"""What a tool may run out by where nobody said otherwise."""
SMALL_MM = 3.0
"""Cutters up to this are spared by a tenth of their chip rather than by the limit."""
CHIP_SHARE = 0.01
"""A usual chip of a small cutter, of its diameter."""
TENTH = 0.1


@lru_cache(maxsize=4096)
def tooth_load(tir_mm: float, teeth: int, chip_mm: float) -> float:
    """The thickest chip of any tooth, as a multiple of the one it should take. `chip_mm` is the
    feed of one tooth, > 0.

    Tooth k stands out by r_k = (TIR/2)·cos(2πk/z + phase) and takes what the teeth before it have
    left: the least of j·f + r_k − r_(k−j) over j = 1…z. It is worst at some phase of the runout to
    the teeth, which nobody chooses.
    """
    phases = np.linspace(0, 2 * np.pi / teeth, 721)
    k = np.arange(teeth)
    out = tir_mm / 2 * np.cos(2 * np.pi * k[:, None] / teeth + phases)
    thickest = np.full_like(out, np.inf)
    for j in range(1, teeth + 1):
        thickest = np.minimum(thickest, j * chip_mm + out - np.roll(out, j, axis=0))
    return float(min(teeth, thickest.max() / chip_mm))


def least_cutter_mm(tir_mm: float, limit_mm: float) -> float | None:
    """Diameter of the smallest cutter that may turn with this runout; None for none at all.

    Above 3 mm the limit for tools holds; below, a tenth of a chip that is a hundredth of the
    diameter.
    """
    if tir_mm > limit_mm:
        return None
    least = tir_mm / (TENTH * CHIP_SHARE)
    return least if least <= SMALL_MM else SMALL_MM


def good_for(tir: Estimate, limit_mm: float) -> Words:
    """Which cutters a runout is good for, as far as can be told."""
    least_mm = least_cutter_mm(tir.most, limit_mm)
    if least_mm is None and tir.least > limit_mm:
        return plain("no cutter: it is beyond the limit")
    if least_mm is None:
        return plain("no cutter that can be told yet: it may be beyond the limit")
    if least_mm >= SMALL_MM:
        return say("cutters from {d}", d=show(SMALL_MM, 0.1))
    return say("cutters from {d}", d=show(math.ceil(least_mm * 10 - 1e-9) / 10, 0.1))
