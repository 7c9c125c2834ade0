"""What is stated before a travel is read against a square, and where the tip then goes."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal, get_args

from pydantic import Field, field_validator

from truing.contract.setup import Setup, Station, by_group
from truing.machine import RISERS, Machine, Riser
from truing.machine.parts import DIRECTIONS, Direction
from truing.machine.subject import Subject
from truing.measure.fields import Mm, MmList, choice, hint, length
from truing.measure.problem import Problem
from truing.measure.words import place

PLAN = "plan"
ALONG: tuple[Direction, ...] = ("left_right", "front_back")
UPRIGHT: dict[str, tuple[Riser, Direction]] = {
    f"{riser}_{way}": (riser, way) for riser in get_args(Riser) for way in ALONG
}
"""By key of the part: what goes up, and the travel that it should be square to."""
PARTS = {
    **{k: f"{RISERS[riser]} against {DIRECTIONS[way]}" for k, (riser, way) in UPRIGHT.items()},
    PLAN: "left–right against front–back",
}
SIDES: dict[Direction, tuple[str, str]] = {
    "left_right": ("left", "right"),
    "front_back": ("front", "rear"),
    "up_down": ("low", "high"),
}
WAYS = {
    "reversed": "a square, turned about",
    "cylinder": "a cylinder, turned under the tip",
    "trusted": "a square that is trusted",
}
LEAST_APART_MM = 5.0
"""Heights closer together than a tip's own stroke tell no slope."""


class TravelSquareSetup(Setup):
    """Which travel is read, and against what."""

    kind: Literal["travel_square"] = "travel_square"
    part: str = choice("Which travel", "head_left_right", PARTS)
    way: Literal["reversed", "cylinder", "trusted"] = choice("Read against", "reversed", WAYS)
    turned: Literal["over", "half"] = choice(
        "It is turned",
        "over",
        {"over": "over, about its blade", "half": "half round, where it lies"},
        when={"part": [PLAN], "way": ["reversed"]},
    )
    square: str = choice(
        "Which one",
        "",
        {"": "none of the kit"},
        prompt="What is found of it is kept with it in the kit.",
        pieces=["square", "cylinder"],
    )
    stated_mm: Mm = length(
        "Out of square by no more than",
        0.02,
        ge=0,
        le=5,
        prompt="As stated for it, over the length below.",
        when={"square": [""], "way": ["trusted"]},
    )
    taper_mm: Mm = length(
        "Its diameter differs by no more than",
        0.004,
        ge=0,
        le=1,
        prompt="Over the length below; the turn does not take a taper out.",
        when={"square": [""], "way": ["cylinder"]},
    )
    over_mm: Mm = length(
        "Over a length of",
        150.0,
        gt=5,
        le=3000,
        when={"square": [""], "way": ["trusted", "cylinder"]},
    )
    low_diameter_mm: Mm | None = length(
        "Diameter at the lowest place",
        None,
        gt=1,
        le=1000,
        prompt="Measured at both ends, the taper is taken off instead of doubted.",
        when={"way": ["cylinder"]},
        advanced=True,
    )
    high_diameter_mm: Mm | None = length(
        "Diameter at the highest place",
        None,
        gt=1,
        le=1000,
        when={"way": ["cylinder"]},
        advanced=True,
    )
    diameter_u_mm: Mm = length(
        "Diameters known to within",
        0.002,
        ge=0,
        le=1,
        when={"way": ["cylinder"]},
        advanced=True,
    )
    tip: Literal["plus", "minus"] = choice(
        "The tip points at first",
        "plus",
        {"plus": "to the right, or the rear", "minus": "to the left, or the front"},
        when={"part": list(UPRIGHT)},
    )
    heights_mm: MmList = Field(
        default_factory=lambda: [20.0, 70.0, 120.0],
        max_length=12,
        title="Places up the square",
        json_schema_extra=hint(
            "From the table: 20, 70, 120.", field="lengths", when={"part": list(UPRIGHT)}
        ),
    )
    blade_mm: MmList = Field(
        default_factory=lambda: [20.0, 70.0, 120.0],
        max_length=12,
        title="Places along the blade",
        json_schema_extra=hint(
            "The blade lies front to rear; from its corner.", field="lengths", when={"part": [PLAN]}
        ),
    )
    stock_mm: MmList = Field(
        default_factory=lambda: [15.0, 45.0, 75.0],
        max_length=12,
        title="Places along the stock",
        json_schema_extra=hint(
            "The stock lies left to right; from its corner.",
            field="lengths",
            when={"part": [PLAN]},
        ),
    )
    passes: int = Field(
        2,
        ge=1,
        le=10,
        title="Whole passes",
        json_schema_extra=hint("Always coming from the same side.", field="integer"),
    )

    @field_validator("part")
    @classmethod
    def _known_part(cls, value: str) -> str:
        if value not in PARTS:
            raise ValueError("There is no such travel.")
        return value

    @field_validator("heights_mm", "blade_mm", "stock_mm")
    @classmethod
    def _apart(cls, value: list[float]) -> list[float]:
        if len({round(v, 3) for v in value}) < max(2, len(value)):
            raise ValueError("Give two or more places that are not the same.")
        if max(value) - min(value) < LEAST_APART_MM:
            raise ValueError(
                f"The places lie within {LEAST_APART_MM:g} mm of each other, which is no more than "
                "a tip's own stroke. Spread them over the square."
            )
        return value

    def loops(self, plan: Sequence[Station]) -> list[list[Station]]:
        return by_group(plan)

    @property
    def subject(self) -> Subject:
        return Subject.part(self.part)

    @property
    def pieces(self) -> tuple[str, ...]:
        return (self.square,) if self.square else ()

    @property
    def upright(self) -> tuple[Riser, Direction] | None:
        """What goes up and what it should be square to; None for the plan."""
        return UPRIGHT.get(self.part)

    @property
    def poses(self) -> tuple[int, ...]:
        """How often it is set down, counted from one."""
        return (1,) if self.way == "trusted" else (1, 2)

    def points(self, pose: int) -> int:
        """The way the tip points when the square stands so: +1 to the right or rear."""
        first = 1 if self.tip == "plus" else -1
        return -first if self.way == "reversed" and pose == 2 else first


