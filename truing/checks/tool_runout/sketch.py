"""A tool in its holder under a dial, and which joint is turned or what is changed, drawn."""

from __future__ import annotations

from collections.abc import Sequence

from truing.checks.tool_runout.setup import SLOTS, Joint, Slot, ToolRunoutSetup
from truing.contract.move import Move
from truing.drawing.noses import Nose
from truing.drawing.sketches import SketchFigure
from truing.machine import Machine
from truing.measure.words import plain

HOLDER, COLLET, TOOL = 0.85, 0.6, 0.3
"""Half of each piece's width, of the nose's."""


class _Chain:
    """What hangs from the nose; each piece from where the one above it ends, in mm."""

    def __init__(self, setup: ToolRunoutSetup, machine: Machine) -> None:
        heights = sorted(setup.heights_mm)
        least = heights[0]
        self.nose = Nose(machine, [heights[-1] * 1.2])
        self.heights = heights
        slots = setup.slots
        self.ends: dict[Slot, tuple[float, float]] = {}
        # what is read is the tool: all else ends above the first place
        above = 0.8 * least
        if "holder" in slots:
            self.ends["holder"] = (0.0, 0.55 * above if "collet" in slots else above)
        if "collet" in slots:
            start = self.ends.get("holder", (0.0, 0.0))[1]
            self.ends["collet"] = self.ends["nut"] = (start, above)
        self.ends["tool"] = (above, heights[-1] * 1.2)
        half = self.nose.half
        widths: dict[Slot, float] = {"holder": HOLDER, "nut": COLLET, "tool": TOOL}
        for slot in slots:
            if slot in widths:
                self.nose.down(widths[slot] * half, *self.ends[slot])
        self.tip = TOOL * half

    def read(self) -> None:
        """The dial at the furthest place, the others in thin line."""
        self.nose.dial(self.tip, self.heights[-1])
        for z in self.heights[:-1]:
            v = self.nose.at(z)
            self.nose.easel.line((-1.6 * self.tip, v), (1.6 * self.tip, v), thin=True)

    def turned(self, joint: Joint) -> None:
        """What is turned in its seat, by hand."""
        low, high = self.ends[joint]
        widths: dict[Joint, float] = {"holder": HOLDER, "collet": COLLET, "tool": TOOL}
        self.nose.turns((low + high) / 2, 1.4 * widths[joint] * self.nose.half)

    def put_in(self, slot: Slot) -> None:
        """What goes in from below."""
        out = -2.4 * self.nose.half
        low, high = self.ends[slot]
        self.nose.easel.moves(
            (out, self.nose.at(high) - self.nose.half), (out, self.nose.at(low)), by="hand"
        )


def set_up(setup: ToolRunoutSetup, machine: Machine) -> SketchFigure:
    """What is in the spindle, where it is read, and what is turned between."""
    chain = _Chain(setup, machine)
    chain.read()
    told = f"The dial touches the {'pin' if setup.what == 'pin' else 'shank'}"
    if setup.way == "swap":
        chain.put_in(setup.swapped)
        shows = f"{told}; the {SLOTS[setup.swapped]} is changed for another, and nothing else."
        return chain.nose.easel.done(plain("One piece changed for another"), shows)
    if setup.way == "index" and setup.joints:
        chain.turned(setup.joints[0])
        shows = (
            f"{told}; {_names(setup.joints)} is turned on in its seat and read again, each back "
            "to its mark before the next."
        )
        return chain.nose.easel.done(plain("Each joint turned in its seat"), shows)
    chain.nose.turns(-0.3 * chain.nose.half / chain.nose.scale, chain.nose.half)
    shows = f"{told}; the spindle is turned by hand, nothing in it is moved."
    return chain.nose.easel.done(plain("As it stands"), shows)


def _names(joints: Sequence[Joint]) -> str:
    return ", then ".join(f"the {SLOTS[j]}" for j in joints)


def seated(move: Move, setup: ToolRunoutSetup, machine: Machine) -> SketchFigure | None:
    """What is turned in its seat, or put in."""
    chain = _Chain(setup, machine)
    chain.read()
    joint = next((j for j in setup.joints if j == move.about), None)
    if joint is not None:
        chain.turned(joint)
        shows = f"The {SLOTS[joint]} is loosened, turned in its seat to its new mark, and closed."
        return chain.nose.easel.done(move.title, shows)
    if setup.way != "swap":
        return None
    chain.put_in(setup.swapped)
    shows = f"The {SLOTS[setup.swapped]} is taken out and the better one goes in at its mark."
    return chain.nose.easel.done(move.title, shows)
