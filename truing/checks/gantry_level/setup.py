"""What is stated before a gantry is touched off across the bed, and where."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import pairwise
from typing import Literal

from pydantic import Field, field_validator

from truing.contract.setup import Setup, Station
from truing.machine import Machine
from truing.machine.parts import Lift
from truing.measure.fields import MmList, choice, hint
from truing.measure.problem import Problem
from truing.measure.words import Words, place, say, span

Way = Literal["touch", "dial", "log"]
WAYS: dict[Way, str] = {
    "touch": "Touch off at each place",
    "dial": "Carry a dial across",
    "log": "A probe's log",
}
INSTRUMENTS_FOR: dict[Way, tuple[str, ...]] = {
    "touch": ("scale_trigger",),
    "dial": ("plunger_dial", "lever_dial", "digital"),
    "log": ("scale_trigger",),
}
APART_MM = 5.0
"""Touches of a log closer than this are of one place."""


class GantryLevelSetup(Setup):
    """How a gantry's two ends are compared."""

    kind: Literal["gantry_level"] = "gantry_level"
    way: Way = choice("How you read it", "touch", WAYS)
    places_mm: MmList = Field(
        default_factory=lambda: [-300.0, 300.0],
        max_length=15,
        title="Places across the bed",
        json_schema_extra=hint(
            "From mid bed, left is minus, all on one line across: −300, 300. As far apart as the "
            "spindle reaches; a third one in the middle shows bow.",
            field="lengths",
            when={"way": ["touch", "dial"]},
        ),
    )
    touches: Literal["once", "fast_slow"] = choice(
        "It touches",
        "once",
        {"once": "once", "fast_slow": "fast, then slow"},
        prompt="Of two the slow one counts.",
        when={"way": ["touch"]},
    )
    scale_counts: Literal["up", "down"] = choice(
        "Raise the head: what does the axis show?",
        "up",
        {"up": "more", "down": "less"},
        prompt="Jog it up a little and look.",
        when={"way": ["touch", "log"]},
    )
    passes: int = Field(
        3,
        ge=1,
        le=10,
        title="Touches at each place",
        json_schema_extra=hint(
            "Three show how well it touches.", field="integer", when={"way": ["touch", "dial"]}
        ),
    )

    @field_validator("places_mm")
    @classmethod
    def _apart(cls, value: list[float]) -> list[float]:
        if len(value) < 2:
            raise ValueError("One place tells nothing of level. Give two, far apart.")
        ordered = sorted(value)
        if min(b - a for a, b in pairwise(ordered)) < APART_MM:
            raise ValueError("Two of the places are the same; they have to be apart.")
        return value

    @property
    def sign(self) -> int:
        """Brings what is shown to plus = the surface is closer to the gantry."""
        return -1 if self.way != "dial" and self.scale_counts == "down" else 1


def stations(setup: GantryLevelSetup) -> list[Station]:
    """Across the bed from left to right; one that takes a log where there is a log."""
    if setup.way == "log":
        prompt = "The probe's log: a column x, a column z, and its feed where it touched twice."
        return [Station(key="log", label="the log", prompt=prompt, x_mm=0.0, y_mm=0.0, reads="log")]
    found = []
    still = ", the head left at its height" if setup.way == "dial" else ""
    fast_too = setup.way == "touch" and setup.touches == "fast_slow"
    for x in sorted(setup.places_mm):
        for tip in ("fast", "slow") if fast_too else ("",):
            verb = f"Touch off {tip}" if tip else "Touch off"
            if setup.way == "dial":
                verb = "Read the dial"
            found.append(
                Station(
                    key=f"{x:g}:{tip}" if tip else f"{x:g}",
                    label=f"x {place(x)} mm" + (f", {tip}" if tip else ""),
                    prompt=f"{verb} at x {place(x)} mm{still}.",
                    x_mm=x,
                    y_mm=0.0,
                    at_mm=x,
                    tip=tip,
                )
            )
    return found


def proposed(machine: Machine) -> GantryLevelSetup | None:
    """Three places, the outer ones a little inside the bed and the motors."""
    lift = machine.lift
    if lift is None:
        return None
    middle = (lift.left_x_mm + lift.right_x_mm) / 2
    reach = min(machine.table_x_mm, lift.right_x_mm - lift.left_x_mm) * 0.42
    places = [float(round(middle + side * reach)) for side in (-1, 0, 1)]
    return GantryLevelSetup(places_mm=places)


def lift_of(machine: Machine) -> Lift:
    """The motors that lift its gantry. Problem where there are none."""
    if machine.lift is None:
        raise Problem(
            "This machine is not described as having two motors that lift the gantry.",
            expected="Describe them under Machine.",
            field="places_mm",
        )
    return machine.lift


def beyond(lift: Lift, places: Iterable[float]) -> list[Words]:
    """What there is to ask about places that do not lie between the motors: a gantry may reach
    beyond them, but mostly they were counted from elsewhere."""
    outside = [x for x in places if not lift.left_x_mm <= x <= lift.right_x_mm]
    if not outside:
        return []
    return [
        say(
            "{at} lies outside the motors, which stand at {left} and {right}. Was it counted from "
            "mid bed, left minus? If the gantry reaches that far, go on; if not, correct the "
            "places, or the motors under Machine.",
            at=span(max(outside, key=abs)),
            left=span(lift.left_x_mm),
            right=span(lift.right_x_mm),
        )
    ]
