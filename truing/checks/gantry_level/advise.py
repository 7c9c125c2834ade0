"""New offsets for both motors, or the stop of one side; what either does to the spindle's lean."""

from __future__ import annotations

from truing.checks.common import after, prediction, turns_words
from truing.checks.gantry_level.evaluate import GantryLevelFinding
from truing.checks.gantry_level.setup import GantryLevelSetup
from truing.contract.case import Case
from truing.contract.finding import Quantity
from truing.contract.move import Act, Advice, Amount, Move
from truing.machine.parts import Lift
from truing.measure.estimate import Estimate
from truing.measure.words import Words, plain, say, show
from truing.moves.changes import take_of
from truing.moves.offsets import HOMES_MM, carried_right, changes_of, entries_of, moved_mm

LevelCase = Case[GantryLevelSetup, GantryLevelFinding]

SINKS = "A gantry sinks when its motors are off: block it up before hands go under the beam."
POWER = "It homes under power: spindle off, cutter out, hands clear of screws and belts."
STOPS_SCATTER = 0.15
"""Share by which a stop that is turned by hand lands off."""


def advise(case: LevelCase) -> Advice:
    """Offsets where a controller keeps them, and stops as the other school; stops alone where it
    does not."""
    lift = case.machine.lift
    if lift is None or not case.amiss("level"):
        return Advice(moves=[], leave=None, remarks=[])
    q = case.finding.quantities[0]
    stops = _stops(lift, q)
    if case.machine.control != "controller":
        return Advice(moves=[stops], leave=None, remarks=[])
    moves = [_offsets(lift, q), stops.model_copy(update={"instead": True})]
    return Advice(moves=moves, leave=None, remarks=[])


def _offsets(lift: Lift, q: Quantity) -> Move:
    new = carried_right(lift, lift.homes, -q.estimate.value)
    left, right = moved_mm(lift, lift.homes, new)
    stays = q.estimate.value + right - left
    notes = [
        _leans(lift, right - left),
        plain("It holds only while the machine has been homed: home it before each job."),
    ]
    if abs(left) > 1e-9:
        notes.append(
            say(
                "The right motor cannot back off by less than {least}; the left one takes the "
                "rest, so that the whole gantry stands {d} {way} than before.",
                least=show(lift.least_offset_mm, 0.001),
                d=show(abs(left), 0.001),
                way="lower" if left < 0 else "higher",
            )
        )
    return Move(
        key="offsets",
        mechanism="lift_home",
        title=say(
            "Enter new home offsets: left {left}, right {right}",
            left=show(new.left_mm, 0.001),
            right=show(new.right_mm, 0.001),
        ),
        steps=[
            plain("Write down what stands there now; it is kept here as well."),
            plain("Enter both values in the controller, and save them."),
            plain("Home the machine, and look that both ends back off by what was entered."),
            plain("Touch every place again. The table's zero has moved: set it anew."),
        ],
        cautions=[POWER, SINKS],
        entries=entries_of(lift, new),
        predicted=[prediction(q, _then(q.estimate, stays, HOMES_MM))],
        takes=[take_of(q, q.estimate.value - stays)],
        changes=changes_of("lift", lift, new),
        notes=notes,
    )


def _then(now: Estimate, left: float, doubt: float) -> Estimate:
    """Both readings' doubt, and what the ends do not repeat."""
    found = after(now, left, 0.0)
    return Estimate.within(now.measure, left, (found.expanded**2 + doubt**2) ** 0.5)


def _stops(lift: Lift, q: Quantity) -> Move:
    high = "right" if q.estimate.value > 0 else "left"
    # a switch or stop that comes earlier by so much holds that end lower by it, at the top
    size = abs(q.estimate.value)
    side = 1 if high == "right" else -1
    turns = size / lift.stop_pitch_mm if lift.stop_pitch_mm else 0.0
    x = lift.right_x_mm if high == "right" else lift.left_x_mm
    act = Act(end=f"the {high} stop", way="down", by_mm=size)
    amounts = []
    if turns:
        amounts.append(
            Amount(
                place=f"{high} stop",
                x_mm=x,
                y_mm=0.0,
                turns=turns,
                amount_mm=-size,
                words=say("{t} lower", t=turns_words(turns)),
                detail=show(size, 0.001),
            )
        )
    return Move(
        key="stop",
        mechanism="lift_home",
        about=high,
        title=say("Set the {high} stop lower by {d}", high=high, d=show(size, 0.001)),
        steps=[
            plain(f"Block the gantry up, and slacken the {high} stop or switch."),
            act.words,
            plain("A dial on that end, or a stack of blades under it, shows how far it went."),
            plain("Tighten it, home the machine, and touch every place again."),
        ],
        acts=[act],
        cautions=[SINKS, POWER],
        amounts=amounts,
        predicted=[prediction(q, after(q.estimate, 0.0, STOPS_SCATTER))],
        takes=[take_of(q, q.estimate.value)],
        notes=[
            _leans(lift, -side * size),
            plain("A stop is right before the controller wakes; it creeps, so look again."),
        ],
    )


def _leans(lift: Lift, right_up_mm: float) -> Words:
    """What carrying the right end up does to the spindle: its top goes left."""
    span = lift.right_x_mm - lift.left_x_mm
    return say(
        "The beam carries the spindle: its top leans {lean} further to the {side}. Read the tram "
        "after it.",
        lean=show(abs(right_up_mm) / span * 1000, 0.001, "slope"),
        side="left" if right_up_mm > 0 else "right",
    )
