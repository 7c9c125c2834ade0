"""What is stated before a screw is centred, and where its end blocks are then read."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from truing.checks.common import ends_of
from truing.contract.setup import Setup, Station
from truing.machine import DIRECTIONS, Direction
from truing.machine.subject import Subject
from truing.measure.fields import Mm, choice, hint, length

ACROSS: dict[Direction, tuple[str, str]] = {
    "left_right": ("up and down", "in and out"),
    "front_back": ("up and down", "left and right"),
    "up_down": ("left and right", "in and out"),
}
WAYS = ("v", "h")
"""The two ways across a screw, as `ACROSS` names them."""


class ScrewCentreSetup(Setup):
    """Which screw, and how far apart its end blocks are."""

    kind: Literal["screw_centre"] = "screw_centre"
    slide: Direction = choice("Which slide", "left_right", DIRECTIONS)
    apart_mm: Mm = length("From end block to end block", 400.0, gt=20, le=12000)
    passes: int = Field(
        2, ge=1, le=10, title="Whole passes", json_schema_extra=hint("", field="integer")
    )

    @property
    def subject(self) -> Subject:
        return Subject.part(self.slide)

    def end_names(self) -> tuple[str, str]:
        """What the two ends are called."""
        return ends_of(self.slide)


class BlockStation(Station):
    """One end block, one way across, as it stands or at a limit of its float."""

    block: str
    """Its key: the end (0 minus, 1 plus) and the way across (v, h), such as 0v."""
    stands: Literal["now", "low", "high"]


def stations(setup: ScrewCentreSetup) -> list[BlockStation]:
    """At each end as it stands, both ways, while its bolts are tight; then at both limits of its
    float."""
    found = []
    both = list(zip(WAYS, ACROSS[setup.slide], strict=True))
    for e, end in enumerate(setup.end_names()):
        for w, way in both:
            prompt = f"Dial on the {end} end block, {way}, its bolts tight: read."
            found.append(_at(setup, e, w, way, "now", prompt))
        for i, (w, way) in enumerate(both):
            slacken = "Slacken its bolts, push" if i == 0 else "Push"
            low = f"{slacken} it to one limit, {way}: read."
            high = f"Push it to the other limit, {way}: read."
            found += [_at(setup, e, w, way, "low", low), _at(setup, e, w, way, "high", high)]
    return found


def _at(
    setup: ScrewCentreSetup,
    end: int,
    across: str,
    way: str,
    stands: Literal["now", "low", "high"],
    prompt: str,
) -> BlockStation:
    name = setup.end_names()[end]
    what = {"now": "as it is", "low": "one limit", "high": "other limit"}[stands]
    return BlockStation(
        block=f"{end}{across}",
        stands=stands,
        tip=stands,
        key=f"{end}{across}:{stands}",
        label=f"{name}, {way}: {what}",
        prompt=prompt,
        group=f"{name} end",
        x_mm=(-1 if end == 0 else 1) * setup.apart_mm / 2,
        y_mm=0.0,
    )
