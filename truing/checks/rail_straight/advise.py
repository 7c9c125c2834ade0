"""How far to push which bolt, or what to put under it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from truing.checks.common import ISOLATE, SHARP, after, prediction
from truing.checks.rail_straight.evaluate import BoltAt, StraightCase
from truing.checks.rails import SUPPORT, pads_at, rail_xy, rails_of, sides
from truing.contract.move import Advice, Amount, Move
from truing.drawing.figures import Spot, plan_figure
from truing.machine import Rails
from truing.measure.estimate import Estimate, combined
from truing.measure.lines import line_through, noise_of
from truing.measure.words import Words, goes, plain, say, show
from truing.moves.changes import take_of, tin_of
from truing.moves.packs import pack_changes, packed, pad_stacks, stack_plan, wanted_packs

DRAWS = 4000
LANDS = 0.27
"""Share of a push by which it lands short or too far, at the most."""


def advise(case: StraightCase) -> Advice:
    """Sideways the bolts are pushed; in height they are shimmed."""
    rails = rails_of(case.machine)
    if not case.finding.last_pass:
        return Advice(
            moves=[],
            leave=None,
            remarks=[plain("Go on from the first bolt with a full pass, then look again.")],
        )
    move = _push(case, rails) if case.setup.plane == "side" else _shim(case, rails)
    remarks = [] if move else [plain("No bolt stands off the line by what could be pushed.")]
    return Advice(moves=[move] if move else [], leave=None, remarks=remarks)


def _push(case: StraightCase, rails: Rails) -> Move | None:
    limit = case.tolerances["straight"]
    minus, plus = sides(rails)
    amounts = []
    for i, bolt in enumerate(case.finding.bolts):
        off = bolt.off_mm
        x, y = rail_xy(rails, "first", bolt.at_mm)
        if abs(off) < limit / 4:
            amounts.append(Amount(place=f"bolt {i + 1}", x_mm=x, y_mm=y, words=plain("stays")))
            continue
        to = minus if off > 0 else plus
        amounts.append(
            Amount(
                place=f"bolt {i + 1}",
                x_mm=x,
                y_mm=y,
                amount_mm=-off,
                words=say("{d} to the {to}", d=show(abs(off), 0.001), to=to),
                detail=_needle(case, bolt),
            )
        )
    moved = [a for a in amounts if a.amount_mm]
    if not moved:
        return None
    q = case.finding.quantities[0]
    then = _after_pushes(case, [bool(a.amount_mm) for a in amounts])
    return Move(
        key="rail_side",
        mechanism="rail_first",
        title=plain(f"Push {len(moved)} bolt{'s' if len(moved) != 1 else ''} of the first rail"),
        steps=[
            plain("Begin at the fixed end. Slacken one bolt at a time, its neighbours nipped."),
            plain(
                f"Push the rail with a clamp or a wedge until {case.instrument.shown_by} is at its "
                "figure, tighten, and read: it jumps."
            ),
            plain("After the last bolt start from the first again with a full pass."),
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
        predicted=[prediction(q, then)],
        takes=[take_of(q, q.estimate.value - then.value)],
    )


def _after_pushes(case: StraightCase, pushed: Sequence[bool]) -> Estimate:
    """What is left once every push has landed within a third of what was meant: the bolts make up a
    zone together, so that it is drawn by lot what they come to."""
    bolts, q = case.finding.bolts, case.finding.quantities[0]
    off = np.array([b.off_mm for b in bolts])
    rng = np.random.default_rng(0)
    lands = rng.uniform(-1, 1, (DRAWS, len(bolts))) * LANDS
    # and the reading itself widens it
    noise = rng.normal(0.0, q.estimate.expanded / 2**1.5, (DRAWS, len(bolts)))
    left = np.where(pushed, off * lands, off) + noise
    rows, _, _ = noise_of(tuple(round(b.at_mm, 6) for b in bolts), case.setup.line)
    zones = np.ptp(left @ rows.T, axis=1)
    low, high = np.quantile(zones, [0.005, 0.995])
    big = combined((high - low) / 2, q.estimate.expanded, q.estimate.expanded)
    return Estimate.within("length", float(high + low) / 2, float(big))


def _needle(case: StraightCase, bolt: BoltAt) -> Words | None:
    if case.setup.way == "reversal":
        return None
    mean = next(s for s in case.finding.stations if s.station == bolt.station)
    # as the dial stands now
    now = mean.repeats_mm[-1] / case.instrument.true_mm(1.0) - case.finding.zero_mm
    to = now - case.setup.sign * bolt.off_mm / case.instrument.true_mm(1.0)
    return goes(case.instrument.shown_by, case.instrument.as_read(now), case.instrument.as_read(to))


def _shim(case: StraightCase, rails: Rails) -> Move:
    bolts = case.finding.bolts
    pads = pads_at(rails, [("first", b.at_mm, f"bolt {i + 1}") for i, b in enumerate(bolts)])
    plan, why_not = packed(pads, [b.off_mm for b in bolts], case.stock, rails.most_pieces)
    q = case.finding.quantities[0]
    if plan is None:
        return Move(
            key="rail_heights",
            mechanism="rail_packs",
            title=plain("Shim under the first rail"),
            steps=[plain("Get the stock first.")],
            cautions=[SHARP],
            predicted=[],
            takes=[take_of(q, q.estimate.value)],
            needs=why_not,
            wanted=wanted_packs(pads, [b.off_mm for b in bolts]),
        )
    # it is read off the line of the set-up, not off the narrowest zone that the shims were cut for
    left = line_through([b.at_mm for b in bolts], plan.left_mm, case.setup.line).peak_to_valley
    stacks = pad_stacks(pads, plan.stacks_mm)
    return Move(
        key="rail_heights",
        mechanism="rail_packs",
        title=plain("Shim under the first rail, bolt by bolt"),
        steps=[
            plain("Photograph what lies there. One bolt at a time, from the fixed end."),
            plain("Lift the rail no more than the shim needs, put the stack round the bolt."),
            plain("Tighten, and read the whole rail again."),
        ],
        cautions=[ISOLATE, SUPPORT, SHARP],
        stacks=stacks,
        figures=[stack_plan("Shims under the rail, seen from above", stacks)],
        predicted=[prediction(q, after(q.estimate, left, 0.1))],
        takes=[take_of(q, q.estimate.value - left)],
        changes=pack_changes(stacks),
        tin=tin_of(stacks),
        wants_photo=True,
        needs=why_not,
        wanted=wanted_packs(pads, [b.off_mm for b in bolts]) if why_not else [],
    )
