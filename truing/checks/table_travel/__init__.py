"""Does the table top run with its travel?"""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from truing.checks.tops import Top, TopFinding, TopSetup, evaluated
from truing.contract.case import Case
from truing.contract.move import Advice, LeaveIt
from truing.machine import Machine
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.words import Words, plain, say, show

NOT_TRAM = (
    "This is the table against its own travel, not the tram and not the nod: the dial stood still, "
    "so that a spindle that leans would have shown nothing. To see a lean, the dial has to swing "
    "round with the spindle."
)
WORN = (
    "Chips, a burr or a bruise under the tip look the same: stone and wipe the table, and read "
    "again. A slide with play shows as well: see Slide play."
)


class TableTravelSetup(TopSetup):
    """Where a table is read."""

    kind: Literal["table_travel"] = "table_travel"


class TableTravelFinding(TopFinding):
    """A table's top against the travel that carries it."""

    kind: Literal["table_travel"] = "table_travel"


TableCase = Case[TableTravelSetup, TableTravelFinding]


class TableTravel(Top):
    """A table by a dial that stands still; see `geometry.md` in docs."""

    key: ClassVar[str] = "table_travel"
    called: ClassVar[str] = "table"
    usual: ClassVar[Any] = {"slope": 0.07, "flat": 0.02}
    setup_type = TableTravelSetup
    finding_type = TableTravelFinding

    def propose(self, machine: Machine, subject: Subject = THE_MACHINE) -> TableTravelSetup | None:
        return TableTravelSetup.model_validate(self.proposed_places(machine))

    def evaluate(self, case: TableCase) -> TableTravelFinding:
        return TableTravelFinding(**evaluated(case, "table"), lines=[plain(NOT_TRAM)])

    def remedies(self, case: TableCase) -> Advice:
        return Advice(moves=[], leave=LeaveIt(text=_leave(case)), remarks=[plain(WORN)])


def _leave(case: TableCase) -> Words:
    """What it does to parts: nothing taps a table straight on its ways."""
    slopes = [q.estimate.most for q in case.of("slope")]
    return say(
        "Nothing taps a table straight. Left as it is, a part 200 mm long comes out up to {d} "
        "thicker at one end; a shim under that end of the work takes it out. A worn table is "
        "surfaced once in its life.",
        d=show(max(slopes, default=0.0) / 5, 0.001),
    )


CHECK = TableTravel()
