"""What the checks of rails share: where bolts are, and where that is on the machine."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

from truing.machine import Machine, Pad, Rails
from truing.measure.problem import Problem

Which = Literal["first", "second"]
MOST_PLACES = 12
SUPPORT = "Support the rail along its length while its bolts are out."


def rails_of(machine: Machine) -> Rails:
    """The machine's rails. Problem when it has none."""
    if machine.rails is None:
        raise Problem(
            "This machine is not described as having rails.",
            expected="Add them under Machine.",
            field="places_mm",
        )
    return machine.rails


def bolts_mm(rails: Rails) -> list[float]:
    """Places of the bolts from the fixed end; every second or third where there are many."""
    n = int(rails.length_mm / rails.bolt_pitch_mm) + 1
    first = (rails.length_mm - (n - 1) * rails.bolt_pitch_mm) / 2
    every = max(1, math.ceil((n - 1) / (MOST_PLACES - 1)))
    picked = [*range(0, n - 1, every), n - 1]
    return [round(first + i * rails.bolt_pitch_mm, 1) for i in picked]


def rail_xy(rails: Rails, which: Which, along_mm: float) -> tuple[float, float]:
    """A place on a rail in the machine's frame, from mid bed: the first rail is the left one, or
    the front one; its fixed end is at the front, or on the left."""
    aside = (-1 if which == "first" else 1) * rails.apart_mm / 2
    along = along_mm - rails.length_mm / 2
    return (aside, along) if rails.runs == "front_back" else (along, aside)


def pads_at(rails: Rails, places: Sequence[tuple[Which, float, str]]) -> list[Pad]:
    """Pads at places of the rails (which, along in mm, name), with the packs that lie there now.

    A pack that lies under no place itself belongs to the one nearest to it on its rail, within a
    bolt's pitch; the pad then stands where the pack lies.
    """
    pads = [
        Pad(name=name, x_mm=x, y_mm=y)
        for which, along, name in places
        for x, y in [rail_xy(rails, which, along)]
    ]
    for pack in rails.packs:
        if not pads:
            break
        away = [math.hypot(p.x_mm - pack.x_mm, p.y_mm - pack.y_mm) for p in pads]
        i = min(range(len(pads)), key=away.__getitem__)
        if away[i] < rails.bolt_pitch_mm / 2 and not pads[i].shims_mm:
            pads[i] = pack.model_copy(update={"name": pads[i].name})
    return pads


def sides(rails: Rails) -> tuple[str, str]:
    """What minus and plus across the rails are called."""
    return ("left", "right") if rails.runs == "front_back" else ("front", "rear")
