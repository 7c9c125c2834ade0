"""Which end block to move, and to which figure of the needle."""

from __future__ import annotations

from truing.checks.common import STILL, Case, after, prediction
from truing.checks.screw_centre.evaluate import ScrewCentreFinding
from truing.checks.screw_centre.setup import ACROSS, WAYS, ScrewCentreSetup
from truing.contract.move import Advice, Move, Target
from truing.measure.verdict import verdict
from truing.measure.words import plain, say
from truing.moves.pivot import TAP_SCATTER


def advise(case: Case[ScrewCentreSetup, ScrewCentreFinding]) -> Advice:
    """One end after the other, the worse first, both ways in one go."""
    limit = case.tolerances["off"]
    worst: dict[int, float] = {}
    for q in case.finding.quantities:
        if verdict(q.estimate, limit) != "true":
            end = int(q.key[0])
            worst[end] = max(worst.get(end, 0.0), abs(q.estimate.value))
    order = sorted(worst, key=lambda e: -worst[e])
    return Advice(moves=[_centre(case, end) for end in order], leave=None, remarks=[])


def _centre(case: Case[ScrewCentreSetup, ScrewCentreFinding], end: int) -> Move:
    finding, setup = case.finding, case.setup
    name = setup.end_names()[end]
    here = [q for q in finding.quantities if q.key.startswith(str(end))]
    targets = []
    for q in here:
        way = ACROSS[setup.slide][WAYS.index(q.key[1])]
        to = finding.middle_mm[q.key]
        now = to + q.estimate.value / case.instrument.true_mm(1.0)
        targets.append(
            Target(
                station=f"{q.key}:now",
                label=way,
                from_mm=now,
                to_mm=to,
                words=say(
                    "the needle goes from {a} to {b}",
                    a=case.instrument.as_read(now),
                    b=case.instrument.as_read(to),
                ),
            )
        )
    targets.sort(key=lambda t: -abs(t.to_mm - t.from_mm))
    return Move(
        key=f"block:{end}",
        mechanism="screw_blocks",
        part=setup.slide,
        title=plain(f"Set the {name} end block to the middle of its float"),
        steps=[
            plain(f"Run the slide to the {name} end, so that the nut holds the screw there."),
            plain("Slacken the block; set it to the figures of the needle, both ways."),
            plain(
                "Tighten crosswise, watch the needle, and turn the screw by hand: it has to turn "
                "as freely as in mid travel."
            ),
            plain("Read that end again, then the other."),
        ],
        cautions=[STILL, "An upright slide falls when its screw is let go: support it first."],
        targets=targets,
        predicted=[prediction(q, after(q.estimate, 0.0, TAP_SCATTER)) for q in here],
        takes_off={q.key: q.estimate.value for q in here},
    )
