"""Does the jaw, fence or scale run with the travel?"""

from __future__ import annotations

import math
from collections.abc import Sequence
from copy import deepcopy
from typing import Any, ClassVar, Literal

from truing.checks.common import ISOLATE, expectation
from truing.checks.faces import (
    FaceFinding,
    FaceSetup,
    along_the_face,
    curve,
    evaluated,
    expected_slope,
    face_drawn,
    proposed_places,
    stations,
    turn,
    turn_drawn,
)
from truing.checks.fits import within_travel
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.finding import Quantity, quantity, shown
from truing.contract.judgement import Expectation, Tolerances
from truing.contract.move import Advice, LeaveIt, Move
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.drawing.figures import Figure
from truing.drawing.sketches import SketchFigure
from truing.effects.reach import over_mm
from truing.machine import Machine, Thing
from truing.machine.parts import Direction
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.estimate import Estimate
from truing.measure.fields import choice, filled
from truing.measure.problem import Problem
from truing.measure.words import Words, place, plain, say, show
from truing.moves.changes import NEAR_MM

USUAL_MM_PER_M = 0.2
"""Two hundredths over a jaw of 100 mm."""
USUAL_SCALE_MM = 0.005
"""What a usual readout steps by."""
HEAVY = "A vice is heavy and its edges are sharp: slide it, and keep fingers from under it."
DOWELLED = (
    "It is dowelled: it cannot be tapped. Draw the dowels first, or leave it and shim the work."
)


class FaceAlignmentSetup(FaceSetup):
    """Which face is read, and how."""

    kind: Literal["face_alignment"] = "face_alignment"
    thing: str = choice("Whose face", "", {}, prompt="Named under Machine, each with its bolt.")
    sort: Literal["vice", "fence", "scale", "plate"] = choice(
        "It is",
        "vice",
        {"vice": "a vice", "fence": "a fence or rail", "scale": "a scale", "plate": "a plate"},
    )
    along: Direction = choice(
        "It should run",
        "left_right",
        {"left_right": "left–right", "front_back": "front–back", "up_down": "up–down"},
    )

    @property
    def runs(self) -> Direction:
        return self.along

    @property
    def subject(self) -> Subject:
        return Subject.thing(self.thing) if self.thing else THE_MACHINE


class FaceAlignmentFinding(FaceFinding):
    """The face of something on the machine against a travel."""

    kind: Literal["face_alignment"] = "face_alignment"


FILLED = ("sort", "along", "face_mm", "places_mm", "pivot_mm")
"""What belongs to the thing that is picked."""
FaceCase = Case[FaceAlignmentSetup, FaceAlignmentFinding]


def cosine_error(length_mm: float, slope_mm_per_m: float) -> float:
    """How much too little a scale of this length shows that lies askew by this slope (mm)."""
    askew = min(abs(slope_mm_per_m) / 1000, 1.0) * length_mm
    # L − √(L² − e²), in a form that keeps its figures where e is small
    return askew**2 / (length_mm + math.sqrt(length_mm**2 - askew**2))


