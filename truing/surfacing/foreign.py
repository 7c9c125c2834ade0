"""What somebody states about a program that is not ours, so that it can be checked on their bed."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator, model_validator

from truing.measure.fields import Mm, choice, hint, length
from truing.programs.cutters import Cutter
from truing.programs.ground import Ground
from truing.surfacing.area import Area
from truing.surfacing.facts import Facts
from truing.surfacing.relief import Relief
from truing.surfacing.stating import EXAMPLE, frames_of, tools_of, zeros_of
from truing.surfacing.wish import Wish, number

SHAPES = {"flat": "flat below", "ball": "a ball", "v": "a point (V)", "drill": "a drill"}


class Stated(BaseModel):
    """Cutter, origin and zero of a program, and what the machine is good for."""

    model_config = ConfigDict(extra="forbid")

    shape: Literal["flat", "ball", "v", "drill"] = choice("The cutter is", "flat", SHAPES)
    diameter_mm: Mm = length("Its diameter", 6.0, gt=0, le=300)
    corner_mm: Mm = length(
        "Radius of its corners", 0.0, ge=0, le=20, when={"shape": ["flat"]}, advanced=True
    )
    included_deg: float = number(
        "Angle of its point",
        60.0,
        "Degrees, both sides together.",
        gt=1,
        lt=179,
        when={"shape": ["v"]},
    )
    tip_mm: Mm = length("Width of its tip", 0.1, ge=0, le=10, when={"shape": ["v"]})
    depth_mm: Mm = length(
        "Most that it takes in one pass",
        0.0,
        ge=0,
        le=50,
        prompt="0 to judge by what is usual in it.",
    )
    rated_rev: float = number(
        "Its rated speed (rev/min)", 0.0, "0 for not stated.", ge=0, le=100_000
    )
    plunges: bool = Field(
        False,
        title="It can plunge",
        json_schema_extra=hint("Drills, points, cutters that cut to the middle.", field="switch"),
    )
    body_mm: Mm = length(
        "Nut or spindle over it, across",
        0.0,
        ge=0,
        le=300,
        prompt="It keeps clear of tall things as well; 0 for no wider than the cutter.",
        advanced=True,
    )
    below_mm: Mm = length("The cutter stands out of that by", 20.0, ge=0, le=300, advanced=True)
    tir_mm: Mm = length(
        "It runs out by (TIR)", 0.0, ge=0, le=2, when={"shape": ["v"]}, advanced=True
    )
    x_mm: Mm = length(
        "X0 lies right of mid bed by", 0.0, ge=-3000, le=3000, prompt="Left of it is minus."
    )
    y_mm: Mm = length("Y0 lies behind mid bed by", 0.0, ge=-3000, le=3000)
    top_mm: Mm = length(
        "At X0 Y0 the face stands at Z",
        0.0,
        ge=-200,
        le=200,
        prompt="0 when Z is zeroed on it there.",
    )
    thickness_mm: Mm = length(
        "Work that lies on the board", 0.0, ge=0, le=200, prompt="0 when the board itself is cut."
    )
    into_board_mm: Mm = length(
        "It may go into the board by", 0.5, ge=0, le=20, prompt="When it cuts through the work."
    )
    safe_mm: Mm = length("Rapids are safe from", 2.0, gt=0, le=200, prompt="Over the work’s face.")
    reach_left_mm: Mm = length(
        "The spindle reaches left to", -250.0, ge=-6000, le=6000, advanced=True
    )
    reach_right_mm: Mm = length("right to", 250.0, ge=-6000, le=6000, advanced=True)
    reach_front_mm: Mm = length("front to", -150.0, ge=-6000, le=6000, advanced=True)
    reach_rear_mm: Mm = length("rear to", 150.0, ge=-6000, le=6000, advanced=True)
    top_reach_mm: Mm | None = length(
        "It goes up to Z",
        None,
        ge=-1000,
        le=3000,
        prompt="From this program’s zero; empty where not known.",
        advanced=True,
    )
    low_reach_mm: Mm | None = length(
        "and down to Z",
        None,
        ge=-3000,
        le=1000,
        prompt="The cutter’s end; empty where not known.",
        advanced=True,
    )
    rapid_mm_min: float = number(
        "Rapids (mm/min)", 0.0, "0 for not known.", ge=0, le=200_000, advanced=True
    )
    accel_mm_s2: float = number(
        "Acceleration (mm/s²)", 0.0, "0 for a usual one.", ge=0, le=20_000, advanced=True
    )
    zeros: str = Field(
        "",
        max_length=600,
        title="Other zeros",
        json_schema_extra=hint(
            "From this program’s own, in mm: G55 X120 Y0 Z-2; machine X-20 Y-30 Z60",
            field="lines",
            advanced=True,
        ),
    )
    lengths_set: bool = Field(
        False,
        title="Every tool’s length is set in the controller",
        json_schema_extra=hint("", field="switch", advanced=True),
    )
    tools: str = Field(
        "",
        max_length=1000,
        title="Tools that it changes to",
        json_schema_extra=hint(
            f"A line each, in mm, by their numbers: {EXAMPLE}. What is not there is taken for the "
            "cutter above.",
            field="lines",
            advanced=True,
        ),
    )
    spindle_rev: float = number(
        "Fastest the spindle turns (rev/min)", 24000.0, "", gt=0, le=100_000, advanced=True
    )
    by_hand: bool = Field(
        False,
        title="The spindle is switched by hand",
        json_schema_extra=hint("", field="switch", advanced=True),
    )
    spin_up_s: float = number(
        "Seconds until it is up to speed", 3.0, "", ge=0, le=60, advanced=True
    )

    @model_validator(mode="after")
    def _reaches(self) -> Stated:
        if self.reach_right_mm <= self.reach_left_mm or self.reach_rear_mm <= self.reach_front_mm:
            raise ValueError("The spindle reaches nowhere: right and rear have to be larger.")
        top, low = self.top_reach_mm, self.low_reach_mm
        if top is not None and low is not None and top <= low:
            raise ValueError("The spindle reaches nowhere: it has to go further up than down.")
        return self

    @field_validator("zeros")
    @classmethod
    def _zeros(cls, value: str) -> str:
        zeros_of(value)
        return value

    @field_validator("tools")
    @classmethod
    def _tools(cls, value: str) -> str:
        tools_of(value)
        return value

    @model_validator(mode="before")
    @classmethod
    def _renamed(cls, data: Any) -> Any:
        """Lengths had a field of their own."""
        if isinstance(data, dict) and "lengths" in data:
            data = {"tools": data["lengths"], **data}
            del data["lengths"]
        return data


def ground_for(stated: Stated, facts: Facts) -> Ground:
    """The bed in a program's own coordinates: its face, what is in the way, how far it reaches."""
    wish = Wish(heights="map" if facts.map else "range", range_mm=0, origin="bed")
    relief = Relief(wish, facts)
    area: Area = relief.area
    face = stated.top_mm - stated.thickness_mm
    left, front, right, rear = area.board.bounds
    x, y = stated.x_mm, stated.y_mm
    # the lowest that it may be where Z is zeroed: the rest then stands the higher
    there = facts.face.about(x, y)[0] if facts.map else 0.0
    highest = stated.top_mm + (facts.face.highest_mm if facts.map else 0.0) - there
    cut_into = (
        facts.board.thickness_mm - facts.board.least_mm
        if stated.thickness_mm == 0
        else stated.into_board_mm
    )
    kept = [
        k.model_copy(
            update={
                "outline": [(a - x, b - y) for a, b in k.outline],
                # counted from where Z is zeroed; the board's face lies that much lower there
                "top_mm": k.top_mm + face,
            }
        )
        for k in area.in_program(wish, there)
    ]
    highest = max([highest, *(k.top_mm for k in kept if k.wall)])
    tools = tools_of(stated.tools)
    return Ground(
        board=(left - x, front - y, right - x, rear - y),
        top_mm=stated.top_mm,
        # work of even thickness follows the board, and Z is zeroed where the program begins
        map=[(a - x, b - y, z - there + stated.top_mm) for a, b, z in facts.face.points],
        patches=[p.moved(-x, -y, stated.top_mm - there) for p in facts.patches],
        floor_mm=face - cut_into,
        kept=kept,
        reach=(
            stated.reach_left_mm - x,
            stated.reach_front_mm - y,
            stated.reach_right_mm - x,
            stated.reach_rear_mm - y,
        ),
        safe_mm=highest + stated.safe_mm,
        cutter=Cutter(
            diameter_mm=stated.diameter_mm,
            corner_mm=stated.diameter_mm / 2 if stated.shape == "ball" else stated.corner_mm,
            included_deg=stated.included_deg if stated.shape == "v" else 0.0,
            tip_mm=stated.tip_mm if stated.shape == "v" else 0.0,
            rated_rev_per_min=stated.rated_rev,
            depth_mm=stated.depth_mm,
            plunges=stated.plunges or stated.shape in ("v", "drill"),
            drill=stated.shape == "drill",
        ),
        tools=tools.cutters,
        body_mm=stated.body_mm,
        below_mm=stated.below_mm,
        tir_mm=stated.tir_mm,
        most_feed_mm_min=facts.proven_feed_mm_min,
        most_rev_per_min=stated.spindle_rev,
        by_hand=stated.by_hand,
        spin_up_s=stated.spin_up_s,
        rapid_mm_min=stated.rapid_mm_min,
        accel_mm_s2=stated.accel_mm_s2,
        low_mm=stated.low_reach_mm,
        high_mm=stated.top_reach_mm,
        frames=frames_of(stated.zeros, tools, stated.lengths_set),
    )
