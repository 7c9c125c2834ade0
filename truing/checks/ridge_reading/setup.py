"""What is stated before ridges are read: the cutter, the step beside it, and what reads them."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from truing.checks.cutting import NAIL, Cutting, cutting
from truing.contract.readings import Grade
from truing.contract.setup import Station
from truing.machine import Machine
from truing.measure.fields import Mm, choice, hint, length
from truing.measure.problem import Problem

Way = Literal["step", "dial", "nail", "finger", "look"]
Patch = Literal["x", "y"]
WIDE = 0.9
"""Of the cutter: beside one another so far, passes leave a step that tells both leans."""
FINGER: dict[str, tuple[str, float, float]] = {
    "none": ("smooth", 0.0, 0.02),
    "just": ("just felt", 0.01, 0.06),
    "felt": ("felt for certain", 0.03, 0.15),
    "rough": ("like a washboard", 0.1, 0.6),
}
"""What a fingertip says, which rides over a ridge and tells its height (mm), by grade."""

EDGES: dict[Patch, tuple[tuple[str, str], tuple[str, str]]] = {
    "x": (("front", "the front edge"), ("rear", "the rear edge")),
    "y": (("left", "the left edge"), ("right", "the right edge")),
}
"""Which edge of each band stands high; first the one of a top that leans to the plus side."""
PLUS_EDGE: dict[Patch, str] = {p: pair[0][0] for p, pair in EDGES.items()}
LEVEL = "level"
MARKS = [
    Grade(key="leading", label="one way, by the leading edge", tone="doubt"),
    Grade(key="trailing", label="one way, by the trailing edge", tone="doubt"),
    Grade(key="crossed", label="crossed: arcs of both", tone="good"),
    Grade(key="unseen", label="none to be seen", tone="doubt"),
]
FED: dict[Patch, tuple[str, str]] = {
    "x": ("left–right", "right"),
    "y": ("front–back", "rear"),
}
"""How a patch is fed, and which way the pass goes whose marks are looked at."""


class RidgeReadingSetup(Cutting):
    """The cutter and the step of two patches, one fed left–right, one front–back."""

    kind: Literal["ridge_reading"] = "ridge_reading"
    way: Way = choice(
        "The ridges are read with",
        "step",
        {
            "step": "a dial, over one step",
            "dial": "a dial, dragged across",
            "nail": "a fingernail",
            "finger": "a fingertip",
            "look": "the eye, or a photo",
        },
        prompt="A dial dragged across shows the height of a ridge; a nail feels only its step.",
    )
    patches: Literal["both", "x", "y"] = choice(
        "Patches",
        "both",
        {"both": "two, one fed each way", "x": "fed left–right only", "y": "fed front–back only"},
        prompt="One patch alone bounds the leans; two tell them.",
    )
    diameter_mm: Mm = length(
        "Cutter", 60.0, gt=1, le=500, prompt="The diameter of the circle that its edges cut."
    )
    corner_mm: Mm = length(
        "Corner radius", 0.0, ge=0, le=50, prompt="Of its edges or inserts: there it cuts no flat."
    )
    stepover_mm: Mm = length(
        "From pass to pass", 54.0, gt=0.1, le=500, prompt="Nine tenths of the flat tells most."
    )
    stepover_y_mm: Mm | None = length(
        "From pass to pass, fed front–back",
        None,
        gt=0.1,
        le=500,
        prompt="Where that patch was cut with another step; empty for the same.",
        when={"patches": ["both"]},
        advanced=True,
    )
    hide_mm: Mm = length(
        "A ridge that does not matter",
        0.02,
        gt=0,
        le=2,
        advanced=True,
        prompt="It is told which step keeps ridges below it.",
    )
    arm_mm: Mm = length(
        "Arm for the needle",
        100.0,
        ge=20,
        le=600,
        advanced=True,
        prompt="From the spindle's axis to the tip, when a head is turned by it.",
    )
    seen_mm: Mm = length(
        "A mark that can be seen",
        0.003,
        gt=0,
        le=0.1,
        advanced=True,
        prompt="How deep it is. In good light on metal 0.002 mm, in board 0.01 mm.",
    )
    beside_mm: Mm = length(
        "Marks looked at beside mid pass",
        0.0,
        ge=0,
        le=250,
        advanced=True,
        prompt="At the very edge of a pass they cross whatever the lean.",
    )
    passes: int = Field(
        2,
        ge=1,
        le=10,
        title="Whole passes",
        json_schema_extra=hint(
            "Over another ridge each time.", field="integer", when={"way": ["step", "dial"]}
        ),
    )

    @property
    def flat_mm(self) -> float:
        """The width that the cutter cuts flat."""
        return self.diameter_mm - 2 * self.corner_mm

    @property
    def steps_mm(self) -> tuple[float, float]:
        """From pass to pass, of the patch fed left–right and of the one fed front–back."""
        other = self.stepover_y_mm if self.patches == "both" else None
        return self.stepover_mm, other or self.stepover_mm

    def step_of(self, patch: Patch) -> float:
        """From pass to pass of a patch (mm)."""
        return self.steps_mm[0 if patch == "x" else 1]

    @property
    def cut(self) -> tuple[Patch, ...]:
        """The patches that were cut."""
        return ("x", "y") if self.patches == "both" else (self.patches,)

    @property
    def measured(self) -> bool:
        """Whether lengths are read, and not grades."""
        return self.way in ("step", "dial")

    @property
    def steps(self) -> bool:
        """Whether what is read is the step, and not the height of the ridge."""
        return self.way in ("step", "nail")


def checked(setup: RidgeReadingSetup) -> RidgeReadingSetup:
    """The set-up. Problem, naming the field, where such patches tell nothing."""
    if setup.flat_mm <= 0:
        raise Problem(
            f"With corners of {setup.corner_mm:g} mm a cutter of {setup.diameter_mm:g} mm has no "
            "flat, and leaves waves whatever its lean.",
            expected="Read the ridges of a cutter that is flat for most of its width.",
            field="corner_mm",
        )
    for field, step in zip(("stepover_mm", "stepover_y_mm"), setup.steps_mm, strict=True):
        if step > setup.flat_mm:
            raise Problem(
                f"A step of {step:g} mm leaves a strip beside a cutter that is flat for "
                f"{setup.flat_mm:g} mm.",
                expected=f"Cut the patches with {WIDE * setup.flat_mm:.4g} mm from pass to pass.",
                field=field,
            )
    if setup.beside_mm >= 0.95 * setup.flat_mm / 2:
        raise Problem(
            "At the very edge of a pass marks cross whatever the lean.",
            expected=f"Look within {0.9 * setup.flat_mm / 2:.3g} mm of the middle of a pass.",
            field="beside_mm",
        )
    return setup


class RidgeStation(Station):
    """One thing to read of one patch."""

    patch: Patch
    what: Literal["size", "edge", "marks"]


def stations(setup: RidgeReadingSetup) -> list[RidgeStation]:
    """Of each patch: how large its ridges are, which edge stands high, how the marks lie."""
    found: list[RidgeStation] = []
    for patch in setup.cut:
        if setup.way != "look":
            found.append(_size(setup, patch))
        found += [_edge(patch), _marks(patch)]
    return found


def _station(patch: Patch, what: Literal["size", "edge", "marks"], **more: object) -> RidgeStation:
    fed = FED[patch][0]
    label = {"size": "ridge", "edge": "high edge", "marks": "marks"}[what]
    stated = {
        "key": f"{patch}:{what}",
        "label": f"fed {fed}: {label}",
        "group": f"fed {fed}",
        "patch": patch,
        "what": what,
        "x_mm": 0.0,
        "y_mm": 0.0,
        "tip": what,
    }
    return RidgeStation.model_validate(stated | more)


_PROMPTS: dict[Way, str] = {
    "step": "Set the dial to zero on one band, close to its edge; lift the tip over to the next "
    "band, as close, and read the step.",
    "dial": "Drag the dial across the bands, {across}. Set zero on the lowest; read the highest.",
    "nail": "Draw a fingernail across the bands, {across}, both ways. What does it feel?",
    "finger": "Draw a fingertip across the bands, {across}. How does it feel?",
    "look": "",
}


def _size(setup: RidgeReadingSetup, patch: Patch) -> RidgeStation:
    across = "front to rear" if patch == "x" else "left to right"
    prompt = f"Patch fed {FED[patch][0]}. " + _PROMPTS[setup.way].format(across=across)
    if setup.measured:
        return _station(patch, "size", prompt=prompt)
    tones = ("good", "doubt", "bad", "bad")
    said = NAIL if setup.steps else FINGER
    grades = [
        Grade.model_validate({"key": key, "label": label, "tone": tone})
        for (key, (label, _, _)), tone in zip(said.items(), tones, strict=True)
    ]
    return _station(patch, "size", prompt=prompt, reads="grade", grades=grades)


def _edge(patch: Patch) -> RidgeStation:
    prompt = (
        f"Patch fed {FED[patch][0]}. Which edge of each band stands high? Stroke across it: the "
        "nail stops on the way up."
    )
    grades = [Grade(key=key, label=label, tone="doubt") for key, label in EDGES[patch]]
    grades.append(Grade(key=LEVEL, label="neither, that one could tell", tone="good"))
    return _station(patch, "edge", prompt=prompt, reads="grade", grades=grades)


def _marks(patch: Patch) -> RidgeStation:
    fed, way = FED[patch]
    prompt = (
        f"Patch fed {fed}. Look at a pass that was fed to the {way}, light from the side: which "
        "arcs are there?"
    )
    return _station(
        patch, "marks", prompt=prompt, reads="observation", grades=MARKS, wants_photo=True
    )


def proposed(machine: Machine) -> RidgeReadingSetup:
    """With the machine's widest cutter, and the step that tells most."""
    cutter = machine.cutter_mm
    return RidgeReadingSetup(
        diameter_mm=cutter,
        stepover_mm=round(WIDE * cutter, 2),
        hide_mm=0.02 if machine.work == "board" else 0.005,
        seen_mm=0.01 if machine.work == "board" else 0.003,
        **cutting(machine, cutter),
        arm_mm=max(20.0, min(100.0, round(0.3 * machine.table_y_mm))),
    )
