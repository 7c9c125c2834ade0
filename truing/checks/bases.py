"""A column on its bolted foot: shims under its pads, for whatever shows that it leans."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from truing.checks.common import ISOLATE, SHARP, after, prediction
from truing.contract.case import Case
from truing.contract.finding import Quantity
from truing.contract.move import Amount, Change, Move, Prediction
from truing.drawing.sketches import Easel, SketchFigure
from truing.machine import Machine
from truing.measure.estimate import Estimate, combined
from truing.measure.problem import Problem
from truing.measure.words import Words, plain, say, show
from truing.moves.changes import altered, take_of, tin_of
from truing.moves.packs import pad_stacks
from truing.moves.shims import plan_pads, shorter_side
from truing.moves.wanted import wanted_stacks

SUPPORT_COLUMN = "A column is top-heavy: leave one nut on each bolt, support it, lift with help."
WHOLE_PAD = "Shim the whole pad round its bolt, never only between bolts: cast iron cracks."


def shim_base(
    case: Case[Any, Any],
    *,
    lean: Quantity | None,
    nod: Quantity | None,
    take_lean: bool,
    take_nod: bool,
) -> Move:
    """Shims under the pads of the column, from the stock, all pads together, that take out a lean
    to the right and one to the rear; both are predicted."""
    base = case.machine.base
    assert base is not None
    take_x = lean.estimate.value if lean and take_lean else 0.0
    take_y = nod.estimate.value if nod and take_nod else 0.0
    touched = [(q, axis) for q, axis in ((lean, "x"), (nod, "y")) if q]
    title = plain("Shim under the column: " + _raise_words(take_x, take_y))
    steps = [
        plain("Note and photograph the shims that are there."),
        plain("Support the column. Slacken all bolts but one, and lift no more than you need."),
        plain("Put each stack under the whole pad, as drawn."),
        plain("Tighten in turn, crosswise, in three rounds; then measure the whole round again."),
    ]
    common = {
        "key": "column_base",
        "mechanism": "column_base",
        "title": title,
        "steps": steps,
        "cautions": [ISOLATE, SUPPORT_COLUMN, WHOLE_PAD, SHARP],
        "wants_photo": True,
    }
    # what takes a lean to the right out lifts the right side
    rises = [(take_x * p.x_mm + take_y * p.y_mm) / 1000 for p in base.pads]
    try:
        plan = plan_pads(
            base.pads,
            case.stock,
            take_x_mm_per_m=take_x,
            take_y_mm_per_m=take_y,
            most_pieces=base.most_pieces,
        )
    except Problem as problem:
        return Move.model_validate(
            {
                **common,
                "predicted": [],
                "takes": [
                    take_of(q, take) for q, take in ((lean, take_x), (nod, take_y)) if q and take
                ],
                "needs": plain(str(problem)),
                "wanted": wanted_stacks(base.pads, rises),
            }
        )
    taken = {"x": plan.slope_x_mm_per_m, "y": plan.slope_y_mm_per_m}
    doubt = stock_doubt(case, shorter_side(base.pads))
    predicted = [
        prediction(q, widened(after(q.estimate, q.estimate.value - taken[axis], 0.0), doubt))
        for q, axis in touched
    ]
    same = all(
        sorted(p.shims_mm) == sorted(stack)
        for p, stack in zip(base.pads, plan.stacks_mm, strict=True)
    )
    stacks = pad_stacks(base.pads, plan.stacks_mm)
    return Move.model_validate(
        {
            **common,
            "stacks": stacks,
            "changes": altered(
                *(
                    Change(
                        path=f"base.pads[name={s.pad}].shims_mm",
                        before=s.before_mm,
                        after=s.after_mm,
                    )
                    for s in stacks
                )
            ),
            "tin": tin_of(stacks),
            "predicted": predicted,
            "takes": [take_of(q, taken[axis]) for q, axis in touched],
            "notes": [
                *(
                    [
                        plain(
                            "So many sizes cannot be searched for all pads together: each pad has "
                            "the stack nearest to it, and another set may come nearer."
                        )
                    ]
                    if plan.pad_by_pad
                    else []
                ),
                *shim_notes(
                    case,
                    plan.off_plane_mm,
                    # what these shims are not meant to take is another move's
                    [
                        p
                        for p, (_, axis) in zip(predicted, touched, strict=True)
                        if (take_x if axis == "x" else take_y)
                    ],
                ),
            ],
            "needs": no_stock(wanted_stacks(base.pads, rises)) if same else None,
            "wanted": wanted_stacks(base.pads, rises) if same else [],
        }
    )


def no_stock(stacks: Sequence[Amount]) -> Words:
    """What is missing in the tin where nothing in it helps: `stacks` are the heights that would."""
    most = max(stacks, key=lambda s: s.amount_mm)
    return say(
        "No shim in the kit makes this better: the {place} would take {t}.",
        place=most.place,
        t=most.words,
    )


def _raise_words(take_x: float, take_y: float) -> str:
    """Which sides to raise: one whose lean is next to nothing beside the other's is left out."""
    least = max(abs(take_x), abs(take_y)) / 100
    sides = []
    if take_x and abs(take_x) > least:
        sides.append("right" if take_x > 0 else "left")
    if take_y and abs(take_y) > least:
        sides.append("rear" if take_y > 0 else "front")
    return "raise the " + " and the ".join(sides)


