"""Which foot to turn, how far, and in which order."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from truing.checks.base_level.evaluate import BaseLevelFinding
from truing.checks.base_level.setup import BaseLevelSetup
from truing.checks.common import after, prediction, turns_words
from truing.contract.case import Case
from truing.contract.move import Advice, Amount, Move
from truing.drawing.figures import Spot, plan_figure
from truing.machine import Feet
from truing.measure.estimate import Estimate, combined
from truing.measure.words import Words, plain, say, show
from truing.moves.changes import take_of
from truing.moves.pivot import aim

BRACE = "A machine on its feet can tip: one foot at a time, never reach under it."
THREE_FEET = (
    "Three feet cannot twist a base, so they cannot untwist it: the twist is in the base itself."
)
FOOT_SCATTER = 0.2
"""A foot comes up to within a fifth of what was meant."""
BASE_KEEPS = 0.35
"""How much of a twist a stiff base may keep."""
LEAST_TURN = 1 / 180
"""Two degrees: less than that nobody sets with a spanner."""


def advise(case: Case[BaseLevelSetup, BaseLevelFinding]) -> Advice:
    """One move: every low foot up by its share."""
    feet = case.machine.feet
    if feet is None:
        return Advice(
            moves=[],
            leave=None,
            remarks=[plain("No levelling feet are described on this machine: see Machine.")],
        )
    if len(feet.places) == 3 and case.setup.school == "twist":
        return Advice(
            moves=[],
            leave=None,
            remarks=[plain(THREE_FEET)],
        )
    return Advice(moves=[_turn_feet(case, feet)], leave=None, remarks=[])


def lifts_mm(feet: Feet, twist: float, slope_x: float = 0.0, slope_y: float = 0.0) -> list[float]:
    """How far each foot has to come up (mm), the highest staying: z from slopes in mm/m at the
    middle of the base and twist in mm/m per m."""
    z = [
        (slope_x * f.x_mm + slope_y * f.y_mm) / 1000 + twist * f.x_mm * f.y_mm / 1e6
        for f in feet.places
    ]
    return [max(z) - v for v in z]


def _twist_alone(feet: Feet, twist: float) -> dict[str, float]:
    """Slopes (mm/m) that let a twist turn about the feet's own middle."""
    mid_x = sum(f.x_mm for f in feet.places) / len(feet.places)
    mid_y = sum(f.y_mm for f in feet.places) / len(feet.places)
    return {"slope_x": -twist * mid_y / 1000, "slope_y": -twist * mid_x / 1000}


def _turn_doubts(feet: Feet, lifts: Sequence[float]) -> dict[str, float]:
    """U of slopes (mm/m) and twist (mm/m per m) from feet that are each turned only about as far as
    was meant."""
    rows = [[f.x_mm / 1000, f.y_mm / 1000, 1.0, f.x_mm * f.y_mm / 1e6] for f in feet.places]
    solve = np.linalg.pinv(np.array(rows)[:, : max(3, min(4, len(rows)))])
    each = FOOT_SCATTER * np.array(lifts)
    names = ("slope_x", "slope_y", "", "twist")
    return {n: float(np.linalg.norm(row * each)) for n, row in zip(names, solve, strict=False) if n}


