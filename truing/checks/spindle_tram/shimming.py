"""The move that puts shims behind a bracket's screws."""

from __future__ import annotations

from truing.checks.bases import no_stock, shim_notes, stock_doubt, widened
from truing.checks.common import ISOLATE, SHARP, after, prediction
from truing.checks.spindle_tram.evaluate import TramCase
from truing.contract.finding import Quantity
from truing.contract.move import Change, Move, PadStack
from truing.machine import Bracket
from truing.measure.words import plain
from truing.moves.changes import altered, take_of, tin_of
from truing.moves.packs import stack_words
from truing.moves.shims import best_stack
from truing.moves.wanted import wanted


def shim_bracket(case: TramCase, bracket: Bracket, q: Quantity) -> Move:
    """Slope × screw spacing, behind the upper screws when the top leans to the rear."""
    side = 1 if bracket.side == "front" else -1
    net_there = sum(bracket.top_shims_mm) - sum(bracket.bottom_shims_mm)
    height = side * q.estimate.value / 1000 * bracket.spacing_mm + net_there
    there = bracket.top_shims_mm + bracket.bottom_shims_mm
    stack = best_stack(abs(height), case.stock, there=there, most_pieces=bracket.most_pieces)
    top, bottom = (stack, []) if height > 0 else ([], stack)
    net = sum(top) - sum(bottom)
    taken = side * (net - net_there) / bracket.spacing_mm * 1000
    then = after(q.estimate, q.estimate.value - taken, 0.0)
    rows = [
        ("upper screws", bracket.spacing_mm / 2, bracket.top_shims_mm, top),
        ("lower screws", -bracket.spacing_mm / 2, bracket.bottom_shims_mm, bottom),
    ]
    stacks = [
        PadStack(
            pad=name,
            x_mm=0,
            y_mm=y,
            before_mm=before,
            after_mm=now,
            words=stack_words(before, now),
        )
        for name, y, before, now in rows
    ]
    where = "upper" if height > 0 else "lower"
    predicted = [prediction(q, widened(then, stock_doubt(case, bracket.spacing_mm)))]
    unserved = abs(taken) < 1e-9
    stack_wanted = [wanted(f"{where} screws", abs(height))]
    return Move(
        key="bracket",
        mechanism="bracket",
        title=plain(f"Shim the spindle bracket behind its {where} screws"),
        steps=[
            plain("Support the spindle: it is heavy, and the cable pulls."),
            plain("Slacken the screws of one row; leave the other row nipped."),
            plain("Slide the stack in over the full width, round the screws."),
            plain("Tighten evenly, then measure the whole round again."),
        ],
        cautions=[ISOLATE, "A spindle that hangs on loose screws drops: hold it.", SHARP],
        stacks=stacks,
        predicted=predicted,
        takes=[take_of(q, taken)],
        changes=altered(
            Change(path="bracket.top_shims_mm", before=bracket.top_shims_mm, after=top),
            Change(path="bracket.bottom_shims_mm", before=bracket.bottom_shims_mm, after=bottom),
        ),
        tin=tin_of(stacks),
        notes=shim_notes(case, 0.0, predicted),
        wants_photo=bool(there),
        needs=no_stock(stack_wanted) if unserved else None,
        wanted=stack_wanted if unserved else [],
    )
