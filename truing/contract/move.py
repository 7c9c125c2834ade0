"""A move: one thing a person can do to a machine, with its predicted result and what it changes."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field, computed_field, model_validator

from truing.course import course_kind
from truing.drawing.figures import Figure
from truing.drawing.sketches import SketchFigure
from truing.machine.mechanisms import Mechanism
from truing.measure.estimate import Estimate
from truing.measure.words import InBoth, Words, say, show, span, stated


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
    lever_mm: float = 0.0
    """From the pivot to the tip; 0 for what does not turn."""
    pushed_in: bool = False
    """Whether what it touches comes toward the tip on the way there."""


Way = Literal["left", "right", "front", "rear", "up", "down", "toward", "away"]
"""Where an end goes; `toward` and `away` are seen from the tip that stands at it."""
WAYS: dict[Way, str] = {
    "left": "to the left",
    "right": "to the right",
    "front": "to the front",
    "rear": "to the rear",
    "up": "higher",
    "down": "lower",
    "toward": "toward it",
    "away": "away from it",
}


class Act(BaseModel):
    """What hands do in one step: which end of a part goes which way, and how far. The step's words
    are made from it, and so is what a simulated pair of hands does."""

    end: str
    """As it is named: “the left end”, “the top”, “the right stop”."""
    way: Way
    target: Target | None = None
    """What is then seen, with the tip at its station."""
    by_mm: float = 0.0
    """How far, where no needle says it."""
    over_mm: float = 0.0
    """Over which length that is read, for a turn; 0 for what goes as a whole."""

    @classmethod
    def at_tip(cls, ends: tuple[str, str], target: Target) -> Act:
        """Tapping the end (minus, plus) that the tip stands nearest to: the way follows from where
        the needle has to go."""
        end = ends[target.lever_mm > 0]
        way: Way = "toward" if target.pushed_in else "away"
        return cls(end=f"the {end} end", way=way, target=target)

    @property
    def words(self) -> Words:
        """The step, as it is told."""
        if self.target is not None:
            soft = "" if self.way in ("toward", "away") else " with a soft mallet"
            return say(
                "Stand the tip at {label} and tap {end} {way}{soft} until {words}.",
                label=self.target.label,
                end=self.end,
                way=WAYS[self.way],
                soft=soft,
                words=self.target.words,
            )
        by = show(self.by_mm, max(self.by_mm / 20, 1e-4))
        if self.over_mm:
            return say(
                "Tap {end} {way}, by about {by} over {over}.",
                end=self.end,
                way=WAYS[self.way].replace("it", "the dial"),
                by=by,
                over=span(self.over_mm),
            )
        further = "" if self.way in ("up", "down") else "further "
        text = "Set {end} {by} {further}{way}."
        return say(text, end=self.end, by=by, further=further, way=WAYS[self.way])


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
    acts: list[Act] = Field(default_factory=list)
    """What is done, each in the step that is its words."""
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

    @model_validator(mode="after")
    def _told_as_done(self) -> Move:
        untold = [act for act in self.acts if act.words not in self.steps]
        if untold:
            raise ValueError(f"No step says: {untold[0].words.metric}")
        astray = [
            act
            for act in self.acts
            if act.target and act.way in ("toward", "away")
            if (act.way == "toward") != act.target.pushed_in
        ]
        if astray:
            raise ValueError(f"The needle goes the other way: {astray[0].words.metric}")
        return self

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
