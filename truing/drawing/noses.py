"""A spindle's nose seen close from the front, with what is in it, drawn."""

from __future__ import annotations

from collections.abc import Sequence

from truing.drawing.sketches import Easel
from truing.machine import Machine


class Nose:
    """The nose of the spindle. Heights are told in mm below it, plus is outward; what reaches
    further down than there is room for is drawn shorter."""

    def __init__(self, machine: Machine, heights_mm: Sequence[float] = ()) -> None:
        self.easel = Easel(machine, "front", near=0.12)
        self.v = self.easel.nose
        self.easel.empty()
        self.half = 0.14 * self.easel.unit
        deepest = max([*(abs(h) for h in heights_mm), 1.0])
        self.scale = min(1.0, 0.7 * self.v / deepest)

    def at(self, height_mm: float) -> float:
        """How high in the view a place below the nose is drawn."""
        return self.v - height_mm * self.scale

    def bore(self) -> None:
        """Its taper, as if the spindle were cut open."""
        top = self.v + 2.2 * self.half
        for side in (-1, 1):
            self.easel.line((side * 0.8 * self.half, self.v), (side * 0.45 * self.half, top))

    def bore_at(self, inside_mm: float) -> float:
        """Half of the bore's width, so far inside."""
        share = min(1.0, inside_mm * self.scale / (2.2 * self.half))
        return (0.8 - 0.35 * share) * self.half

    def down(self, half: float, from_mm: float, to_mm: float, *, thin: bool = False) -> None:
        """Something round below the nose, from one height to another."""
        self.easel.box(-half, half, self.at(to_mm), self.at(from_mm), thin=thin)

    def dial(self, tip_u: float, height_mm: float) -> None:
        """A dial on its stand on the table, its tip against something from the right."""
        v, out = self.at(height_mm), 1.9 * self.half
        base = (tip_u + out, v)
        self.easel.stand((base[0] + 1.6 * self.half, 0.0), base)
        self.easel.dial(base, (tip_u, v))

    def turns(self, height_mm: float, half: float) -> None:
        """A turn by hand about the spindle's axis."""
        self.easel.turns((0, self.at(height_mm)), 1.7 * half, 0.35 * half)
