"""An end block of a screw that is pushed from one limit of its float to the other."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from truing.checks.screw_centre.setup import BlockStation, ScrewCentreSetup
from truing.contract.move import Move
from truing.contract.readings import Reading
from truing.kit.instruments import Instrument
from truing.standin.hands import Answers, Hands, slide_with, untouched
from truing.standin.seen import Seen, measured
from truing.standin.truth import Truth


def read(
    truth: Truth,
    setup: ScrewCentreSetup,
    station: BlockStation,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """What the dial on the block shows."""
    slide = truth.slide(setup.slide)
    middle = 1.0
    stands = {
        "now": slide.blocks_mm.get(station.block, 0.0),
        "low": -slide.block_float_mm,
        "high": slide.block_float_mm,
    }[station.stands]
    return measured(middle + stands, instrument, rng, truth.noise_share)


def _block(move: Move, truth: Truth, hands: Hands) -> Truth:
    blocks = dict(truth.slide(move.part).blocks_mm)
    for target in move.targets:
        went = (target.to_mm - target.from_mm) * target.per_mm * hands.about(0.8, 1.2)
        blocks[target.quantity] = blocks.get(target.quantity, 0.0) + went
    return slide_with(truth, move.part, blocks_mm=blocks)


ANSWERS: Answers = {"screw_blocks": _block, "end_bearing": untouched}
