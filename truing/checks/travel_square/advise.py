"""What to do about a travel that is out of square: shims under the column, or knowing it."""

from __future__ import annotations

from truing.checks.bases import shim_base
from truing.checks.travel_square.evaluate import SquareCase, table_slope
from truing.contract.move import Advice, Ask, LeaveIt, Move
from truing.measure.words import Words, plain, say, show, show_estimate

DEEP_MM = 50.0


def advise(case: SquareCase) -> Advice:
    """Shims where the column stands on some; the reason where nothing here moves that travel."""
    if not case.amiss("square"):
        return Advice(moves=[], leave=None, remarks=[])
    setup = case.setup
    asks: list[Ask] = []
    if setup.upright is not None and table_slope(case) is None:
        kind = "beam_travel" if setup.upright[0] == "carriage" else "table_travel"
        why = "The square stands on the table: how that runs with its travel is still in doubt."
        asks.append(Ask.of(kind, plain(why)))
    moves = [_shims(case)] if _shimmed(case) else []
    return Advice(
        moves=moves,
        leave=LeaveIt(text=_leave(case)),
        remarks=[_remark(case)],
        asks=asks,
    )


def _shimmed(case: SquareCase) -> bool:
    upright = case.setup.upright
    return upright is not None and upright[0] == "head" and case.machine.base is not None


def _shims(case: SquareCase) -> Move:
    assert case.setup.upright is not None
    q = case.of("square")[0]
    sideways = case.setup.upright[1] == "left_right"
    move = shim_base(
        case,
        lean=q if sideways else None,
        nod=None if sideways else q,
        take_lean=sideways,
        take_nod=not sideways,
    )
    spindle = case.elsewhere("spindle_tram", "lean_x" if sideways else "nod")
    if spindle is None or not move.taken(q.key):
        return move
    then = spindle.shifted(-move.taken(q.key))
    note = say(
        "The spindle goes with it: its {name} from {now} to {then}.",
        name="lean" if sideways else "nod",
        now=show_estimate(spindle.value, spindle.expanded, "slope", signed=True),
        then=show_estimate(then.value, then.expanded, "slope", signed=True),
    )
    return move.model_copy(update={"notes": [*move.notes, note]})


def _remark(case: SquareCase) -> Words:
    upright = case.setup.upright
    drive = case.machine.gantry_drive
    if upright is None and drive is not None:
        span = drive.right_x_mm - drive.left_x_mm
        off = case.of("square")[0].estimate.times(span / 1000, "length")
        return say(
            "Two motors drive this gantry, and their home stops square it: over the {span} between "
            "them this is {off}. “Square gantry” tells which stop goes where.",
            span=show(span, 1),
            off=show_estimate(abs(off.value), off.expanded, "length"),
        )
    if upright is None:
        return plain(
            "Nothing taps one slide square to another: their ways are cut in one casting. Lay work "
            "out by one of the two, or let a controller allow for the skew."
        )
    riser, _ = upright
    told = {
        "head": "Shims under the column lean its travel and the spindle together, by the same "
        "amount: the tram is stale after them."
        + (" The head is then turned back by as much." if case.machine.head else ""),
        "quill": "The quill runs in the head: only turning the head moves it, and the spindle with "
        "it. Tram it for the spindle, and write down what the quill drifts.",
        "knee": "A knee carries the table, and the column carries both: shims under the column "
        "change neither this nor the tram. Look at the knee’s gib, and at chips between "
        "knee and saddle.",
        "carriage": "On a gantry the slide is bolted to its plate: shims between the two lean it, "
        "and the spindle with it. Tram is read again after that.",
    }[riser]
    if riser == "head" and case.machine.base is None:
        told = "The column’s foot is not described under Machine, so that no shims can be told."
    return plain(told)


def _leave(case: SquareCase) -> Words:
    most = case.of("square")[0].estimate.most
    if case.setup.upright is None:
        return say(
            "Or leave it: an outline 100 mm square comes out skew by up to {d}.",
            d=show(most / 10, 0.001),
        )
    riser = case.setup.upright[0]
    return say(
        "Or leave it, and write it down: a wall {deep} deep leans by up to {d} where the {riser} "
        "goes {way} in steps, and a second, shorter tool starts that far aside.{stiff}",
        riser=riser,
        way="up" if riser == "knee" else "down",
        stiff=" Shims under a column cost some of its stiffness." if _shimmed(case) else "",
        deep=show(DEEP_MM, 1),
        d=show(most * DEEP_MM / 1000, 0.001),
    )
