"""How high stacks should come to where the tin cannot serve them: told all the same, so that they
can be bought, or cut from what there is."""

from __future__ import annotations

from collections.abc import Sequence

from truing.contract.move import Amount
from truing.machine import Pad
from truing.measure.words import Words, plain, show


def wanted_stacks(pads: Sequence[Pad], rises_mm: Sequence[float]) -> list[Amount]:
    """The whole stack of each pad that lifts it by so much above where it stands now, all of them
    let down together until one pad is bare."""
    heights = [sum(p.shims_mm) + rise for p, rise in zip(pads, rises_mm, strict=True)]
    least = min(heights, default=0.0)
    return [
        wanted(pad.name, height - least, pad.x_mm, pad.y_mm)
        for pad, height in zip(pads, heights, strict=True)
    ]


def wanted(place: str, height_mm: float, x_mm: float = 0.0, y_mm: float = 0.0) -> Amount:
    """One stack."""
    height = height_mm if height_mm >= BARE_MM else 0.0
    told: Words = show(height, 0.001) if height else plain("nothing")
    return Amount(place=place, x_mm=x_mm, y_mm=y_mm, amount_mm=height, words=told)


BARE_MM = 5e-4
"""Less than this is no shim."""
