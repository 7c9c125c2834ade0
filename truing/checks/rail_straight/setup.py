"""What is stated before a rail is read against an edge, and where the tip then goes."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from typing import Literal

from pydantic import Field, model_validator

from truing.contract.readings import LengthReading, Reading
from truing.contract.setup import Setup, Station, by_group
from truing.machine.subject import Subject
from truing.measure.fields import Mm, MmList, choice, hint, length
from truing.measure.lines import LINES, LineKind
from truing.measure.words import place

Way = Literal["pass", "bolts", "reversal"]


class RailStraightSetup(Setup):
    """How the first rail is read: its side or its height, once along or bolt by bolt."""

    kind: Literal["rail_straight"] = "rail_straight"
    way: Way = choice(
        "How you read it",
        "pass",
        {
            "pass": "full passes along a trusted edge",
            "bolts": "bolt by bolt: push, tighten, read; then a full pass",
            "reversal": "reversal: the edge itself is in doubt",
        },
        prompt="The dial rides on the rail’s carriage, its tip on the edge.",
    )
    plane: Literal["side", "height"] = choice(
        "Which way",
        "side",
        {"side": "sideways", "height": "up and down"},
    )
    tip: Literal["plus", "minus"] = choice(
        "The tip points",
        "plus",
        {"plus": "right, to the rear, or up", "minus": "left, to the front, or down"},
        when={"way": ["pass", "bolts"]},
    )
    places_mm: MmList = Field(
        default_factory=lambda: [0.0, 250.0, 500.0, 750.0, 1000.0],
        min_length=3,
        max_length=40,
        title="Bolts, from the fixed end",
        json_schema_extra=hint("Every bolt, or every second. Commas between.", field="lengths"),
    )
    line: LineKind = choice("Straight is a line", "ends", LINES)
    edge_within_mm: Mm = length(
        "The edge is straight within",
        0.005,
        ge=0,
        le=1,
        prompt="From its sheet, or from a reversal.",
        when={"way": ["pass", "bolts"]},
    )
    sag_mm: Mm = length(
        "Sag of the edge between its supports",
        0.0,
        ge=0,
        le=1,
        prompt="Support it at 0.22 of its length from each end. What it still sags stays in the "
        "rail’s figure.",
        when={"plane": ["height"]},
        advanced=True,
    )
    passes: int = Field(
        2, ge=1, le=10, title="Whole passes", json_schema_extra=hint("", field="integer")
    )

    @model_validator(mode="after")
    def _in_order(self) -> RailStraightSetup:
        if len({round(p, 1) for p in self.places_mm}) < len(self.places_mm):
            raise ValueError("Two bolts are at the same place; give each its own.")
        if sorted(self.places_mm) != self.places_mm:
            raise ValueError("Name the bolts in order, from the fixed end.")
        return self

    def loops(self, plan: Sequence[Station]) -> list[list[Station]]:
        return by_group(plan) if self.way != "bolts" else []

    @property
    def subject(self) -> Subject:
        return Subject.part(self.plane)

    @property
    def sign(self) -> int:
        """Brings a reading to plus = the rail stands to the right, to the rear, or up."""
        return 1 if self.tip == "plus" else -1


def stations(setup: RailStraightSetup, readings: Sequence[Reading] = ()) -> list[Station]:
    """Every bolt in order from the fixed end; twice over for a reversal."""
    if setup.way == "reversal":
        a, b = ("right or rear", "left or front") if setup.plane == "side" else ("down", "up")
        return [
            Station(
                key=f"{turn}{x:g}",
                at_mm=x,
                tip=turn,
                label=f"{turn} {place(x)} mm",
                prompt=f"Pass {turn}, tip pointing {tip}: at {place(x)} mm."
                + (
                    " Turn the edge about its long axis first; the same face is read."
                    if turn == "B" and i == 0
                    else ""
                ),
                group=f"pass {turn}",
                x_mm=x,
                y_mm=0.0,
            )
            for turn, tip in (("A", a), ("B", b))
            for i, x in enumerate(setup.places_mm)
        ]
    counts = Counter(r.station for r in readings)
    return [
        Station(
            key=f"{x:g}",
            at_mm=x,
            label=f"{place(x)} mm",
            prompt=_prompt(setup, i, x, counts, readings),
            x_mm=x,
            y_mm=0.0,
        )
        for i, x in enumerate(setup.places_mm)
    ]


def _prompt(
    setup: RailStraightSetup,
    i: int,
    x: float,
    counts: Counter[str],
    readings: Sequence[Reading],
) -> str:
    at = f"Bolt {i + 1}, {place(x)} mm from the fixed end"
    if setup.way == "pass":
        return f"{at}: read."
    if counts[f"{x:g}"]:
        return f"{at}: the full pass. Read, touch nothing."
    if i == 0:
        return f"{at}: tighten it first and read. The others follow this one."
    first = f"{setup.places_mm[0]:g}"
    mine = [r for r in readings if r.station == first and isinstance(r, LengthReading)]
    shown = f"{mine[0].shown_mm:+.3f} mm" if mine else "what it showed at the first"
    return f"{at}: push the rail until the dial shows {shown}, tighten, read again."
