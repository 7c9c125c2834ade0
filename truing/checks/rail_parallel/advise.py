"""How far to push which bolt of the second rail."""

from __future__ import annotations

from truing.checks.common import ISOLATE, prediction
from truing.checks.rail_parallel.evaluate import RailParallelFinding
from truing.checks.rail_parallel.setup import RailParallelSetup
from truing.checks.rails import SUPPORT, rail_xy, rails_of
from truing.contract.case import Case
from truing.contract.move import Advice, Amount, Move
from truing.drawing.figures import Spot, plan_figure
from truing.measure.estimate import Estimate
from truing.measure.words import plain, say, show
from truing.moves.changes import take_of
from truing.moves.pivot import TAP_SCATTER


def advise(case: Case[RailParallelSetup, RailParallelFinding]) -> Advice:
    """Every bolt of the second rail to the mean distance."""
    rails = rails_of(case.machine)
    limit = min(case.tolerances.values())
    amounts = []
    for i, bolt in enumerate(case.finding.bolts):
        off = bolt.off_mm
        x, y = rail_xy(rails, "second", bolt.at_mm)
        still = abs(off) < limit / 6
        amounts.append(
            Amount(
                place=f"bolt {i + 1}",
                x_mm=x,
                y_mm=y,
                amount_mm=0.0 if still else -off,
                words=plain("stays")
                if still
                else say(
                    "{d} {way}",
                    d=show(abs(off), 0.001),
                    way="toward the first" if off > 0 else "away from the first",
                ),
            )
        )
    moved = [a for a in amounts if a.amount_mm]
    if not moved:
        nothing = plain("No bolt stands off by what could be pushed.")
        return Advice(moves=[], leave=None, remarks=[nothing])
    worst = max(abs(a.amount_mm) for a in moved)
    predicted = []
    for q in case.finding.quantities:
        big = max(2 * q.estimate.expanded, 2 * TAP_SCATTER * worst)
        aimed = 0.0 if q.key == "taper" else limit / 4
        predicted.append(prediction(q, Estimate.within("length", aimed, big)))
    move = Move(
        key="rail_second",
        mechanism="rail_second",
        title=plain(f"Push {len(moved)} bolt{'s' if len(moved) != 1 else ''} of the second rail"),
        steps=[
            plain("Tighten one bolt at each end first, at the distance it should have."),
            plain("Then from the fixed end, one bolt at a time: slacken, push, tighten, read."),
            plain(
                "Or let the carriage set it: slacken the second rail, run the carriage to a "
                "bolt, tighten that bolt, run on to the next."
            ),
            plain("Measure all places again: a rail springs."),
        ],
        cautions=[ISOLATE, SUPPORT],
        amounts=amounts,
        figures=[
            plan_figure(
                plain("Pushes, seen from above"),
                [
                    Spot(
                        label=a.place,
                        x_mm=a.x_mm,
                        y_mm=a.y_mm,
                        words=a.words,
                        sort="stay" if not a.amount_mm else "out" if a.amount_mm > 0 else "in",
                    )
                    for a in amounts
                ],
            )
        ],
        predicted=predicted,
        takes=[
            take_of(q, q.estimate.value - p.after.value)
            for q, p in zip(case.finding.quantities, predicted, strict=True)
        ],
    )
    return Advice(moves=[move], leave=None, remarks=[])
