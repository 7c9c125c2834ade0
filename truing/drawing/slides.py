"""Something that moves on a slide, drawn: what of the machine that is, in which view its travel is
seen, and where a dial, a hand or a screw comes to it."""

from __future__ import annotations

from collections.abc import Sequence

from truing.drawing.sketches import UV, Easel
from truing.machine import Machine
from truing.machine.ghost.sketch import View
from truing.machine.parts import Direction

AXES: dict[View, tuple[Direction, Direction]] = {
    "front": ("left_right", "up_down"),
    "side": ("front_back", "up_down"),
    "plan": ("left_right", "front_back"),
}
"""Across the view, and up it."""
SEEN: dict[Direction, View] = {"left_right": "plan", "front_back": "plan", "up_down": "front"}
"""Where a travel is looked at, if nothing asks for another view."""


class Seen:
    """The part that a slide carries, in a view that shows its travel. Places are told along the
    travel and across it, from the part's middle."""

    def __init__(self, machine: Machine, slide: Direction, view: View | None = None) -> None:
        view = view or SEEN[slide]
        self.easel = Easel(machine, view, near=0.3)
        name = self._name(machine, slide)
        if name is None or not self.easel.has(name):
            self._bare(machine, slide, view)
        else:
            self.left, self.right, self.low, self.high = self.easel.body(name)
        self.flat = AXES[view][0] == slide
        """Whether the travel goes across the view, rather than up it."""
        half = ((self.right - self.left) / 2, (self.high - self.low) / 2)
        self.half_along, self.half_across = half if self.flat else half[::-1]
        self.unit = self.easel.unit
        # where something turned by hand or touched is drawn, however small the part is
        self.clear = max(0.35 * max(half), min(0.35 * self.unit, 0.8 * max(half)))

    def _name(self, machine: Machine, slide: Direction) -> str | None:
        if machine.form == "fixed_gantry" and slide == "front_back":
            return "Bed"
        if machine.gantry is not None or machine.form == "frame":
            return "Beam" if slide == "front_back" else "Spindle"
        if slide == "up_down" and machine.form != "knee_mill":
            return "Spindle"
        return "Table"

    def _bare(self, machine: Machine, slide: Direction, view: View) -> None:
        """A carriage on its way, where the machine has none yet."""
        self.easel = Easel(machine, view, bare=True, near=0.3)
        u = self.easel.unit
        flat = AXES[view][0] == slide
        for side in (-0.35, 0.35):
            near, far = side - 0.06, side + 0.06
            corners: Sequence[UV] = (
                ((-1.6 * u, near * u), (1.6 * u, near * u), (1.6 * u, far * u), (-1.6 * u, far * u))
                if flat
                else (
                    (near * u, -1.6 * u),
                    (far * u, -1.6 * u),
                    (far * u, 1.6 * u),
                    (near * u, 1.6 * u),
                )
            )
            self.easel.pencil(*corners)
        self.left, self.right, self.low, self.high = -0.5 * u, 0.5 * u, -0.5 * u, 0.5 * u
        self.easel.box(self.left, self.right, self.low, self.high)

    def at(self, along: float, across: float) -> UV:
        """A place in the view, from the part's middle."""
        u, v = (self.left + self.right) / 2, (self.low + self.high) / 2
        return (u + along, v + across) if self.flat else (u + across, v + along)

    def beside(self, along: float, side: int, out: float) -> UV:
        """A place beside the part, so far out from its minus (−1) or plus (+1) flank."""
        return self.at(along, side * (self.half_across + out))

    def before(self, end: int, out: float, across: float = 0.0) -> UV:
        """A place before its minus (−1) or plus (+1) end, so far out along the travel."""
        return self.at(end * (self.half_along + out), across)

    def dial_beside(self, along: float, side: int) -> None:
        """A dial that stands still, its tip on the part's flank, square to the travel."""
        self.easel.dial(self.beside(along, side, self.clear), self.beside(along, side, 0.0))

    def dial_before(self, end: int) -> None:
        """A dial that stands still, its tip on the part's end, along the travel."""
        self.easel.dial(self.before(end, self.clear), self.before(end, 0.0))
