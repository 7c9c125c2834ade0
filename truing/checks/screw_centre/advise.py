"""Which end block to move, and to which figure of the needle."""

from __future__ import annotations

from truing.checks.common import STILL, after, prediction
from truing.checks.screw_centre.evaluate import ScrewCentreFinding
from truing.checks.screw_centre.setup import ScrewCentreSetup
from truing.contract.case import Case
from truing.contract.move import Advice, Move, Target
from truing.measure.words import goes, plain
from truing.moves.changes import take_of
from truing.moves.pivot import TAP_SCATTER

CentreCase = Case[ScrewCentreSetup, ScrewCentreFinding]


def advise(case: CentreCase) -> Advice:
    """One end after the other, the worse first, both ways in one go."""
    amiss = {q.key for q in case.amiss("off")}
    worst: dict[int, float] = {}
    for block in case.finding.blocks:
        if block.quantity in amiss:
            worst[block.end] = max(worst.get(block.end, 0.0), abs(block.off.value))
    order = sorted(worst, key=lambda e: -worst[e])
    return Advice(moves=[_centre(case, end) for end in order], leave=None, remarks=[])


def _centre(case: CentreCase, end: int) -> Move:
    finding, setup, instrument = case.finding, case.setup, case.instrument
    name = setup.end_names()[end]
    blocks = {b.quantity: b for b in finding.blocks if b.end == end}
    here = [q for q in finding.quantities if q.key in blocks]
    targets = []
    for block in blocks.values():
        # as the dial stands now
        to = block.middle_mm - finding.zero_mm
        now = to + block.off.value / instrument.true_mm(1.0)
        targets.append(
            Target(
                station=f"{block.quantity}:now",
                label=block.way,
                from_mm=now,
                to_mm=to,
                words=goes(instrument.shown_by, instrument.as_read(now), instrument.as_read(to)),
                quantity=block.quantity,
                per_mm=instrument.true_mm(1.0),
            )
        )
    targets.sort(key=lambda t: -abs(t.to_mm - t.from_mm))
    return Move(
        key=f"block:{end}",
        mechanism="screw_blocks",
        part=setup.slide,
        about=name,
        title=plain(f"Set the {name} end block to the middle of its float"),
        steps=[
            plain(f"Run the slide to the {name} end, so that the nut holds the screw there."),
            plain(f"Slacken the block; bring {instrument.shown_by} to its figures, both ways."),
            plain(
                f"Tighten crosswise, watch {instrument.shown_by}, and turn the screw by hand: it "
                "has to turn as freely as in mid travel."
            ),
            plain("Read that end again, then the other."),
        ],
        cautions=[STILL, "An upright slide falls when its screw is let go: support it first."],
        targets=targets,
        predicted=[prediction(q, after(q.estimate, 0.0, TAP_SCATTER)) for q in here],
        takes=[take_of(q, q.estimate.value) for q in here],
    )
