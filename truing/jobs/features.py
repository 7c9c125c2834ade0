"""What a job is made of: features with sizes and tolerances, each as it is filled in.

Left–right is X, front–back is Y, as the part lies on the machine. A tolerance that is not stated
asks for nothing; every feature asks for one at least.
"""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal, get_args

from pydantic import BaseModel, ConfigDict, Field, model_validator

from truing.machine import RISERS
from truing.measure.fields import Mm, choice, hint, length

Axis = Literal["x", "y"]
WAYS: dict[Axis, str] = {"x": "left to right", "y": "front to rear"}
HELD = {
    "table": "clamped on the table or bed",
    "vice": "against the vice’s jaw",
    "fence": "against a fence",
}
BY: dict[str, str] = {
    "usual": "the usual way down",
    **{r: f"the {t}" for r, t in RISERS.items()},
}
MOST_FEATURES = 200


def _number(title: str, default: float, prompt: str = "", **limits: Any) -> Any:
    extra = hint(prompt, field="number")
    return Field(default, title=title, allow_inf_nan=False, json_schema_extra=extra, **limits)


def _within(title: str, prompt: str = "") -> Any:
    return length(title, None, gt=0, le=50, prompt=prompt, tolerance=True)


class Feature(BaseModel):
    """One thing on the part that can come out right or wrong."""

    model_config = ConfigDict(extra="forbid")
    title: ClassVar[str]
    says: ClassVar[str]
    """What it is, in a line."""

    kind: str
    name: str = Field(
        "",
        max_length=60,
        title="What you call it",
        json_schema_extra=hint("Left empty, its kind is its name.", field="text"),
    )

    @property
    def called(self) -> str:
        """Its name, or what it is."""
        return self.name.strip() or self.title

    @model_validator(mode="after")
    def _asks_for_something(self) -> Feature:
        asked = [n for n in type(self).model_fields if n.endswith("_tol_mm")]
        if asked and all(getattr(self, n) is None for n in asked):
            raise ValueError("State how far it may be off: one tolerance at least.")
        return self


class Faced(Feature):
    x_mm: Mm = length("Left to right", 100.0, gt=0, le=6000)
    y_mm: Mm = length("Front to rear", 60.0, gt=0, le=6000)
    cutter_mm: Mm = length("Cutter that faces it", 40.0, gt=0, le=500)
    stepover_mm: Mm = length(
        "Step from pass to pass",
        30.0,
        gt=0,
        le=500,
        prompt="Of no meaning where one pass covers the face.",
    )
    feed: Axis = choice("Passes run", "x", WAYS)

    @property
    def one_pass(self) -> bool:
        """Whether the cutter covers it without a second pass beside the first."""
        return self.across_mm <= self.cutter_mm

    @property
    def across_mm(self) -> float:
        """Its width across the passes."""
        return float(self.y_mm if self.feed == "x" else self.x_mm)

    @model_validator(mode="after")
    def _covered(self) -> Faced:
        if not self.one_pass and self.stepover_mm > self.cutter_mm:
            raise ValueError(
                "The step is wider than the cutter: a strip would stay between two passes."
            )
        return self


class Face(Faced):
    """A flat face."""

    title: ClassVar[str] = "Flat face"
    says: ClassVar[str] = "A face that is milled flat, in one pass or pass beside pass."
    kind: Literal["face"] = "face"
    flat_tol_mm: Mm | None = _within("Flat within")


class Thickness(Faced):
    """A thickness that is the same all over."""

    title: ClassVar[str] = "Thickness"
    says: ClassVar[str] = "A part that lies on its lower face and is milled on top."
    kind: Literal["thickness"] = "thickness"
    thick_tol_mm: Mm | None = _within("The same within")


class Sided(Feature):
    depth_mm: Mm = length("Depth", 12.0, gt=0, le=500)
    level_mm: Mm = length(
        "Depth of one level", 4.0, gt=0, le=500, prompt="The whole depth where it is cut at once."
    )
    flute_mm: Mm = length(
        "Length of the cutter’s flutes",
        16.0,
        gt=0,
        le=500,
        prompt="Longer than a level they cut the wall above again.",
    )
    runs: Axis = choice("It runs", "x", WAYS)
    length_mm: Mm = length("Length", 80.0, gt=0, le=6000)
    held: Literal["table", "vice", "fence"] = choice("The part is held", "vice", HELD)

    @property
    def faces(self) -> Axis:
        """The direction that it looks to, and leans in."""
        return "y" if self.runs == "x" else "x"

    @model_validator(mode="after")
    def _reached(self) -> Sided:
        if self.flute_mm < min(self.level_mm, self.depth_mm):
            raise ValueError("The flutes are shorter than a level is deep: the shank would rub.")
        return self


class Wall(Sided):
    """A wall or an edge."""

    title: ClassVar[str] = "Wall or edge"
    says: ClassVar[str] = "A side that is cut upright, level by level."
    kind: Literal["wall"] = "wall"
    upright_tol_mm: Mm | None = _within("Upright within", "Over its depth.")
    along_tol_mm: Mm | None = _within(
        "Parallel to what it is held against within", "Over its length."
    )

    @model_validator(mode="after")
    def _against(self) -> Wall:
        if self.along_tol_mm is not None and self.held == "table":
            raise ValueError(
                "Parallel to what it is held against: say against which, a vice or a fence."
            )
        return self


