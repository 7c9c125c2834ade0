"""New home offsets for both motors that drive a gantry; where there is no controller, its stops."""

from __future__ import annotations

from truing.checks.common import after, prediction
from truing.checks.gantry_square.evaluate import GantrySquareFinding
from truing.checks.gantry_square.setup import GantrySquareSetup
from truing.contract.case import Case
from truing.contract.finding import Quantity
from truing.contract.move import Act, Advice, Move
from truing.machine.parts import GantryDrive
from truing.measure.estimate import Estimate
from truing.measure.words import plain, say, show
from truing.moves.changes import take_of
from truing.moves.offsets import HOMES_MM, carried_right, changes_of, entries_of, moved_mm

SquareCase = Case[GantrySquareSetup, GantrySquareFinding]

POWER = "It homes and marks under power: hands off the rails; eyes, ears and extraction for holes."
STOPS_SCATTER = 0.15


def advise(case: SquareCase) -> Advice:
    """One way: the end that is ahead is held back at home."""
    drive = case.machine.gantry_drive
    if drive is None or not case.amiss("square"):
        return Advice(moves=[], leave=None, remarks=[])
    q = case.finding.quantities[0]
    if case.machine.control == "controller":
        return Advice(moves=[_offsets(drive, q)], leave=None, remarks=[])
    return Advice(moves=[_stops(drive, q)], leave=None, remarks=[])


def _offsets(drive: GantryDrive, q: Quantity) -> Move:
    span = drive.right_x_mm - drive.left_x_mm
    new = carried_right(drive, drive.homes, -q.estimate.value * span / 1000)
    left, right = moved_mm(drive, drive.homes, new)
    stays = q.estimate.value + (right - left) / span * 1000
    doubt = 2**0.5 * HOMES_MM / span * 1000
    big = (2 * q.estimate.expanded**2 + doubt**2) ** 0.5
    then = Estimate.within(q.measure, stays, big)
    notes = [
        plain("It holds only while the machine has been homed: home it before each job."),
        plain("A gantry that binds or racks as it homes is forced: look at its rails first."),
    ]
    if abs(left) > 1e-9:
        notes.append(
            say(
                "The right motor cannot back off by less than {least}: the left one takes the "
                "rest.",
                least=show(drive.least_offset_mm, 0.001),
            )
        )
    return Move(
        key="offsets",
        mechanism="drive_home",
        title=say(
            "Enter new home offsets: left {left}, right {right}",
            left=show(new.left_mm, 0.001),
            right=show(new.right_mm, 0.001),
        ),
        steps=[
            plain("Write down what stands there now; it is kept here as well."),
            plain("Enter both values in the controller, and save them."),
            plain("Home the machine. Mark four new corners: the old ones tell nothing any more."),
            plain("Measure both diagonals again, from the same edge of the marks."),
        ],
        cautions=[POWER],
        entries=entries_of(drive, new),
        predicted=[prediction(q, then)],
        takes=[take_of(q, q.estimate.value - stays)],
        changes=changes_of("gantry_drive", drive, new),
        notes=notes,
    )


def _stops(drive: GantryDrive, q: Quantity) -> Move:
    span = drive.right_x_mm - drive.left_x_mm
    ahead = "right" if q.estimate.value > 0 else "left"
    act = Act(end=f"the {ahead} stop", way="front", by_mm=abs(q.estimate.value) * span / 1000)
    return Move(
        key="stop",
        mechanism="drive_home",
        about=ahead,
        title=say(
            "Set the {end} stop {d} further to the front",
            end=ahead,
            d=show(act.by_mm, max(act.by_mm / 20, 1e-4)),
        ),
        steps=[
            plain(f"Slacken the {ahead} stop or belt clamp."),
            act.words,
            plain("Tighten, push the gantry against its stops, and mark four new corners."),
            plain("Measure both diagonals again."),
        ],
        acts=[act],
        cautions=[POWER],
        predicted=[prediction(q, after(q.estimate, 0.0, STOPS_SCATTER))],
        takes=[take_of(q, q.estimate.value)],
    )