class EdgeStation(Station):
    """A place on one edge, in one of the square's positions."""

    pose: int
    edge: Literal["blade", "stock"] = "blade"
    points: int = 1
    """The way the tip points: +1 to the right or rear."""


def refuse_useless(setup: TravelSquareSetup) -> None:
    """Problem for a way of reading that could never tell anything."""
    if setup.part != PLAN:
        return
    if setup.way == "cylinder":
        raise Problem(
            "A cylinder has no second edge to lie along the other travel.",
            expected="Lay a square on the table, and turn it over about its blade.",
            field="way",
        )
    if setup.way == "reversed" and setup.turned == "half":
        raise Problem(
            "A half turn on the table turns blade and stock alike: both readings tell the square "
            "and the travels together, before as after, and nothing can be separated.",
            expected="Turn it over about its blade, and move the tip to the blade's other side.",
            field="turned",
        )


def stations(setup: TravelSquareSetup) -> list[EdgeStation]:
    """Up the square from below, once for each way that it stands; the blade, then the stock, where
    it lies."""
    if setup.upright is None:
        return [s for pose in setup.poses for s in _lying(setup, pose)]
    return [s for pose in setup.poses for s in _standing(setup, pose)]


TURNS = {
    "reversed": "Turn the square half round on the table, and the tip to its other side. ",
    "cylinder": "Turn the cylinder half round; leave the tip where it is. ",
    "trusted": "",
}


def _standing(setup: TravelSquareSetup, pose: int) -> list[EdgeStation]:
    assert setup.upright is not None
    low, high = SIDES[setup.upright[1]]
    points = setup.points(pose)
    found = []
    for i, h in enumerate(sorted(setup.heights_mm)):
        turn = TURNS[setup.way] if pose == 2 and i == 0 else ""
        found.append(
            EdgeStation(
                key=f"{pose}:{h:g}",
                label=f"{h:g} mm" + (", turned" if pose == 2 else ""),
                prompt=f"{turn}Tip to the {high if points > 0 else low}, {h:g} mm above the table, "
                "always coming from the same side.",
                group="turned" if pose == 2 else "as first set down",
                x_mm=h,
                y_mm=0.0,
                at_mm=h,
                pose=pose,
                points=points,
            )
        )
    return found


def _lying(setup: TravelSquareSetup, pose: int) -> list[EdgeStation]:
    found = []
    points = 1 if pose == 1 else -1
    over = (
        "Turn it over about its blade: the stock now lies to the left. "
        if pose == 2
        else "Lay it with its blade to the rear and its stock to the right. "
    )
    side = "right" if points > 0 else "left"
    for i, y in enumerate(sorted(setup.blade_mm)):
        found.append(
            EdgeStation(
                key=f"{pose}:blade:{y:g}",
                label=f"blade {place(y)} mm" + (", turned over" if pose == 2 else ""),
                prompt=f"{over if i == 0 else ''}Tip to the {side}, on the blade: by the "
                f"front–back travel to {y:g} mm from the corner.",
                group="turned over" if pose == 2 else "as first laid down",
                x_mm=0.0,
                y_mm=y,
                at_mm=y,
                tip="blade",
                pose=pose,
                points=points,
            )
        )
    for x in sorted(setup.stock_mm):
        found.append(
            EdgeStation(
                key=f"{pose}:stock:{x:g}",
                label=f"stock {place(x)} mm" + (", turned over" if pose == 2 else ""),
                prompt=f"Tip to the rear, on the stock: by the left–right travel to {x:g} mm from "
                "the corner.",
                group="turned over" if pose == 2 else "as first laid down",
                x_mm=x if pose == 1 else -x,
                y_mm=0.0,
                at_mm=x if pose == 1 else -x,
                tip="stock",
                pose=pose,
                edge="stock",
                points=1,
            )
        )
    return found


def proposed(machine: Machine, part: str) -> TravelSquareSetup | None:
    """As high as the travel and a usual square allow, for a part; the first there is, where none
    is named."""
    if not machine.lifts:
        return None
    part = part if part in PARTS else f"{machine.lifts[0]}_left_right"
    rises = machine.slide("up_down")
    reach = min(120.0, (rises.travel_mm if rises else 200.0) * 0.6)
    heights = [float(round(20 + reach * share)) for share in (0.0, 0.5, 1.0)]
    return TravelSquareSetup(part=part, heights_mm=heights)
