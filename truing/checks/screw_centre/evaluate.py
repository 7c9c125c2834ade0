"""From the limits of each end block's float to how far it stands off the middle."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from pydantic import BaseModel

from truing.checks.screw_centre.setup import ACROSS, WAYS, ScrewCentreSetup, stations
from truing.contract.case import Case
from truing.contract.finding import Finding, quantity
from truing.contract.gather import gather
from truing.measure.estimate import Estimate
from truing.measure.problem import Problem
from truing.measure.words import Words, capital, say, show_estimate

MIDDLE = {"now": 1.0, "low": -0.5, "high": -0.5}


class BlockOff(BaseModel):
    """How far a block stands off the middle of its float, in the dial's own sense."""

    quantity: str
    end: Literal[0, 1]
    """0 is the minus end."""
    way: str
    off: Estimate
    middle_mm: float
    """What the dial shows with the block in the middle, as shown."""


class ScrewCentreFinding(Finding):
    """How far each end block of a screw stands off the middle of its float."""

    kind: Literal["screw_centre"] = "screw_centre"
    blocks: list[BlockOff]


def evaluate(case: Case[ScrewCentreSetup, ScrewCentreFinding]) -> ScrewCentreFinding:
    """See `Check.evaluate`."""
    setup, instrument = case.setup, case.instrument
    got = gather(case, stations(setup))
    blocks: list[BlockOff] = []
    quantities = []
    ends: tuple[Literal[0, 1], ...] = (0, 1)
    for e, end in zip(ends, setup.end_names(), strict=True):
        for w, way in zip(WAYS, ACROSS[setup.slide], strict=True):
            key = f"{e}{w}"
            if not got.has(*(f"{key}:{what}" for what in MIDDLE)):
                continue
            estimate, gain = got.combine({f"{key}:{what}": v for what, v in MIDDLE.items()})
            low, high = got.means[f"{key}:low"].mean_mm, got.means[f"{key}:high"].mean_mm
            middle = (low + high) / 2 / instrument.true_mm(1.0)
            blocks.append(BlockOff(quantity=key, end=e, way=way, off=estimate, middle_mm=middle))
            size = show_estimate(abs(estimate.value), estimate.expanded, "length")
            quantities.append(
                quantity(
                    key,
                    f"{capital(end)} end, {way}",
                    estimate,
                    say(
                        "The {end} end stands {size} off the middle, {way}.",
                        end=end,
                        size=size,
                        way=way,
                    ),
                    gain=gain,
                    tolerance_key="off",
                )
            )
    if not blocks:
        raise Problem(
            "No end block has been read at both of its limits yet.",
            expected="Read one end as it is, then pushed to one limit and to the other.",
            field="readings",
        )
    return ScrewCentreFinding(
        quantities=quantities,
        **got.told("Hold the block the same way each time."),
        lines=_lines(setup, blocks),
        blocks=blocks,
    )


def _lines(setup: ScrewCentreSetup, blocks: Sequence[BlockOff]) -> list[Words]:
    lines = []
    for way in ACROSS[setup.slide]:
        at = {b.end: b.off for b in blocks if b.way == way}
        if len(at) < 2:
            continue
        slope = (at[1] - at[0]).times(1000 / setup.apart_mm, "slope")
        lines.append(
            say(
                "{way}: the screw lies at {slope} to its slide.",
                way=capital(way),
                slope=show_estimate(slope.value, slope.expanded, slope.measure, signed=True),
            )
        )
    return lines
