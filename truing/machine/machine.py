"""A machine as the job sees it: described by the parts that can be moved on it, not by a brand."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from truing.machine.board import Board
from truing.machine.parts import (
    DIRECTIONS,
    BoltedBase,
    Bracket,
    Column,
    Direction,
    Feet,
    Gantry,
    GantryDrive,
    Head,
    Lift,
    Part,
    Rails,
    Slide,
    Thing,
)
from truing.measure.fields import Mm, choice, hint, length

Form = Literal[
    "column_mill",
    "round_column",
    "knee_mill",
    "micro_mill",
    "gantry_router",
    "fixed_gantry",
    "frame",
]
Work = Literal["metal", "board"]

FORM_TITLES: dict[Form, str] = {
    "column_mill": "Column mill",
    "round_column": "Round-column mill",
    "knee_mill": "Knee mill",
    "micro_mill": "Micro mill",
    "gantry_router": "Lifting-gantry router",
    "fixed_gantry": "Fixed-gantry router",
    "frame": "Frame under construction",
}

Riser = Literal["head", "quill", "knee", "carriage"]
RISERS: dict[Riser, str] = {
    "head": "head",
    "quill": "quill",
    "knee": "knee",
    "carriage": "spindle’s slide",
}
"""What can take the tool up from the work: three different travels, and a gantry’s fourth."""

GANTRY_FORMS: tuple[Form, ...] = ("gantry_router", "fixed_gantry", "frame")
"""Forms that are drawn with a beam across a bed."""


class Machine(Part):
    """A machine described by the parts that can be moved on it; a part it lacks is None."""

    form: Form = choice("Form", "column_mill", FORM_TITLES)
    work: Work = choice("Mostly cuts", "metal", {"metal": "metal", "board": "board"})
    control: Literal["handwheels", "readout", "controller"] = choice(
        "Moved by",
        "handwheels",
        {
            "handwheels": "handwheels",
            "readout": "handwheels with a scale readout",
            "controller": "a controller",
        },
    )
    spindle: bool = Field(
        True,
        title="A spindle is fitted",
        json_schema_extra=hint("Not yet, on a frame that is being built.", field="switch"),
    )
    table_x_mm: Mm = length("Table or bed, left to right", 500.0, ge=40, le=6000)
    table_y_mm: Mm = length("Table or bed, front to rear", 160.0, ge=40, le=6000)
    cutter_mm: Mm = length(
        "Widest cutter you surface with",
        50.0,
        gt=0,
        le=500,
        prompt="What a lean does to the part is told for this cutter.",
    )
    quill: bool = Field(
        False,
        title="The spindle slides in a quill",
        json_schema_extra=hint("Beside what lifts the head or the table.", field="switch"),
    )
    slides: list[Slide] = Field(
        default_factory=list,
        max_length=3,
        title="Slides",
        json_schema_extra=hint(
            "One for each direction. Screens say left–right; the letter is the machine's own.",
            field="rows",
        ),
    )
    feet: Feet | None = Field(None, title="Levelling feet")
    column: Column | None = Field(None, title="Column")
    base: BoltedBase | None = Field(None, title="Column on a bolted base")
    head: Head | None = Field(None, title="Tilting head")
    rails: Rails | None = Field(None, title="Rails screwed down by their bolts")
    gantry: Gantry | None = Field(None, title="Gantry with end plates")
    lift: Lift | None = Field(None, title="Two motors lift the gantry")
    gantry_drive: GantryDrive | None = Field(None, title="Two motors drive the gantry")
    bracket: Bracket | None = Field(None, title="Spindle bracket")
    board: Board | None = Field(None, title="Sacrificial board")

    things: list[Thing] = Field(
        default_factory=list,
        max_length=20,
        title="Vices, fences and scales",
        json_schema_extra=hint("What should run with a travel, each by its name.", field="rows"),
    )

    @model_validator(mode="after")
    def _fits_together(self) -> Machine:
        seen: set[Direction] = set()
        for slide in self.slides:
            if slide.direction in seen:
                raise ValueError(
                    f"Two slides move {DIRECTIONS[slide.direction]}. Keep one for each direction."
                )
            seen.add(slide.direction)
        letters = [s.letter.strip().upper() for s in self.slides if s.letter.strip()]
        if len(set(letters)) < len(letters):
            raise ValueError("Two slides have the same letter.")
        names = [t.name.strip().casefold() for t in self.things]
        if len(set(names)) < len(names) or len({t.key for t in self.things}) < len(names):
            raise ValueError("Two of the vices, fences and scales have the same name.")
        if self.gantry is None and (self.lift or self.gantry_drive):
            raise ValueError("Two motors carry a gantry: say that it has one, or leave them out.")
        if self.head is not None and not self.spindle:
            raise ValueError("A tilting head carries a spindle: say that one is fitted.")
        if self.cutter_mm > max(self.table_x_mm, self.table_y_mm):
            raise ValueError("The widest cutter is wider than the table: one of the two is wrong.")
        return self

    def slide(self, direction: Direction) -> Slide | None:
        """The slide that moves this way, if the machine has one."""
        return next((s for s in self.slides if s.direction == direction), None)

    def slide_title(self, direction: Direction) -> str:
        """What a slide is called: its direction, with the machine's own letter."""
        slide = self.slide(direction)
        letter = slide.letter.strip() if slide else ""
        return DIRECTIONS[direction] + (f" ({letter})" if letter else "")

    @property
    def knee_lifts(self) -> bool:
        """Whether the table comes up to the spindle, on a knee that hangs on the same column."""
        return "knee" in self.lifts

    @property
    def lifts(self) -> tuple[Riser, ...]:
        """What takes the tool up from the work, the usual one first."""
        up = self.slide("up_down")
        if self.form in GANTRY_FORMS:
            return ("carriage",) if up else ()
        if up is None and self.column is None and self.base is None:
            return ()
        if self.form == "knee_mill":
            found: tuple[Riser, ...] = ("knee",)
        elif up is not None and up.drive == "lever":
            found = (
                ("quill", "head") if self.column and self.column.shape == "round" else ("quill",)
            )
        else:
            found = ("head",)
        return (*found, "quill") if self.quill and "quill" not in found else found

    def letters(self) -> str:
        """What the machine calls its directions, as a sentence; empty when nobody said."""
        told = [
            f"{DIRECTIONS[s.direction]} is {s.letter.strip()}"
            for s in self.slides
            if s.letter.strip()
        ]
        return f"On this machine {', '.join(told)}." if told else ""


TOLERANCE_MM_PER_M: dict[Work, float] = {"metal": 0.1, "board": 0.3}
"""Usual limits of lean and nod until the owner sets their own."""