def stock_doubt(case: Case[Any, Any], spread_mm: float) -> float:
    """U of a lean from shims that are not quite as thick as they say, over this spread (mm/m)."""
    tolerance = max([s.tolerance_mm for s in case.stock] or [0.0])
    return tolerance * math.sqrt(2) / spread_mm * 1000


def widened(x: Estimate, by: float) -> Estimate:
    """An estimate with this much more doubt, in quadrature."""
    big = combined(x.expanded, by)
    return Estimate.within(x.measure, x.value, big)


def shim_notes(
    case: Case[Any, Any], off_plane: float, predicted: Sequence[Prediction]
) -> list[Words]:
    """What to know of shims before they go in."""
    notes: list[Words] = []
    if off_plane > max([s.tolerance_mm for s in case.stock] or [0.003]) + 1e-9:
        notes.append(
            say(
                "The stock leaves one pad {d} off the plane of the others: bolting down bends the "
                "base a little.",
                d=show(off_plane, 0.001),
            )
        )
    limits = {
        q.key: case.tolerances[q.tolerance_key] for q in case.finding.quantities if q.tolerance_key
    }
    for p in predicted:
        if abs(p.after.value) > limits[p.quantity]:
            notes.append(
                say("The stock in the kit does not reach it: {q} {p}.", q=p.label, p=p.words)
            )
    return notes


def shims_drawn(move: Move, machine: Machine) -> SketchFigure | None:
    """The column's foot from the side that the shims tip it to; None where none go in."""
    if not move.stacks:
        return None
    rise = [sum(s.after_mm) - sum(s.before_mm) for s in move.stacks]
    by_x = sum(r * s.x_mm for r, s in zip(rise, move.stacks, strict=True))
    by_y = sum(r * s.y_mm for r, s in zip(rise, move.stacks, strict=True))
    sideways = abs(by_x) >= abs(by_y)
    easel = Easel(machine, "front" if sideways else "side")
    if not easel.has("Column's foot"):
        return None
    left, right, low, high = easel.edges("Column's foot")
    raised = (by_x if sideways else by_y) > 0
    tall = right - left
    easel.line((left, low), (right, low), (right, high), (left, high), closed=True)
    for at, side in ((left, False), (right, True)):
        inner = at + (0.15 if side is False else -0.15) * tall
        easel.bolt((inner, high + 0.06 * tall), holds=side != raised)
    at = right if raised else left
    out = 0.06 * tall if raised else -0.06 * tall
    easel.line((at - 0.25 * tall if raised else at, low), (at if raised else at + 0.25 * tall, low))
    easel.moves((at + out, low - 0.2 * tall), (at + out, high + 0.2 * tall), by="hand")
    names = ("left", "right") if sideways else ("front", "rear")
    shows = (
        f"The {names[raised]} of the column’s foot is lifted and shimmed; a bolt of the other side "
        "stays nipped."
    )
    return easel.done(move.title, shows)
