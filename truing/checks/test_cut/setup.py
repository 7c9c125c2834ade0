"""What is cut to accept a machine, and what is then read of the piece."""

from __future__ import annotations

import math
from typing import Literal

from pydantic import Field

from truing.checks.cutting import CORNERS, LENGTHS, NAIL, ROUND, Cutting, cutting
from truing.contract.readings import Grade
from truing.contract.setup import Station
from truing.machine import Machine
from truing.measure.fields import Mm, choice, hint, length
from truing.measure.problem import Problem

Sort = Literal["face", "square", "hole", "thickness"]
Feed = Literal["x", "y"]
HOLE: dict[str, tuple[int, str]] = {
    "h0": (0, "left to right"),
    "h90": (90, "front to rear"),
    "h45": (45, "front left to rear right"),
    "h135": (135, "front right to rear left"),
}
"""Diameters of the hole, by their angle from left–right."""
FED: dict[Feed, str] = {"x": "left–right", "y": "front–back"}
MARKS = [
    Grade(key="crossed", label="crossed: arcs of both edges", tone="good"),
    Grade(key="one_way", label="one way only", tone="doubt"),
    Grade(key="unseen", label="none to be seen", tone="doubt"),
]
SOUND = [
    Grade(key="even", label="even", tone="good"),
    Grade(key="sings", label="it sings or changes", tone="doubt"),
    Grade(key="chatters", label="it chatters", tone="bad"),
]
FINISH = [
    Grade(key="part", label="it would pass as a part", tone="good"),
    Grade(key="rework", label="after some work on it", tone="doubt"),
    Grade(key="scrap", label="it would be sent back", tone="bad"),
]


class TestCutSetup(Cutting):
    """A piece with a face cut both ways, a square outline and a hole milled round."""

    __test__ = False

    kind: Literal["test_cut"] = "test_cut"
    face: bool = Field(
        True,
        title="A face, cut both ways",
        json_schema_extra=hint("With the widest cutter, each way on half of it.", field="switch"),
    )
    square: bool = Field(
        True,
        title="A square outline",
        json_schema_extra=hint("Its sides and diagonals tell skew and size.", field="switch"),
    )
    hole: bool = Field(
        True,
        title="A hole milled round",
        json_schema_extra=hint("It parts lost motion from scale and cutter.", field="switch"),
    )
    thickness: bool = Field(
        False,
        title="Thickness at the corners",
        json_schema_extra=hint(
            "Of the faced piece, turned over on a flat.", field="switch", when={"face": [True]}
        ),
    )
    width_mm: Mm = length("Width as programmed", 100.0, gt=10, le=3000, prompt="Left to right.")
    depth_mm: Mm = length("Depth as programmed", 80.0, gt=10, le=3000, prompt="Front to rear.")
    hole_mm: Mm = length("Hole as programmed", 22.0, gt=2, le=1000)
    cutter_mm: Mm = length(
        "End mill", 12.0, gt=0.5, le=100, prompt="That cuts outline and hole; as stated."
    )
    round: Literal["ccw", "cw"] = choice(
        "The hole is cut",
        "ccw",
        {"ccw": "counter-clockwise (G3)", "cw": "clockwise (G2)"},
        prompt="Seen from above, in the last pass.",
    )
    face_mm: Mm = length("Facing cutter", 50.0, gt=1, le=500, prompt="Where it cuts flat.")
    stepover_mm: Mm = length("From pass to pass", 45.0, gt=0.1, le=500)
    outline_mm: Mm = length(
        "Outline and hole, how deep",
        3.0,
        gt=0.2,
        le=50,
        advanced=True,
        prompt="Deep enough for the jaws; not through.",
    )
    seen_mm: Mm = length(
        "A mark that can be seen", 0.003, gt=0, le=0.1, advanced=True, prompt="How deep it is."
    )
    passes: int = Field(
        2,
        ge=1,
        le=10,
        title="Whole passes",
        json_schema_extra=hint("Of everything that is measured.", field="integer"),
    )


def checked(setup: TestCutSetup) -> TestCutSetup:
    """The set-up. Problem, naming the field, for a piece that could tell nothing."""
    if not (setup.face or setup.square or setup.hole):
        raise Problem(
            "Nothing is cut.",
            expected="Cut a face, a square or a hole at least.",
            field="square",
        )
    if setup.hole and setup.hole_mm <= 1.1 * setup.cutter_mm:
        raise Problem(
            f"A cutter of {setup.cutter_mm:g} mm goes hardly round a hole of {setup.hole_mm:g} mm.",
            expected=f"Mill a hole of about {2 * setup.cutter_mm - 2:g} mm.",
            field="hole_mm",
        )
    if setup.hole and setup.square and setup.hole_mm > 0.6 * min(setup.width_mm, setup.depth_mm):
        raise Problem(
            "The hole leaves too little of the square.",
            expected="Mill a smaller one, or cut a larger square.",
            field="hole_mm",
        )
    if setup.face and setup.stepover_mm > setup.face_mm:
        raise Problem(
            f"A step of {setup.stepover_mm:g} mm leaves a strip beside a cutter that is flat for "
            f"{setup.face_mm:g} mm.",
            expected=f"Step by {0.9 * setup.face_mm:.4g} mm.",
            field="stepover_mm",
        )
    return setup


