"""What somebody wants to have surfaced, and how: stated before a plan is made."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from truing.measure.fields import Mm, choice, hint, length
from truing.surfacing.life import MARGIN_MM
from truing.surfacing.speeds import MATERIALS

WORKS = {
    "skim": "skim the board",
    "part": "skim a part",
    "seat": "a seat for a panel",
}
PLACED = {"work": ["part", "seat"]}
SKIMS = {"work": ["skim", "part"]}
PATTERNS = {
    "raster": "lines beside each other",
    "rings_in": "rings, from outside inward",
    "rings_out": "rings, from the middle outward",
}


def number(title: str, default: float, prompt: str = "", **more: Any) -> Any:
    """A field for a plain number, with its bounds."""
    limits = {k: more.pop(k) for k in ("ge", "gt", "le", "lt") if k in more}
    extra = hint(prompt, field="number", **more)
    return Field(default, title=title, allow_inf_nan=False, json_schema_extra=extra, **limits)


class Wish(BaseModel):
    """Work, cutter, depths, zero and origin of a plan; lengths in mm, from mid bed."""

    model_config = ConfigDict(extra="forbid")

    work: Literal["skim", "part", "seat"] = choice("Work", "skim", WORKS)
    x_mm: Mm = length("Its middle, right of mid bed", 0.0, ge=-3000, le=3000, when=PLACED)
    y_mm: Mm = length("Its middle, behind mid bed", 0.0, ge=-3000, le=3000, when=PLACED)
    across_mm: Mm = length("Left to right", 100.0, gt=0, le=6000, when=PLACED)
    deep_mm: Mm = length("Front to rear", 100.0, gt=0, le=6000, when=PLACED)
    panel_mm: Mm = length("Thickness of the panel", 3.0, gt=0, le=100, when={"work": ["seat"]})
    clearance_mm: Mm = length("Clearance each side", 0.2, ge=0, le=10, when={"work": ["seat"]})
    panel_corner_mm: Mm = length(
        "Radius of the panel’s corners", 0.0, ge=0, le=500, when={"work": ["seat"]}
    )
    relieve: bool = Field(
        False,
        title="Relieve the corners",
        json_schema_extra=hint(
            "The cutter runs on into each corner, so that a square panel fits.",
            field="switch",
            when={"work": ["seat"]},
        ),
    )
    diameter_mm: Mm = length("Cutter’s diameter", 40.0, gt=0, le=300)
    corner_mm: Mm = length(
        "Radius of its corners", 0.0, ge=0, le=20, prompt="0 for sharp ones.", advanced=True
    )
    teeth: int = Field(2, ge=1, le=12, title="Teeth", json_schema_extra=hint("", field="integer"))
    body_mm: Mm = length(
        "Nut or spindle over it, across",
        0.0,
        ge=0,
        le=300,
        prompt="It keeps clear of tall things as well; 0 for no wider than the cutter.",
        advanced=True,
    )
    below_mm: Mm = length("The cutter stands out of that by", 30.0, ge=0, le=300, advanced=True)
    rated_rev: float = number(
        "Its rated speed (rev/min)", 0.0, "0 when nothing is printed on it.", ge=0, le=100_000
    )
    ramp_deg: float = number("Ramp it comes down", 2.0, "Degrees.", gt=0, le=45, advanced=True)
    depth_mm: Mm = length("Depth of one pass", 0.5, gt=0, le=20)
    skim_mm: Mm = length(
        "Last skim below the lowest place", 0.1, gt=0, le=5, when={"work": ["skim", "part"]}
    )
    pattern: Literal["raster", "rings_in", "rings_out"] = choice("Path", "raster", PATTERNS)
    along: Literal["best", "x", "y"] = choice(
        "Lines run",
        "best",
        {"best": "whichever leaves less", "x": "left to right", "y": "front to rear"},
        when={"pattern": ["raster"]},
    )
    both_ways: bool = Field(
        True,
        title="Cut on the way back, too",
        json_schema_extra=hint("", field="switch", when={"pattern": ["raster"]}),
    )
    stepover_mm: Mm = length(
        "Step from line to line",
        0.0,
        ge=0,
        le=300,
        prompt="0 for the widest that keeps the ridges below what is allowed.",
    )
    ridge_mm: Mm = length("Ridges may be as high as", 0.02, gt=0, le=5)
    heights: Literal["map", "range"] = choice(
        "How uneven it is",
        "map",
        {"map": "as mapped last", "range": "as stated here"},
        when={"work": ["skim", "part"]},
    )
    holes: Literal["leave", "cut"] = choice(
        "Pits and holes in the map",
        "leave",
        {"leave": "stay as they are", "cut": "are cut down to their floor"},
        when={"heights": ["map"], "work": ["skim", "part"]},
        advanced=True,
    )
    range_mm: Mm = length(
        "Highest less lowest",
        0.3,
        ge=0,
        le=30,
        when={"heights": ["range"], "work": ["skim", "part"]},
    )
    zero: Literal["highest", "spot"] = choice(
        "Z is zeroed on",
        "highest",
        {"highest": "the highest place", "spot": "a place stated here"},
    )
    zero_x_mm: Mm = length(
        "That place, to the right", 0.0, ge=-3000, le=3000, when={"zero": ["spot"]}
    )
    zero_y_mm: Mm = length(
        "That place, to the rear", 0.0, ge=-3000, le=3000, when={"zero": ["spot"]}
    )
    plate_mm: Mm = length(
        "A touch plate of", 0.0, ge=0, le=100, prompt="0 when the cutter touches the board itself."
    )
    origin: Literal["corner", "middle", "bed"] = choice(
        "X and Y are zeroed on",
        "corner",
        {
            "corner": "front left corner",
            "middle": "middle of the work",
            "bed": "mid bed",
        },
    )
    safe_mm: Mm = length("Rapids stay above it all by", 5.0, gt=0.5, le=100)
    margin_mm: Mm = length(
        "Room around what must not be cut", MARGIN_MM, ge=0, le=50, advanced=True
    )
    reach_left_mm: Mm = length(
        "The spindle reaches left to", -250.0, ge=-6000, le=6000, advanced=True
    )
    reach_right_mm: Mm = length("right to", 250.0, ge=-6000, le=6000, advanced=True)
    reach_front_mm: Mm = length("front to", -150.0, ge=-6000, le=6000, advanced=True)
    reach_rear_mm: Mm = length("rear to", 150.0, ge=-6000, le=6000, advanced=True)
    material: str = choice("Material", "mdf", {k: v[0] for k, v in MATERIALS.items()})
    chip_mm: Mm = length(
        "Chip for each tooth", 0.0, ge=0, le=2, prompt="0 for a usual one.", advanced=True
    )
    spindle_rev: float = number("Fastest the spindle turns (rev/min)", 24000.0, gt=0, le=100_000)
    by_hand: bool = Field(
        False,
        title="The spindle is switched by hand",
        json_schema_extra=hint("", field="switch", advanced=True),
    )
    spin_up_s: float = number(
        "Seconds until it is up to speed", 3.0, "", ge=0, le=60, advanced=True
    )
    feed_mm_min: float = number(
        "Most feed (mm/min)",
        0.0,
        "0 for what the drives have proven.",
        ge=0,
        le=60_000,
        advanced=True,
    )
    rapid_mm_min: float = number("Rapids (mm/min)", 3000.0, "", gt=0, le=60_000, advanced=True)
    accel_mm_s2: float = number("Acceleration (mm/s²)", 200.0, "", gt=0, le=20_000, advanced=True)
    units: Literal["mm", "inch"] = choice("Program in", "mm", {"mm": "mm", "inch": "inch"})
    air_mm: Mm = length(
        "Air run raised by",
        30.0,
        gt=1,
        le=200,
        prompt="The same path, above it all.",
        advanced=True,
    )

    @model_validator(mode="after")
    def _possible(self) -> Wish:
        if self.material not in MATERIALS:
            raise ValueError("That material has no figures: choose one of the list.")
        if self.reach_right_mm <= self.reach_left_mm or self.reach_rear_mm <= self.reach_front_mm:
            raise ValueError("The spindle reaches nowhere: right and rear have to be larger.")
        if 2 * self.corner_mm > self.diameter_mm:
            raise ValueError("The radius of its corners is more than half the cutter.")
        return self

    @property
    def skims(self) -> bool:
        """Whether it takes a face off, and cuts no recess."""
        return self.work != "seat"

    @property
    def radius_mm(self) -> float:
        return self.diameter_mm / 2

    @property
    def flat_mm(self) -> float:
        """Diameter over which it cuts flat."""
        return max(self.diameter_mm - 2 * self.corner_mm, 0.0)

    @property
    def reaches(self) -> list[tuple[float, float]]:
        """Radius of the cutter, and of what is wider over it, with how far that stands over the
        cutter's end (mm)."""
        found = [(self.radius_mm, 0.0)]
        if self.body_mm > self.diameter_mm:
            found.append((self.body_mm / 2, self.below_mm))
        return found

    @property
    def reach(self) -> tuple[float, float, float, float]:
        return (self.reach_left_mm, self.reach_front_mm, self.reach_right_mm, self.reach_rear_mm)
