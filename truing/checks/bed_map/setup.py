"""How the height of a bed is read over its area."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from pydantic import Field, field_validator

from truing.contract.setup import Setup, Station
from truing.machine import Machine
from truing.machine.parts import Direction
from truing.measure.fields import Mm, MmList, choice, hint, length
from truing.measure.words import say, spot

WAYS = {
    "touch": "place by place, lowered until it touches",
    "dial": "place by place, a dial carried over it",
    "log": "a probe’s log of the whole bed",
}
TAKES = {
    "touch": ("scale_trigger",),
    "dial": ("plunger_dial", "lever_dial", "digital"),
    "log": ("scale_trigger",),
}
MOST_POINTS = 100_000
LEAST_POINTS = 4
MARGIN_MM = 20.0


class BedMapSetup(Setup):
    """Where the bed is read, and what more means."""

    kind: Literal["bed_map"] = "bed_map"
    way: Literal["touch", "dial", "log"] = choice("You read it", "touch", WAYS)
    x_places_mm: MmList = Field(
        default_factory=lambda: [-200.0, -100.0, 0.0, 100.0, 200.0],
        max_length=25,
        title="Columns, left to right",
        json_schema_extra=hint(
            "From mid bed; left is minus.",
            field="lengths",
            when={"way": ["touch", "dial"]},
        ),
    )
    y_places_mm: MmList = Field(
        default_factory=lambda: [-150.0, -50.0, 50.0, 150.0],
        max_length=25,
        title="Rows, front to rear",
        json_schema_extra=hint(
            "From mid bed; front is minus.", field="lengths", when={"way": ["touch", "dial"]}
        ),
    )
    counts: Literal["up", "down"] = choice(
        "Raise the head: what does the axis show?",
        "up",
        {"up": "more", "down": "less"},
        prompt="Jog it up a little and look. Where the bed is high it then shows the same way.",
        when={"way": ["touch", "log"]},
    )
    order: Literal["xyz", "yxz", "zxy", "xzy"] = choice(
        "Columns without names are",
        "xyz",
        {"xyz": "x, y, z", "yxz": "y, x, z", "zxy": "z, x, y", "xzy": "x, z, y"},
        prompt="A fourth of 0 and 1 says whether it touched. Named columns go by their names.",
        when={"way": ["log"]},
    )
    log_zero: Literal["middle", "corner", "stated"] = choice(
        "The log’s X0 Y0 lies at",
        "middle",
        {
            "middle": "mid bed",
            "corner": "the bed’s front left corner",
            "stated": "a place stated here, such as the machine’s own zero",
        },
        when={"way": ["log"]},
    )
    zero_x_mm: Mm = length(
        "It lies right of mid bed by",
        0.0,
        ge=-6000,
        le=6000,
        prompt="Left of it is minus.",
        when={"way": ["log"], "log_zero": ["stated"]},
    )
    zero_y_mm: Mm = length(
        "and behind it by", 0.0, ge=-6000, le=6000, when={"way": ["log"], "log_zero": ["stated"]}
    )
    log_is_right: bool = Field(
        False,
        title="The log is right as it stands",
        json_schema_extra=hint(
            "When its zero or its unit is asked about, and both are as stated.",
            field="switch",
            when={"way": ["log"]},
            advanced=True,
        ),
    )
    passes: int = Field(
        1,
        ge=1,
        le=10,
        title="Whole passes",
        json_schema_extra=hint(
            "Over all places. Two show drift and bumps.",
            field="integer",
            when={"way": ["touch", "dial"]},
        ),
    )

    @field_validator("x_places_mm", "y_places_mm")
    @classmethod
    def _apart(cls, value: list[float]) -> list[float]:
        if len({round(v, 3) for v in value}) < max(2, len(value)):
            raise ValueError("Give two or more places that are not the same.")
        return value

    def loops(self, plan: Sequence[Station]) -> list[list[Station]]:
        return [list(plan)] if self.way != "log" else []

    @property
    def sign(self) -> int:
        """Of a reading, so that more is higher."""
        return -1 if self.way != "dial" and self.counts == "down" else 1


def proposed(machine: Machine) -> BedMapSetup:
    """A grid over this machine's bed, a little short of its edges."""

    def spread(size_mm: float, direction: Direction, n: int) -> list[float]:
        slide = machine.slide(direction)
        least = min(size_mm / 2 - MARGIN_MM, slide.travel_mm / 2 if slide else size_mm)
        reach = max(10.0, least)
        return [float(round(-reach + 2 * reach * i / (n - 1))) for i in range(n)]

    return BedMapSetup(
        x_places_mm=spread(machine.table_x_mm, "left_right", 5),
        y_places_mm=spread(machine.table_y_mm, "front_back", 4),
    )


def stations(setup: BedMapSetup) -> list[Station]:
    """Row by row from the front left, every other row backward; or one that takes a log."""
    if setup.way == "log":
        prompt = "The probe’s log: columns x, y and z, a line for each point."
        return [Station(key="log", label="the log", prompt=prompt, x_mm=0.0, y_mm=0.0, reads="log")]
    what = "Touch" if setup.way == "touch" else "Dial"
    found = []
    for i, y in enumerate(sorted(setup.y_places_mm)):
        for x in sorted(setup.x_places_mm, reverse=i % 2 == 1):
            label = spot(x, y)
            found.append(
                Station(
                    key=f"{x:g},{y:g}",
                    label=label,
                    prompt=say(what + " at {label}.", label=label),
                    x_mm=x,
                    y_mm=y,
                )
            )
    return found
