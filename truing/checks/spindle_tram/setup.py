"""What is stated before a tram is read, and where the tip then goes."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import combinations, pairwise
from typing import Literal

from pydantic import Field, field_validator

from truing.contract.readings import Grade
from truing.contract.setup import Setup, Station, by_group
from truing.machine import Machine
from truing.machine.mechanisms import Mechanism
from truing.measure.clock import angle_rad, clock_label
from truing.measure.fields import Clocks, Mm, MmList, choice, hint, length
from truing.measure.words import place as place_label

Way = Literal["swing", "trigger", "gap", "two_bolts", "scrape", "gauges"]

WAYS: dict[str, str] = {
    "swing": "Swing a dial over the table",
    "trigger": "Touch off and read a scale",
    "gap": "Gaps under a bent rod",
    "two_bolts": "Gaps under a bar with two bolts",
    "scrape": "Lower a rod until it scrapes all round",
    "gauges": "A gauge that goes and one that does not",
}

INSTRUMENTS_FOR: dict[Way, tuple[str, ...]] = {
    "swing": ("plunger_dial", "lever_dial", "digital"),
    "trigger": ("scale_trigger",),
    "gap": ("feeler",),
    "two_bolts": ("feeler",),
    "scrape": ("scale_trigger",),
    "gauges": ("feeler",),
}

MEASURES = ["swing", "trigger", "gap", "two_bolts"]
"""Ways that read a length at each position."""
GAUGED = [12.0, 3.0, 6.0, 9.0]

_SIDES = {12.0: "rear", 3.0: "right", 6.0: "front", 9.0: "left"}


class SpindleTramSetup(Setup):
    """How a tram is read."""

    kind: Literal["spindle_tram"] = "spindle_tram"
    way: Way = choice("How you read it", "swing", WAYS)
    radius_mm: Mm = length(
        "Swing radius",
        gt=5,
        le=1000,
        prompt="From the spindle's centre to the tip. As large as the table allows.",
    )
    positions: Clocks = Field(
        [12.0, 3.0, 6.0, 9.0],
        title="Clock positions",
        min_length=1,
        max_length=24,
        json_schema_extra=hint(
            "Seen from above, 12 at the rear, 3 to the right. Four is best.",
            field="clocks",
            when={"way": MEASURES},
        ),
    )
    passes: int = Field(
        2,
        ge=1,
        le=10,
        title="Whole passes",
        json_schema_extra=hint("Two show drift and bumps.", field="integer"),
    )
    height_counts: Literal["up", "depth_down", "knee_up"] = choice(
        "Lower the head or quill: what does the scale do?",
        "up",
        {
            "up": "its figures get less",
            "depth_down": "its figures grow, as on a depth scale",
            "knee_up": "the head stays: the knee comes up, and they grow",
        },
        prompt="Try it by hand, a turn is enough.",
        when={"way": ["trigger"]},
    )
    drop_mm: Mm = length(
        "Lowered in steps of",
        0.01,
        gt=0,
        le=1,
        prompt="What one step of the handwheel or controller lowers it by.",
        when={"way": ["scrape"]},
    )
    thin_mm: Mm = length("The gauge that must go", 0.2, gt=0, le=20, when={"way": ["gauges"]})
    thick_mm: Mm = length(
        "The one that must not",
        0.22,
        gt=0,
        le=20,
        prompt="Their difference over the swing is the lean they accept.",
        when={"way": ["gauges"]},
    )
    along_beam_mm: MmList = Field(
        default_factory=list,
        max_length=9,
        title="Places along the beam",
        json_schema_extra=hint(
            "From mid bed; left is minus. Leave empty to read at one place.",
            field="lengths",
            needs="gantry",
            when={"way": MEASURES},
        ),
    )
    surface: Literal["table", "board"] = choice(
        "The tip runs on",
        "table",
        {"table": "the table or bed itself", "board": "the board that lies on it"},
        needs="board",
    )
    span_mm: Mm | None = length(
        "Tell me the lean over", None, gt=0, le=5000, prompt="Optional.", advanced=True
    )
    radius_u_mm: Mm = length(
        "Radius known to within", 2.0, ge=0, le=50, prompt="A tape is good to 2 mm.", advanced=True
    )

    @field_validator("positions")
    @classmethod
    def _clocks_apart(cls, value: list[float]) -> list[float]:
        for h in value:
            if not (math.isfinite(h) and 0 < h <= 12):
                raise ValueError("Clock positions run from 12 round to 11.")
        for one, other in combinations(value, 2):
            if min(abs(one - other), 12 - abs(one - other)) < 1 / 6:
                raise ValueError(
                    f"{clock_label(one)} is there twice; give each position its own place."
                )
        if len(value) < 2:
            raise ValueError("One position tells no lean. Use at least two opposite ones.")
        return value

    @field_validator("along_beam_mm")
    @classmethod
    def _places_apart(cls, value: list[float]) -> list[float]:
        if len(value) > 1 and min(b - a for a, b in pairwise(sorted(value))) < 1:
            raise ValueError("Two places along the beam are the same.")
        return value

    def loops(self, plan: Sequence[Station]) -> list[list[Station]]:
        return by_group(plan) if self.way == "swing" else []

    @property
    def against(self) -> Mechanism | None:
        return "board" if self.surface == "board" else None

    @property
    def sign(self) -> int:
        """Brings what is shown to plus = the surface is closer."""
        if self.way == "trigger":
            return 1 if self.height_counts == "up" else -1
        return -1 if self.way in ("gap", "two_bolts") else 1


def _scraped() -> list[Station]:
    hours = [Grade(key=f"{h}", label=f"{h} o’clock", tone="good") for h in (12, *range(1, 12))]
    middle = {"x_mm": 0.0, "y_mm": 0.0}
    return [
        Station(
            key="first",
            label="first touch",
            prompt="Turn the spindle by hand and lower the rod in steps: where, seen from above, "
            "does it touch first?",
            reads="grade",
            grades=hours,
            **middle,
        ),
        Station(
            key="round",
            label="scrapes all round",
            prompt="Lower on in steps, turning by hand: how much further until it scrapes all "
            "round?",
            **middle,
        ),
    ]


def _gauged(setup: SpindleTramSetup) -> list[Station]:
    answers = [
        Grade(key="in", label="the thin one goes, the thick one does not", tone="good"),
        Grade(key="narrow", label="the thin one does not go", tone="bad"),
        Grade(key="wide", label="the thick one goes as well", tone="bad"),
    ]
    return [
        Station(
            key=clock_label(h),
            label=clock_label(h),
            prompt=f"Turn the rod by hand to {clock_label(h)} o’clock ({_SIDES[h]}): which gauge "
            "goes?"
            + (" Set the rod first so that the thin one just goes here." if h == 12.0 else ""),
            x_mm=setup.radius_mm * math.cos(angle_rad(h)),
            y_mm=setup.radius_mm * math.sin(angle_rad(h)),
            reads="grade",
            grades=answers,
        )
        for h in GAUGED
    ]


def stations(setup: SpindleTramSetup) -> list[Station]:
    """Clockwise round the plan, once for each bolt of a bar, once for each place of a beam; for a
    rod that is lowered, where it touches and how far it goes on."""
    if setup.way == "scrape":
        return _scraped()
    if setup.way == "gauges":
        return _gauged(setup)
    tips = ("P", "Q") if setup.way == "two_bolts" else ("",)
    places = setup.along_beam_mm or [0.0]
    verb = {
        "swing": "Swing the tip to",
        "trigger": "Touch off at",
        "gap": "Gauge the gap at",
        "two_bolts": "Gauge under bolt {tip} at",
    }[setup.way]
    found = []
    for place in places:
        at = f" with the spindle at x {place_label(place)} mm" if setup.along_beam_mm else ""
        for tip in tips:
            for hours in setup.positions:
                clock = clock_label(hours)
                side = f" ({_SIDES[hours]})" if hours in _SIDES else ""
                phi = angle_rad(hours)
                found.append(
                    Station(
                        key=":".join(p for p in (f"x{place:g}" if at else "", tip, clock) if p),
                        label=f"{tip} {clock}".strip()
                        + (f", x {place_label(place)} mm" if at else ""),
                        prompt=f"{verb.format(tip=tip)} {clock} o’clock{side}{at}.",
                        group=f"x {place_label(place)} mm" if at else "",
                        x_mm=setup.radius_mm * math.cos(phi),
                        y_mm=setup.radius_mm * math.sin(phi),
                        tip=tip,
                        at_mm=place if at else None,
                    )
                )
    return found


def largest_swing_mm(setup: SpindleTramSetup, machine: Machine) -> float:
    """The largest radius at which every position still lies on the table, with the spindle over
    its middle or as far along the beam as is stated (mm)."""
    fits = math.inf
    # a rod that is lowered until it scrapes goes all round
    hours = setup.positions if setup.way in MEASURES else GAUGED
    for place in setup.along_beam_mm or [0.0]:
        for phi in map(angle_rad, hours):
            for half, part in (
                (machine.table_x_mm / 2 - abs(place), abs(math.cos(phi))),
                (machine.table_y_mm / 2, abs(math.sin(phi))),
            ):
                if part > 1e-9:
                    fits = min(fits, half / part)
    return max(0.0, fits)
