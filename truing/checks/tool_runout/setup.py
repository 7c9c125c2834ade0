"""What is put together in a spindle, what of it is turned or changed, and where the tip goes."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from typing import Literal, Self

from pydantic import Field, field_validator, model_validator

from truing.checks.turning import MarksDeg, angles_of, uneven_marks
from truing.contract.setup import Setup, Station, by_group
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.fields import Mm, MmList, choice, choices, hint, length
from truing.measure.words import plain, stated

Slot = Literal["holder", "collet", "nut", "tool"]
Joint = Literal["holder", "collet", "tool"]
WAYS = {
    "plain": "as it stands",
    "index": "turned in its seats: what adds what",
    "swap": "one piece changed for others",
}
CHAINS: dict[str, tuple[Slot, ...]] = {
    "holder_collet": ("holder", "collet", "nut", "tool"),
    "holder": ("holder", "tool"),
    "collet": ("collet", "nut", "tool"),
}
"""From the spindle outward."""
JOINTS: dict[Joint, str] = {
    "holder": "holder in the spindle",
    "collet": "collet in its seat",
    "tool": "tool in what holds it",
}
SLOTS: dict[Slot, str] = {"holder": "holder", "collet": "collet", "nut": "nut", "tool": "tool"}
TURNS = {2: "half round", 3: "by thirds", 4: "by quarters", 6: "by sixths"}
LEAST_APART_MM = 2.0
"""Heights closer than this tell no tilt."""
MOST_COMPARED = 12


class ToolRunoutSetup(Setup):
    """The chain from spindle to tool, and how it is read."""

    kind: Literal["tool_runout"] = "tool_runout"
    way: Literal["plain", "index", "swap"] = choice(
        "You read it",
        "plain",
        WAYS,
        prompt="Turning a piece in its seat tells what it adds. A swap tells only what it adds "
        "against the other.",
    )
    chain: Literal["holder_collet", "holder", "collet"] = choice(
        "In the spindle is",
        "holder_collet",
        {
            "holder_collet": "a holder with a collet",
            "holder": "a holder or chuck that takes the tool itself",
            "collet": "a collet, straight in the spindle",
        },
    )
    holder: str = choice(
        "Holder",
        "",
        {"": "one that is not in the kit"},
        pieces=["holder"],
        when={"chain": ["holder_collet", "holder"]},
    )
    collet: str = choice(
        "Collet",
        "",
        {"": "one that is not in the kit"},
        pieces=["collet"],
        when={"chain": ["holder_collet", "collet"]},
    )
    nut: str = choice(
        "Nut",
        "",
        {"": "one that is not in the kit"},
        pieces=["nut"],
        when={"chain": ["holder_collet", "collet"]},
    )
    what: Literal["pin", "tool"] = choice(
        "The tip runs on",
        "pin",
        {"pin": "a straight ground pin", "tool": "the shank of the tool itself"},
    )
    tool: str = choice("Which one", "", {"": "one that is not in the kit"}, pieces=["pin", "tool"])
    turned: list[Joint] = choices(
        "Turned in its seat",
        ["holder"],
        JOINTS,
        prompt="One after the other, each back to its mark before the next.",
        when={"way": ["index"]},
        min_length=1,
    )
    seats: Literal[2, 3, 4, 6] = choice(
        "Each is turned",
        3,
        TURNS,
        prompt="Half round splits it; three seats and more show how well a seat repeats.",
        when={"way": ["index"]},
    )
    marks_on: Literal["below", "above"] = choice(
        "The marks that you count are on",
        "below",
        {"below": "the nose of the spindle", "above": "the pin or tool"},
        prompt="They turn the sums round, so say which.",
        when={"way": ["index"], "reads": ["angles"]},
    )
    fits: Literal["any", "these"] = choice(
        "It can be seated",
        "any",
        {"any": "at any angle", "these": "only as it is turned here: keys, dogs or flats"},
        when={"way": ["index"]},
    )
    swapped: Slot = choice(
        "What is changed",
        "collet",
        SLOTS,
        prompt="One thing only; all else stays as it is, at the same height.",
        when={"way": ["swap"]},
    )
    compared: list[str] = choices(
        "For these",
        [],
        {},
        prompt="The one that is named above is read first.",
        pieces=["holder", "collet", "nut", "tool", "pin"],
        sorted_by="swapped",
        sorts={"holder": ["holder"], "collet": ["collet"], "nut": ["nut"], "tool": ["tool", "pin"]},
        when={"way": ["swap"]},
        max_length=MOST_COMPARED,
    )
    again: int = Field(
        1,
        ge=1,
        le=4,
        title="Times each is seated",
        json_schema_extra=hint(
            "Twice shows how well a seat repeats.",
            field="integer",
            when={"way": ["index", "swap"]},
        ),
    )
    reads: Literal["angles", "swing"] = choice(
        "Of each turn you read",
        "angles",
        {"angles": "the needle at marks", "swing": "greatest less least"},
        prompt="One swing tells how much, and no direction.",
    )
    marks: int = Field(
        6,
        ge=3,
        le=24,
        title="Angles in one turn",
        json_schema_extra=hint(
            "Evenly round, called out mark by mark. Six see through an oval and three lobes.",
            field="integer",
            when={"reads": ["angles"]},
        ),
    )
    marks_deg: MarksDeg = uneven_marks(reads=["angles"])
    heights_mm: MmList = Field(
        default_factory=lambda: [25.0],
        min_length=1,
        max_length=3,
        title="Heights read",
        json_schema_extra=hint(
            "Out from the face of nut or holder. The furthest is judged: read it where the tool "
            "cuts.",
            field="lengths",
        ),
    )
    cuts_at_mm: Mm = length(
        "Judge it instead at",
        0.0,
        ge=0,
        le=500,
        prompt="Along the line through two heights; 0 for the furthest one read.",
        advanced=True,
    )
    seat_mm: Mm = length(
        "Seated again, it comes back within",
        0.004,
        gt=0,
        le=1,
        prompt="TIR. Taken until your own seats have shown it.",
        advanced=True,
        when={"way": ["index", "swap"]},
    )
    pin_mm: Mm = length(
        "The pin itself runs out by no more than",
        0.002,
        ge=0,
        le=1,
        prompt="TIR, as stated for it: doubt, unless it is turned as well.",
        when={"what": ["pin"], "tool": [""]},
    )
    chip_mm: Mm = length(
        "Chip of one tooth",
        0.0,
        ge=0,
        le=2,
        prompt="Feed of a tooth, to see what the runout does to the cut; 0 to leave that out.",
        advanced=True,
    )
    passes: int = Field(
        1,
        ge=1,
        le=10,
        title="Whole turns",
        json_schema_extra=hint("At every seat. Two show drift and bumps.", field="integer"),
    )
    names: dict[str, str] = Field(default_factory=dict, json_schema_extra=hint("", field="hidden"))
    """What the pieces were called then, by their ids."""

    @field_validator("heights_mm")
    @classmethod
    def _apart(cls, value: list[float]) -> list[float]:
        if any(b - a < LEAST_APART_MM for a, b in pairwise(sorted(value))):
            raise ValueError(
                f"Two of the heights lie within {LEAST_APART_MM:g} mm of each other, which tells "
                "no tilt. Read them further apart."
            )
        return value

    @model_validator(mode="after")
    def _whole(self) -> Self:
        if self.way == "swap":
            if self.swapped not in self.slots:
                raise ValueError(f"There is no {self.swapped} in this chain to be changed.")
            others = [k for k in self.compared if k != self.piece(self.swapped)]
            if not others:
                raise ValueError(
                    f"Name at least one {SLOTS[self.swapped]} that it is changed for. Add it under "
                    "Kit if it is not there yet."
                )
        if self.way == "index" and not self.joints:
            raise ValueError("What is turned is not in this chain. Pick a seat that it has.")
        if self.way == "index" and self.reads == "swing":
            if len(self.joints) > 1:
                raise ValueError(
                    "Greatest less least tells no direction: turn one joint at a time, or read at "
                    "marks."
                )
            if self.seats < 3:
                raise ValueError(
                    "From two swings the parts cannot be told. Turn it by thirds, or read at marks."
                )
        return self

    def named(self, names: Mapping[str, str]) -> Self:
        return self.model_copy(update={"names": {k: names[k] for k in self.pieces if k in names}})

    @property
    def tip_sides(self) -> int:
        return 2 if self.reads == "swing" else 1

    @property
    def slots(self) -> tuple[Slot, ...]:
        """What the chain is made of, from the spindle outward."""
        return CHAINS[self.chain]

    @property
    def joints(self) -> tuple[Joint, ...]:
        """Where something is turned, from the spindle outward."""
        return tuple(s for s in self.slots if s != "nut" and s in self.turned)

    def piece(self, slot: Slot) -> str:
        """The id of what is in a place of the chain; "" for what is not in the kit."""
        return str(getattr(self, slot)) if slot in self.slots else ""

    def title(self, slot: Slot) -> str:
        """What is in a place of the chain, as it is called."""
        what = "pin" if slot == "tool" and self.what == "pin" else SLOTS[slot]
        return self.names.get(self.piece(slot), f"the {what}")

    @property
    def made_of(self) -> tuple[str, ...]:
        """The pieces of the kit in the chain, from the spindle outward."""
        return tuple(filter(None, map(self.piece, self.slots)))

    @property
    def candidates(self) -> tuple[str, ...]:
        """What is tried in the place that is swapped, what is in it now first."""
        now = self.piece(self.swapped)
        return tuple(dict.fromkeys([now, *self.compared])) if self.way == "swap" else ()

    @property
    def pieces(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(k for k in (*self.made_of, *self.candidates) if k))

    def loops(self, plan: Sequence[Station]) -> list[list[Station]]:
        return by_group(plan)

    @property
    def subject(self) -> Subject:
        return Subject.pieces(*self.made_of) if self.made_of else THE_MACHINE

    @property
    def judged_at_mm(self) -> float:
        """The height at which the tool cuts."""
        return self.cuts_at_mm or max(self.heights_mm)


@dataclass(frozen=True)
class Visit:
    """One seating of everything: how far each piece is turned, and what is in."""

    number: int
    label: str
    prompt: str
    angles: Mapping[Slot, float] = field(default_factory=dict)
    """Turned from its mark, in rad; all above it turns with it."""
    candidate: str = ""


class ToolStation(Station):
    """A mark that faces the tip, at one height of one seating."""

    angle_rad: float = 0.0
    """Of the mark, from the first one, the way the marks are counted."""
    visit: int = 0


def visits(setup: ToolRunoutSetup) -> list[Visit]:
    """Every seating in the order in which it is made."""
    if setup.way == "swap":
        return _swaps(setup)
    if setup.way == "plain":
        return [Visit(number=0, label="", prompt="")]
    return _turns(setup)


def _swaps(setup: ToolRunoutSetup) -> list[Visit]:
    found: list[Visit] = []
    where = SLOTS[setup.swapped]
    for again in range(setup.again):
        for key in setup.candidates:
            name = setup.names.get(key, f"the {where} that is in it")
            prompt = f"Put in {name}, at its mark. Wipe it and its seat first. "
            if not found:
                prompt = f"With {name} in, at its mark. "
            label = name if setup.again == 1 else f"{name}, seat {again + 1}"
            found.append(Visit(len(found), label, prompt, candidate=key))
    return found


def _turns(setup: ToolRunoutSetup) -> list[Visit]:
    found: list[Visit] = []
    before: Joint | None = None
    for again in range(setup.again):
        prompt = "All marks in line. " if not found else "Wipe it, seat it again, marks in line. "
        if before:
            prompt = f"Turn {setup.title(before)} back to its mark. "
        seat = "marks in line" + (f", seat {again + 1}" if setup.again > 1 else "")
        found.append(Visit(len(found), seat, prompt))
        before = None
        for joint in setup.joints:
            for k in range(1, setup.seats):
                degrees = 360 * k / setup.seats
                name = setup.title(joint)
                back = f"Turn {setup.title(before)} back to its mark. " if before else ""
                # turned the way in which the marks are counted
                prompt = f"{back}Seat {name} {degrees:.0f}° on from its mark. "
                label = f"{name} {degrees:.0f}° on" + (
                    f", seat {again + 1}" if setup.again > 1 else ""
                )
                turned: dict[Slot, float] = {joint: math.radians(degrees)}
                found.append(Visit(len(found), label, prompt, turned))
                before = None
            before = joint
    return found


def stations(setup: ToolRunoutSetup) -> list[ToolStation]:
    """Seat by seat, from the nearest height outward, round the marks."""
    return [
        station
        for visit in visits(setup)
        for i, z in enumerate(sorted(setup.heights_mm))
        for station in _round(setup, visit, z, visit.prompt if i == 0 else "")
    ]


def _round(setup: ToolRunoutSetup, visit: Visit, z: float, first: str) -> list[ToolStation]:
    # what the pieces are called may hold a size, which stays as it is
    beside = plain(f", {visit.label}" if visit.label else "")
    at = {"group": stated(f"{z:g} mm") + beside, "at_mm": z, "visit": visit.number}
    what = "pin" if setup.what == "pin" else "shank"
    tip = stated(f"Tip {z:g} mm out on the {what}: ")
    if setup.reads == "swing":
        return [
            ToolStation(
                key=f"{visit.number}:{z:g}",
                label=stated(f"{z:g} mm") + beside,
                prompt=plain(first) + tip + "turn the spindle once by hand. Greatest less least?",
                x_mm=0.0,
                y_mm=0.0,
                **at,
            )
        ]
    on = f"the {what}" if setup.way == "index" and setup.marks_on == "above" else "the spindle"
    found = []
    angles = angles_of(setup.marks, setup.marks_deg)
    for k, angle in enumerate(angles):
        found.append(
            ToolStation(
                key=f"{visit.number}:{z:g}:{k + 1}",
                label=stated(f"mark {k + 1}, {z:g} mm") + beside,
                prompt=plain(first if k == 0 else "")
                + tip
                + f"turn by hand until mark {k + 1} of {len(angles)} on {on} faces it.",
                x_mm=100 * math.sin(angle),
                y_mm=100 * math.cos(angle),
                angle_rad=angle,
                **at,
            )
        )
    return found