class FaceAlignment(Check[FaceAlignmentSetup, FaceAlignmentFinding]):
    """A face by a dial along it; see `geometry.md` in docs."""

    key: ClassVar[str] = "face_alignment"
    layout: ClassVar[Any] = "line"
    part_field: ClassVar[str | None] = "thing"
    limit_kinds: ClassVar[Any] = {
        "face": ("Face against travel", "slope"),
        "scale": ("A scale shows too little", "length"),
    }
    setup_type = FaceAlignmentSetup
    finding_type = FaceAlignmentFinding

    def propose(
        self, machine: Machine, subject: Subject = THE_MACHINE
    ) -> FaceAlignmentSetup | None:
        named = next((t for t in machine.things if subject.key in ("", t.key)), None)
        thing = named or Thing(name="vice")
        return FaceAlignmentSetup(
            thing=thing.key if named else "",
            sort=thing.sort,
            along=thing.runs,
            face_mm=thing.face_mm,
            places_mm=proposed_places(thing.face_mm),
            pivot_mm=thing.pivot_mm,
        )

    def form(self, machine: Machine) -> dict[str, Any]:
        schema = deepcopy(super().form(machine))
        asked = schema["properties"]
        # whose face it is comes before its figures
        first = ("kind", "thing", "sort", "along")
        schema["properties"] = {
            k: asked[k] for k in (*first, *(f for f in asked if f not in first))
        }
        # picking one brings its own figures along
        schema["properties"]["thing"]["x-form"]["fills"] = {
            thing.key: filled(self.propose(machine, Subject.thing(thing.key)), FILLED)
            for thing in machine.things
        }
        if not machine.things:
            labels = {"": "the vice, not described yet"}
            schema["properties"]["thing"]["x-form"]["labels"] = labels
        return schema

    def doubts(self, setup: FaceAlignmentSetup, machine: Machine) -> list[Words]:
        run = max(setup.places_mm) - min(setup.places_mm)
        return within_travel(machine, setup.runs, run, "The run along the face")

    def tolerances(self, machine: Machine) -> Tolerances:
        return {"face": USUAL_MM_PER_M, "scale": USUAL_SCALE_MM}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        return say(
            "a shoulder 100 mm long leans by {d} against the face it was clamped by.",
            d=show(over_mm(tolerances["face"], 100), 0.001),
        )

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return {"": ("lever_dial", "plunger_dial", "digital")}

    def stations(
        self, setup: FaceAlignmentSetup, readings: Sequence[Reading] = ()
    ) -> list[Station]:
        return stations(setup)

    def order(self, setup: FaceAlignmentSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return along_the_face(setup)

    def expect(self, case: FaceCase) -> Expectation | None:
        _as_described(case)
        slope = expected_slope(case).expanded
        if case.setup.sort == "scale":
            off = cosine_error(case.setup.face_mm, slope)
            return expectation(off, case.tolerances["scale"], "length")
        return expectation(slope, case.tolerances["face"], "slope")

    def evaluate(self, case: FaceCase) -> FaceAlignmentFinding:
        face, fields = evaluated(case)
        lines: list[Words] = []
        if case.setup.sort == "scale":
            lines = _scale(case.setup, abs(face.slope.value))
            # a slant of a scale is told, and judged only by what it makes the scale show
            told = [q.model_copy(update={"tolerance_key": None}) for q in fields["quantities"]]
            fields["quantities"] = [_cosine(case.setup, face.slope), *told]
        return FaceAlignmentFinding(**fields, lines=lines)

    def figures(self, case: FaceCase) -> list[Figure]:
        return [curve(case, case.finding.face, _name(case))]

    def sketch(self, setup: FaceAlignmentSetup, machine: Machine) -> SketchFigure | None:
        shows = "A dial is held by the spindle, its tip on the face; the slide takes it along."
        return face_drawn(setup, machine, title="Along the face", shows=shows)

    def move_sketch(self, move: Move, case: FaceCase) -> SketchFigure | None:
        return turn_drawn(move, case.setup, case.machine)

    def remedies(self, case: FaceCase) -> Advice:
        setup = case.setup
        leave = None
        if setup.sort == "scale":
            leave = LeaveIt(text=_scale(setup, abs(case.finding.face.slope.value))[0])
        if not (case.amiss("scale") if setup.sort == "scale" else case.amiss("face")):
            return Advice(moves=[], leave=leave, remarks=[])
        thing = next((t for t in case.machine.things if t.key == setup.thing), None)
        move = turn(
            case,
            what=f"“{thing.name}”" if thing else f"the {_name(case)}",
            mechanism="vice",
            cautions=[ISOLATE, HEAVY],
        )
        remarks = [plain(DOWELLED)] if thing and thing.dowelled else []
        return Advice(moves=[move], leave=leave, remarks=remarks)


def _as_described(case: FaceCase) -> None:
    """Problem when the figures stated are another thing's than the one that is picked: a needle
    target by the wrong bolt would be wrong without a sign of it."""
    setup = case.setup
    thing = next((t for t in case.machine.things if t.key == setup.thing), None)
    if setup.thing and thing is None:
        raise Problem(
            "This machine has no such vice, fence or scale any more.",
            expected="Pick another, or name it under Machine.",
            field="thing",
        )
    if thing is None:
        return
    told = (
        ("face_mm", f"The face of “{thing.name}” is {thing.face_mm:g} mm long", thing.face_mm),
        ("pivot_mm", f"“{thing.name}” turns about {place(thing.pivot_mm)} mm", thing.pivot_mm),
    )
    for field, text, described in told:
        if abs(getattr(setup, field) - described) > NEAR_MM:
            raise Problem(
                f"{text}, as it is described.",
                expected="Take that figure, or correct the description under Machine.",
                field=field,
            )


def _name(case: FaceCase) -> str:
    thing = next((t for t in case.machine.things if t.key == case.setup.thing), None)
    return (
        thing.name
        if thing
        else {"plate": "plate", "vice": "jaw"}.get(case.setup.sort, case.setup.sort)
    )


def _cosine(setup: FaceAlignmentSetup, slope: Estimate) -> Quantity:
    long = setup.face_mm
    least, most = (cosine_error(long, m) for m in (slope.least, slope.most))
    value = cosine_error(long, slope.value)
    off = Estimate.within("length", value, most - value).between(least, most)
    sentence = say(
        "Over its {long} the scale shows {off} too little.", long=show(long, 1), off=shown(off)
    )
    return quantity(
        "scale",
        "Shows too little",
        off,
        sentence,
        gain=slope.value / 1000 * 2**0.5,
        tolerance_key="scale",
        signed=False,
    )


def _scale(setup: FaceAlignmentSetup, slope_mm_per_m: float) -> list[Words]:
    """A scale that lies askew only shows too little, by the cosine."""
    off = cosine_error(setup.face_mm, slope_mm_per_m)
    return [
        say(
            "Askew like this the scale shows {off} too little over its {long}: that is all it "
            "does. No part shows it unless it asks for less than that.",
            off=show(off, 1e-5),
            long=show(setup.face_mm, 1),
        )
    ]


CHECK = FaceAlignment()
