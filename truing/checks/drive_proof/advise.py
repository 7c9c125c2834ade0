"""What to enter in the controller, and where a stall points to."""

from __future__ import annotations

from truing.checks.drive_proof.evaluate import DriveProofFinding, measure_of
from truing.checks.drive_proof.setup import DriveProofSetup
from truing.contract.case import Case
from truing.contract.move import Advice, Entry, Move
from truing.measure.words import plain, say, show

CAUSES = {
    "ends": "It fails near the ends: the screw pinches there. “Centred screw” finds by how much.",
    "anywhere": "It fails anywhere along the travel: too much drag, or too little motor. “Slide "
    "play” tells whether a gib is tight; a lower acceleration helps too.",
}


def advise(case: Case[DriveProofSetup, DriveProofFinding]) -> Advice:
    """The limit to enter, and the check that looks for the cause."""
    finding, setup = case.finding, case.setup
    remarks = [plain(CAUSES[finding.cause])] if finding.cause else []
    if finding.recommended is None:
        remarks.append(plain("Not even the first step is proven: begin lower."))
        return Advice(moves=[], leave=None, remarks=remarks)
    measure = measure_of(setup)
    what = "highest feed" if setup.ladder == "feed" else "acceleration"
    value = show(finding.recommended, 1, measure)
    move = Move(
        key="limit",
        mechanism="drive_settings",
        part=setup.slide,
        title=say("Set the {what} to {v} in the controller", what=what, v=value),
        steps=[
            say("Enter {v} as the {what} of this axis, and save it.", v=value, what=what),
            plain("Put back everything else that was raised for the test."),
            plain("Restart the controller and look that it kept them. Run one program in the air."),
        ],
        cautions=["Keep clear of a slide that can move by itself; a hand on the stop."],
        entries=[Entry(setting=what, value_mm=finding.recommended, words=value)],
        predicted=[],
        takes=[],
    )
    return Advice(moves=[move], leave=None, remarks=remarks)
