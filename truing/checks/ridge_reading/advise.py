"""What ridges ask for: a head that turns is turned by a needle, all else waits for a swung dial."""

from __future__ import annotations

from truing.checks.common import ISOLATE, after, prediction
from truing.checks.ridge_reading.evaluate import SIDES, LeanFound, RidgeCase, estimate
from truing.contract.finding import Quantity
from truing.contract.move import Act, Advice, Ask, Move, Target, Way
from truing.machine.mechanisms import Mechanism
from truing.measure.estimate import Estimate, combined
from truing.measure.words import Words, goes, plain, say, show, show_estimate, span
from truing.moves.changes import take_of
from truing.moves.pivot import LEAST_LEVER, TAP_SCATTER, aim, needle_change_mm

TRAM = "spindle_tram"
SUPPORT_HEAD = "The head can swing or drop when its bolts are loose: support it."
FINER = "A swung dial tells it finer, and every shim and screw goes by that."


def advise(case: RidgeCase) -> Advice:
    """One lean at a time, the larger first; nothing where its side is not known."""
    amiss = [q for key in SIDES for q in case.amiss(key)]
    amiss.sort(key=lambda q: -q.estimate.most)
    moves: list[Move] = []
    remarks: list[Words] = [*beside_the_dial(case)]
    for q in amiss:
        pivot = _pivot(case, q.key)
        if _found(case, q.key).side == 0:
            remarks.append(
                say(
                    "To which side it leans {axis}, only edges and marks tell: look at them again, "
                    "or swing a dial.",
                    axis="side to side" if q.key == "lean_x" else "front to back",
                )
            )
        elif pivot is not None and q.estimate.visible:
            moves.append(_turn(case, q, *pivot))
    if len(moves) > 1:
        remarks.append(plain("One at a time: make the first move, then cut and read again."))
    asks = [Ask.of(TRAM, plain(FINER))] if amiss or not case.finding.quantities else []
    return Advice(moves=moves, leave=None, remarks=remarks, asks=asks)


def _found(case: RidgeCase, key: str) -> LeanFound:
    return case.finding.lean_x if key == "lean_x" else case.finding.nod


def _pivot(case: RidgeCase, key: str) -> tuple[Mechanism, float] | None:
    """(what turns this lean, where it turns about along it), if anything does."""
    head, bracket = case.machine.head, case.machine.bracket
    if head is not None and (head.turns if key == "lean_x" else head.nods):
        return "head_pivot", head.pivot_x_mm if key == "lean_x" else head.pivot_y_mm
    if bracket is not None and bracket.turns and key == "lean_x":
        return "bracket_pivot", bracket.pivot_x_mm
    return None


ENDS: dict[str, tuple[Way, Way]] = {"lean_x": ("left", "right"), "nod": ("front", "rear")}


def _turn(case: RidgeCase, q: Quantity, mechanism: Mechanism, pivot_mm: float) -> Move:
    """By a needle on an arm in the spindle: what it has to go by, from wherever it stands."""
    aimed = aim(q.key, q.estimate.value, mechanism, case.history)
    take_off = q.estimate.value - aimed.aim
    low, high = ENDS[q.key]
    arm = case.setup.arm_mm
    # the side with the longer lever on the pivot shows more
    side = -1 if abs(-arm - pivot_mm) > abs(arm - pivot_mm) else 1
    change = needle_change_mm(take_off, side * arm, pivot_mm)
    shows = abs(side * arm - pivot_mm) >= LEAST_LEVER * arm
    to = low if take_off > 0 else high
    part = "head" if mechanism == "head_pivot" else "spindle bracket"
    at = say("{arm} {side} of the spindle", arm=span(arm), side=high if side > 0 else low)
    needle = Target(
        station="arm",
        label=at,
        from_mm=0.0,
        to_mm=change,
        words=goes("the needle", plain("0"), show(change, 0.001, signed=True)),
        quantity=q.key,
        per_mm=1000 / (side * arm - pivot_mm) if shows else 0.0,
        lever_mm=side * arm - pivot_mm,
        pushed_in=change > 0,
    )
    swing = {"by_mm": abs(take_off) * 2 * arm / 1000, "over_mm": 2 * arm}
    act = Act(end="the top", way=to, **({"target": needle} if shows else swing))
    return Move(
        key=f"{mechanism}:{q.key}",
        mechanism=mechanism,
        title=plain(f"Turn the {part}: top to the {to}"),
        steps=[
            say("Put a dial on an arm in the spindle, its tip on the table {at}. Zero it.", at=at),
            plain(f"Support the {part}. Slacken its bolts until it just moves, the pivot last."),
            act.words,
            plain("Nip and tighten the bolts in turn; the needle should stay where it is."),
            plain("Swing the dial a whole round, or cut both patches again, and read."),
        ],
        acts=[act],
        cautions=[ISOLATE, SUPPORT_HEAD],
        predicted=[prediction(q, _then(case, q, aimed.left))],
        takes=[take_of(q, take_off)],
        notes=[plain("The figure comes from ridges: take it as a first step, not as the tram.")],
    )


def _then(case: RidgeCase, q: Quantity, aimed: float) -> Estimate:
    """What ridges should say afterwards. Limits of a grade are bounds, now and then: they add up,
    where what is measured twice is seldom wrong the same way."""
    if case.setup.measured:
        return after(q.estimate, aimed, TAP_SCATTER)
    changed = abs(q.estimate.value - aimed)
    return Estimate.within(q.measure, aimed, 2 * q.estimate.expanded + TAP_SCATTER * changed)


def beside_the_dial(case: RidgeCase) -> list[Words]:
    """How it stands beside what a swung dial last said."""
    found = []
    for key, sides in SIDES.items():
        lean = estimate(_found(case, key))
        swung = case.elsewhere(TRAM, key)
        if lean is None or swung is None:
            continue
        if _found(case, key).side:
            apart = abs(lean.value - swung.value)
            fits = apart <= combined(lean.expanded, swung.expanded)
        else:
            fits = lean.least <= swung.most and swung.least <= lean.most
        found.append(
            say(
                "A swung dial says that the top leans {side} by {size}: the ridges {agree}",
                side=sides[0] if swung.value > 0 else sides[1],
                size=show_estimate(abs(swung.value), swung.expanded, "slope"),
                agree="agree with it."
                if fits
                else "say otherwise. Something gives under the cut, or the patch did not lie on "
                "the travel; the dial counts.",
            )
        )
    return found