def _turn_feet(case: Case[BaseLevelSetup, BaseLevelFinding], feet: Feet) -> Move:
    finding, earth = case.finding, case.setup.school == "earth"
    twist = case.get("twist")
    assert twist is not None
    aimed = aim("twist", twist.estimate.value, "feet", case.history)
    take = {"twist": twist.estimate.value - aimed.aim} if len(feet.places) > 3 else {}
    if earth:
        take["slope_y"] = finding.slope_y.value
        take["slope_x"] = finding.slope_x.value if finding.slope_x else 0.0
        level = take
    else:
        # free of twist is enough: no foot turns for what feet that are not centred tilt with it
        level = _twist_alone(feet, take["twist"])
    lifts = lifts_mm(
        feet, take.get("twist", 0.0), level.get("slope_x", 0.0), level.get("slope_y", 0.0)
    )
    if not earth and len(lifts) == 4 and max(lifts) < LEAST_TURN * feet.pitch_mm:
        # too little to be shared by two feet: one of them takes all of it
        one = lifts.index(max(lifts))
        lifts = [2 * lift if i == one else 0.0 for i, lift in enumerate(lifts)]
    amounts = [_amount(feet, i, lift) for i, lift in enumerate(lifts)]
    order = sorted((i for i, lift in enumerate(lifts) if amounts[i].turns), key=lambda i: -lifts[i])
    names = [feet.places[i].name for i in order]
    sequence = ", then ".join(names) if names else "none"
    steps = [
        plain("Slacken the lock nuts of the feet that are named. The others stay."),
        plain(f"Turn {sequence}: half of the figure first, all round, then the other half."),
        plain("Feel each foot: every one has to carry. Nip the lock nuts."),
        plain("Wait a minute, then read all stations again."),
    ]
    notes: list[Words] = []
    if not earth and len(feet.places) == 4 and len(order) > 1:
        low = feet.places[order[0]].name
        notes.append(
            say(
                "Or turn one foot only: {low} by {turns} up. A stiff base answers with less than "
                "was turned, so read again.",
                low=low,
                turns=turns_words(2 * lifts[order[0]] / feet.pitch_mm),
            )
        )
    if len(feet.places) == 3 and twist.estimate.visible:
        notes.append(plain(THREE_FEET))
    if aimed.share_left:
        notes.append(
            plain(
                f"This base left about {aimed.share_left:.0%} of earlier turns undone; "
                "the figures allow for it."
            )
        )
    doubts = _turn_doubts(feet, [a.amount_mm for a in amounts])
    predicted = []
    for q in finding.quantities:
        if q.key in take:
            # a stiff base answers with less than its feet were turned
            then = after(q.estimate, 0.0, BASE_KEEPS if q.key == "twist" else 0.0)
            big = combined(then.expanded, doubts[q.key])
            predicted.append(prediction(q, Estimate.within(then.measure, 0.0, big)))
    return Move(
        key="feet",
        mechanism="feet",
        title=plain(
            "Turn the feet: " + ", ".join(f"{n} up" for n in names)
            if names
            else "The feet stand right within two degrees of a turn"
        ),
        steps=steps,
        cautions=[BRACE],
        amounts=amounts,
        figures=[
            plan_figure(
                plain("Turns of each foot, seen from above"),
                [
                    Spot(
                        label=plain(a.place),
                        x_mm=a.x_mm,
                        y_mm=a.y_mm,
                        words=a.words,
                        detail=a.detail,
                        sort="up" if a.turns else "stay",
                    )
                    for a in amounts
                ],
            )
        ],
        predicted=predicted,
        takes=[take_of(q, take[q.key]) for q in finding.quantities if q.key in take],
        notes=notes,
        needs=None
        if names
        else plain("No foot has to turn by two degrees or more: this pitch cannot set it finer."),
    )


def _amount(feet: Feet, i: int, lift_mm: float) -> Amount:
    foot = feet.places[i]
    turns = lift_mm / feet.pitch_mm
    if turns < LEAST_TURN:
        return Amount(
            place=foot.name,
            x_mm=foot.x_mm,
            y_mm=foot.y_mm,
            turns=0.0,
            amount_mm=0.0,
            words=plain("stays"),
            detail=None,
        )
    return Amount(
        place=foot.name,
        x_mm=foot.x_mm,
        y_mm=foot.y_mm,
        turns=turns,
        amount_mm=lift_mm,
        words=plain(f"{turns_words(turns)} up"),
        detail=say(
            "{lift} · {deg}° · {flats} flats",
            lift=show(lift_mm, 0.01),
            deg=f"{turns * 360:.0f}",
            flats=f"{turns * feet.flats:.1f}".rstrip("0").rstrip("."),
        ),
    )
