"""What the checks of rails share: where bolts are, and where that is on the machine."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

from truing.contract.move import Move
from truing.drawing.sketches import UV, Easel, SketchFigure
from truing.machine import Machine, Pad, Rails
from truing.measure.problem import Problem

Which = Literal["first", "second"]
MOST_PLACES = 12
SAME_MM = 1e-6
"""Pushes and stacks that differ by less are the same."""
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


class RailsSeen:
    """Both rails from above, with places told along one of them from its fixed end."""

    def __init__(self, machine: Machine) -> None:
        self.rails = rails_of(machine)
        self.easel = Easel(machine, "plan")
        # long rails are shown whole, and what is drawn beside them has to be seen
        self.unit = max(self.easel.unit, 0.2 * self.rails.length_mm)
        for which in ("first", "second"):
            half = 0.04 * self.unit
            ends = [(0.0, -half), (self.rails.length_mm, -half)]
            ends += [(self.rails.length_mm, half), (0.0, half)]
            self.easel.pencil(*(self.at(which, along, out) for along, out in ends))

    def at(self, which: Which, along_mm: float, out: float = 0.0) -> UV:
        """A place on a rail; so far out from it, plus is away from the other rail."""
        u, v = rail_xy(self.rails, which, along_mm)
        aside = -out if which == "first" else out
        return (u + aside, v) if self.rails.runs == "front_back" else (u, v + aside)

    def carriage(self, which: Which, along_mm: float) -> None:
        """A carriage on a rail."""
        half = 0.11 * self.unit
        corners = [(-half, -half), (half, -half), (half, half), (-half, half)]
        self.easel.line(*(self.at(which, along_mm + a, out) for a, out in corners), closed=True)

    def along(self, which: Which, start_mm: float, end_mm: float, out: float) -> None:
        """What goes along a rail, beside it."""
        self.easel.moves(self.at(which, start_mm, out), self.at(which, end_mm, out), by="slide")


def rails_moved(move: Move, machine: Machine) -> SketchFigure | None:
    """The bolt that goes furthest, slack, and the others that hold meanwhile; it is pushed across
    by hand, or lifted for what is slid under it. None where nothing goes anywhere."""
    seen = RailsSeen(machine)
    goes = [(a.x_mm, a.y_mm, a.amount_mm, a.place) for a in move.amounts] or [
        (s.x_mm, s.y_mm, sum(s.after_mm) - sum(s.before_mm), s.pad) for s in move.stacks
    ]
    most = max(goes, key=lambda g: abs(g[2]), default=None)
    if most is None or abs(most[2]) < SAME_MM:
        return None
    x, y, by, name = most
    for other in goes:
        seen.easel.bolt(other[:2], holds=other is not most)
    reach, clear = max(0.5 * seen.unit, 0.15 * seen.rails.length_mm), 0.14 * seen.unit
    across = seen.rails.runs == "front_back"
    if move.amounts:
        # from the side that it is pushed from
        side = -1 if by > 0 else 1
        what = f"is slack and pushed to the {sides(seen.rails)[by > 0]}"
    else:
        side = 1 if (x if across else y) > 0 else -1
        what = f"is slack, and a shim {'goes in from' if by > 0 else 'comes out at'} the side"
    start, end = side * (reach + clear), side * clear
    if not move.amounts and by < 0:
        start, end = end, start
    ends = ((x + start, y), (x + end, y)) if across else ((x, y + start), (x, y + end))
    seen.easel.moves(*ends, by="hand")
    shows = f"One bolt after the other; here {name} {what}. The others hold meanwhile."
    return seen.easel.done(move.title, shows)
