"""Does the beam of a gantry run level over its bed?"""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from truing.checks.tops import Top, TopFinding, TopSetup, evaluated
from truing.contract.case import Case
from truing.contract.move import Advice, Ask
from truing.machine import Machine
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.words import plain

NOT_TRAM = (
    "This is the bed against the travel over it, not the tram and not the nod: a spindle that "
    "leans would have shown nothing. To see a lean, the dial has to swing round with the spindle."
)


class BeamTravelSetup(TopSetup):
    """Where a bed is read."""

    kind: Literal["beam_travel"] = "beam_travel"


class BeamTravelFinding(TopFinding):
    """A bed against the travel of the beam over it."""

    kind: Literal["beam_travel"] = "beam_travel"


BeamCase = Case[BeamTravelSetup, BeamTravelFinding]


class BeamTravel(Top):
    """A bed by a dial that the carriage takes over it; see `geometry.md` in docs."""

    key: ClassVar[str] = "beam_travel"
    called: ClassVar[str] = "bed"
    usual: ClassVar[Any] = {"slope": 0.15, "flat": 0.1}
    setup_type = BeamTravelSetup
    finding_type = BeamTravelFinding

    def propose(self, machine: Machine, subject: Subject = THE_MACHINE) -> BeamTravelSetup | None:
        return BeamTravelSetup.model_validate(self.proposed_places(machine))

    def powered(self, machine: Machine) -> bool:
        return machine.control == "controller"

    def evaluate(self, case: BeamCase) -> BeamTravelFinding:
        return BeamTravelFinding(**evaluated(case, "bed"), lines=[plain(NOT_TRAM)])

    def remedies(self, case: BeamCase) -> Advice:
        amiss = {q.key for key in ("slope", "flat") for q in case.amiss(key)}
        machine, asks = case.machine, []
        if "slope_x" in amiss and machine.lift is not None:
            why = "A slope across is taken out by the home offsets of the motors that lift it."
            asks.append(Ask.of("gantry_level", plain(why)))
        if machine.rails is not None and amiss & {"slope_y", "flat"}:
            why = "A slope along, or a twist, comes from the rails: do they lie in one plane?"
            asks.append(Ask.of("rail_twist", plain(why)))
        remarks = []
        if machine.board is not None:
            remarks.append(
                plain("Surfacing the board takes out what is left, for work that lies on it.")
            )
        return Advice(moves=[], leave=None, remarks=remarks, asks=asks)


CHECK = BeamTravel()
