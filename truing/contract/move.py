"""A move: one thing a person can do to a machine, with its predicted result and what it changes."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, Field, computed_field

from truing.course import course_kind
from truing.drawing.figures import Figure
from truing.drawing.sketches import SketchFigure
from truing.machine.mechanisms import Mechanism
from truing.measure.estimate import Estimate
from truing.measure.words import InBoth, Words, stated


class Target(BaseModel):
    """Where to bring the needle while tapping, with the tip standing at one station."""

    station: str
    label: InBoth
    from_mm: float
    to_mm: float
    words: Words
    quantity: str
    """The quantity that the needle tells there."""
    per_mm: float
    """What 1 mm of the needle, as shown, means of it, in its unit."""


class PadStack(BaseModel):
    """The shims that lie under one pad, or behind one row of screws, before and after."""

    pad: str
    x_mm: float
    y_mm: float
    before_mm: list[float]
    after_mm: list[float]
    words: Words

    @computed_field  # type: ignore[prop-decorator]
    @property
    def called(self) -> Words:
        """The pad by its name, which may be where it lies."""
        return stated(self.pad)


class Amount(BaseModel):
    """How far one foot, screw or bolt is moved, and where it stands."""

    place: str
    x_mm: float
    y_mm: float
    turns: float = 0.0
    amount_mm: float = 0.0
    """Signed: up, to the right or to the rear is plus."""
    words: Words
    detail: Words | None = None

    @computed_field  # type: ignore[prop-decorator]
    @property
    def called(self) -> Words:
        """The place by its name, which may be where it lies."""
        return stated(self.place)


class Entry(BaseModel):
    """A value to be typed into a controller."""

    setting: str
    value_mm: float
    """Length; a feed or an acceleration where the setting is one (mm/min, mm/s²)."""
    before_mm: float = 0.0
    words: Words


class Prediction(BaseModel):
    """What one quantity should read after the move, fixed before it is read."""

    quantity: str
    after: Estimate
    label: InBoth
    words: Words


class Take(BaseModel):
    """What a move takes off one quantity, in its own unit, as aimed at."""

    quantity: str
    sort: str
    """As `Quantity.sort`."""
    at_mm: float | None = None
    amount: float


class Change(BaseModel):
    """One thing that is different in a machine's description once the move has been made.

    `path` leads to it: fields with points between, an item of a list by what names it, as in
    `slides[direction=left_right].compensation_mm` or `rails.packs[x_mm=-490,y_mm=675]`. An item
    that was not there, or is there no longer, is None.
    """

    path: str
    before: Any
    after: Any


class TinChange(BaseModel):
    """Pieces of one thickness that the move takes out of the tin; negative goes back into it."""

    thickness_mm: float
    count: int


class Move(BaseModel):
    """Advice for one mechanism: `targets` for tapping, `stacks` for shims, `amounts` for screws and
    bolts, `entries` for a controller; `changes` and `tin` say what is different afterwards."""

    key: str
    mechanism: Mechanism
    title: Words
    steps: list[Words]
    cautions: list[str] = Field(default_factory=list)
    targets: list[Target] = Field(default_factory=list)
    stacks: list[PadStack] = Field(default_factory=list)
    amounts: list[Amount] = Field(default_factory=list)
    entries: list[Entry] = Field(default_factory=list)
    figures: list[Figure] = Field(default_factory=list)
    sketch: SketchFigure | None = None
    """What is loosened, what holds and which way it goes."""
    part: str = ""
    """The part of the machine it is made on, where the check is about one of several."""
    about: str = ""
    """Which link, block or end within that part."""
    instead: bool = False
    """Another way to the same end, rather than the step after."""
    predicted: list[Prediction]
    takes: list[Take]
    changes: list[Change] = Field(default_factory=list)
    tin: list[TinChange] = Field(default_factory=list)
    notes: list[Words] = Field(default_factory=list)
    wants_photo: bool = False
    wanted: list[Amount] = Field(default_factory=list)
    """How high each stack should come to, where the tin cannot serve them."""
    needs: Words | None = None
    """Why it cannot be made as it stands (no stock that helps, say), or None."""

    def taken(self, quantity: str) -> float:
        """What it takes off a quantity; 0 for one that it leaves alone."""
        return next((t.amount for t in self.takes if t.quantity == quantity), 0.0)


class LeaveIt(BaseModel):
    """The other answer: what it costs to leave it, and what mending it would cost."""

    text: Words


class Ask(BaseModel):
    """Another check to read first, and what hangs on it."""

    kind: str
    title: str
    """What that check is called."""
    why: Words

    @classmethod
    def of(cls, kind: str, why: Words) -> Ask:
        """For a kind of check by its key. KeyError if there is none."""
        return cls(kind=kind, title=course_kind(kind).title, why=why)


class Advice(BaseModel):
    """Moves in the order in which to make them, and what leaving it would mean."""

    moves: list[Move]
    leave: LeaveIt | None
    remarks: list[Words] = Field(default_factory=list)
    asks: list[Ask] = Field(default_factory=list)
    figures: list[Figure] = Field(default_factory=list)
    """What the advice goes by, drawn."""