class CutStation(Station):
    """One thing that is read of the piece."""

    sort: Sort
    feed: Feed | None = None
    """Of a half of the face."""


def stations(setup: TestCutSetup) -> list[CutStation]:
    """What the eye, the nail and the ear say first, then what is measured."""
    found: list[CutStation] = []
    if setup.face:
        found += [s for feed in FED for s in _face(feed)]
    found += _told()
    if setup.square:
        found += _square(setup)
    if setup.hole:
        found += _hole(setup)
    if setup.thickness and setup.face:
        # of a piece that was not faced it tells the stock
        found += _thickness(setup)
    return found


def _at_middle(**stated: object) -> CutStation:
    return CutStation.model_validate({"x_mm": 0.0, "y_mm": 0.0, **stated})


def _face(feed: Feed) -> list[CutStation]:
    fed = FED[feed]
    common = {"sort": "face", "feed": feed, "group": "face"}
    across = "front to rear" if feed == "x" else "left to right"
    steps = [
        Grade(key=key, label=label, tone=tone)
        for (key, (label, _, _)), tone in zip(
            NAIL.items(), ("good", "doubt", "bad", "bad"), strict=True
        )
    ]
    return [
        _at_middle(
            key=f"step_{feed}",
            label=f"step, fed {fed}",
            prompt=f"Half fed {fed}: draw a fingernail across the passes, {across}, both ways.",
            reads="grade",
            grades=steps,
            tip="step",
            **common,
        ),
        _at_middle(
            key=f"marks_{feed}",
            label=f"marks, fed {fed}",
            prompt=f"Half fed {fed}, light from the side: do the arcs cross in mid pass?",
            reads="observation",
            grades=MARKS,
            wants_photo=True,
            tip="marks",
            **common,
        ),
    ]


def _told() -> list[CutStation]:
    return [
        _at_middle(
            key="sound",
            label="sound",
            prompt="How did it sound, the finishing pass above all?",
            reads="grade",
            grades=SOUND,
            sort="face",
            tip="sound",
        ),
        _at_middle(
            key="finish",
            label="finish",
            prompt="Look at the whole piece. Would it pass as a part?",
            reads="observation",
            grades=FINISH,
            wants_photo=True,
            sort="face",
            tip="finish",
        ),
    ]


def _square(setup: TestCutSetup) -> list[CutStation]:
    found = []
    for key, (start, end) in LENGTHS.items():
        (ax, ay), (bx, by) = CORNERS[start], CORNERS[end]
        name = "diagonal" if key in ("d1", "d2") else "side"
        what = f"{start} – {end}" if name == "diagonal" else f"{key} side"
        found.append(
            CutStation(
                key=key,
                label=what,
                prompt=f"Measure the {name} from {start} to {end}."
                if name == "diagonal"
                else f"Measure the {key} side along its middle, burrs off.",
                group="square",
                sort="square",
                x_mm=(ax + bx) / 4 * setup.width_mm,
                y_mm=(ay + by) / 4 * setup.depth_mm,
                tip=key,
            )
        )
    return found


def _hole(setup: TestCutSetup) -> list[CutStation]:
    r = setup.hole_mm / 2
    return [
        CutStation(
            key=key,
            label=f"hole, {way}",
            prompt=f"Measure the hole {way}, as deep as the jaws go in. Rock them: the widest "
            "counts.",
            group="hole",
            sort="hole",
            x_mm=r * math.cos(math.radians(angle)),
            y_mm=r * math.sin(math.radians(angle)),
            tip=key,
        )
        for key, (angle, way) in HOLE.items()
    ]


def _thickness(setup: TestCutSetup) -> list[CutStation]:
    return [
        CutStation(
            key=f"t_{name.replace(' ', '_')}",
            label=f"thickness, {name}",
            prompt=f"Measure the thickness at the {name} corner, as far in as the jaws reach.",
            group="thickness",
            sort="thickness",
            x_mm=sx * setup.width_mm / 2,
            y_mm=sy * setup.depth_mm / 2,
            tip=name,
        )
        for name, (sx, sy) in CORNERS.items()
    ]


def proposed(machine: Machine) -> TestCutSetup:
    """As large as table and travel let it be, and a caliper closes on."""
    cutter = 12.0 if machine.table_x_mm > 350 else 6.0
    slides = (machine.slide("left_right"), machine.slide("front_back"))
    size = [
        min(
            100.0,
            round(0.4 * table, -1),
            # what the cutter runs beyond the piece, and in and out beside it
            5 * math.floor((slide.travel_mm - ROUND * cutter) / 5) if slide else math.inf,
        )
        for table, slide in zip((machine.table_x_mm, machine.table_y_mm), slides, strict=True)
    ]
    wide, deep = (max(20.0, v) for v in size)
    face = min(machine.cutter_mm, wide)
    return TestCutSetup(
        width_mm=wide,
        depth_mm=min(deep, 80.0),
        hole=machine.control == "controller",
        hole_mm=max(2 * cutter - 2, 1.2 * cutter),
        cutter_mm=cutter,
        face_mm=face,
        stepover_mm=round(0.9 * face, 2),
        seen_mm=0.01 if machine.work == "board" else 0.003,
        bite_mm=1.0 if machine.work == "board" else 0.5,
        **cutting(machine, cutter),
    )