class Hole(Feature):
    """A hole or bore."""

    title: ClassVar[str] = "Hole or bore"
    says: ClassVar[str] = "Drilled, bored or plunged, in its place and upright."
    kind: Literal["hole"] = "hole"
    depth_mm: Mm = length("Depth", 20.0, gt=0, le=500)
    by: Literal["usual", "head", "quill", "knee", "carriage"] = choice("Taken down by", "usual", BY)
    cutter: Literal["drill", "boring", "fluted"] = choice(
        "Made with",
        "drill",
        {
            "drill": "a drill or reamer",
            "boring": "a boring tool",
            "fluted": "a cutter with side flutes, plunged",
        },
    )
    approach: Literal["one", "both"] = choice(
        "Its place is come to",
        "both",
        {"one": "always from the same side", "both": "from either side"},
    )
    upright_tol_mm: Mm | None = _within("Upright within", "Over its depth.")
    place_tol_mm: Mm | None = _within("In its place within")
    size_tol_mm: Mm | None = _within("Of its size within", "How much larger it may be.")


class Slot(Feature):
    """A slot or groove."""

    title: ClassVar[str] = "Slot or groove"
    says: ClassVar[str] = "As wide as its cutter, or cut on both its sides."
    kind: Literal["slot"] = "slot"
    length_mm: Mm = length("Length", 60.0, gt=0, le=6000)
    runs: Axis = choice("It runs", "x", WAYS)
    ways: Literal["once", "both"] = choice(
        "Its width is",
        "once",
        {"once": "the cutter’s, in one pass", "both": "cut on both sides"},
    )
    width_tol_mm: Mm | None = _within("Of its width within", "How much wider it may be.")


class Outline(Feature):
    """An outline, or a pattern of holes."""

    title: ClassVar[str] = "Outline or pattern of holes"
    says: ClassVar[str] = "Its corners or holes, against each other."
    kind: Literal["outline"] = "outline"
    x_mm: Mm = length("Left to right", 120.0, gt=0, le=6000)
    y_mm: Mm = length("Front to rear", 80.0, gt=0, le=6000)
    square_tol_mm: Mm | None = _within("Square within", "Over its longer side.")
    size_tol_mm: Mm | None = _within("Of its size within", "Either way.")


class Engraving(Feature):
    """Something engraved with a V cutter."""

    title: ClassVar[str] = "Engraving"
    says: ClassVar[str] = "Lines of a V cutter, as wide everywhere as anywhere."
    kind: Literal["engraving"] = "engraving"
    x_mm: Mm = length("Left to right", 90.0, gt=0, le=6000)
    y_mm: Mm = length("Front to rear", 90.0, gt=0, le=6000)
    depth_mm: Mm = length("Depth", 0.2, gt=0, le=20)
    angle_deg: float = _number(
        "Included angle of the V", 60.0, "Degrees, from side to side.", ge=5, le=170
    )
    line_tol_mm: Mm | None = _within("As wide within", "How much wider or narrower a line may be.")


class SmallCutter(Feature):
    """A small cutter that must not break."""

    title: ClassVar[str] = "Small cutter"
    says: ClassVar[str] = "What one tooth takes when the tool runs out."
    kind: Literal["small_cutter"] = "small_cutter"
    diameter_mm: Mm = length("Diameter", 1.0, gt=0, le=20)
    teeth: int = Field(2, ge=1, le=12, title="Teeth", json_schema_extra=hint("", field="integer"))
    chip_mm: Mm = length("Chip of one tooth", 0.01, gt=0, le=1)
    over: float = _number(
        "One tooth may take more by",
        0.5,
        "As a share of its chip: 0.5 for half as much again.",
        gt=0,
        le=5,
    )


class TwoSides(Sided):
    """Two sides of a part that is turned over between them."""

    title: ClassVar[str] = "Two sides, turned over"
    says: ClassVar[str] = "A part milled from one side, turned over, and milled from the other."
    kind: Literal["two_sides"] = "two_sides"
    match_tol_mm: Mm | None = _within("The sides match within")


AnyFeature = Annotated[
    Face | Thickness | Wall | Hole | Slot | Outline | Engraving | SmallCutter | TwoSides,
    Field(discriminator="kind"),
]
FEATURE_TYPES: dict[str, type[Feature]] = {
    t.model_fields["kind"].default: t for t in get_args(get_args(AnyFeature)[0])
}
"""By kind, in the order in which they are offered."""


class Job(BaseModel):
    """What is to be made, and how far it may be off. ValidationError names the field."""

    model_config = ConfigDict(extra="forbid")

    name: str = Field(
        min_length=1, max_length=60, title="Job", json_schema_extra=hint("", field="text")
    )
    material: str = Field(
        "", max_length=40, title="Material", json_schema_extra=hint("", field="text")
    )
    features: list[AnyFeature] = Field(max_length=MOST_FEATURES, title="Features")

    @model_validator(mode="after")
    def _named(self) -> Job:
        if not self.name.strip():
            raise ValueError("Give it a name.")
        return self
