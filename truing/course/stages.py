"""The stages of the work, in the order in which they lean on each other."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

StageKey = Literal[
    "found",
    "stand",
    "slides",
    "rails",
    "drive",
    "frame",
    "tram",
    "bed",
    "holding",
    "spindle",
    "tooling",
    "proof",
]


class Stage(BaseModel):
    """A stage of the course: its key, what it is called, and what it settles."""

    key: StageKey
    title: str
    settles: str


STAGES: list[Stage] = [
    Stage(key="found", title="As found", settles="How it is before anything is touched."),
    Stage(key="stand", title="Stand", settles="Level, or at least free of twist."),
    Stage(key="slides", title="Slides", settles="No shake, still free over the travel."),
    Stage(key="rails", title="Rails", settles="Straight, parallel, in one plane."),
    Stage(key="drive", title="Drive", settles="No lost motion, no pinch, no stall."),
    Stage(key="frame", title="Frame", settles="Column and gantry square to the travel."),
    Stage(key="tram", title="Tram", settles="Spindle square to the table."),
    Stage(key="bed", title="Bed", settles="The work lies on one plane."),
    Stage(key="holding", title="Holding", settles="Jaws and fences along the travel."),
    Stage(key="spindle", title="Spindle", settles="Runs true before a tool is in it."),
    Stage(key="tooling", title="Tooling", settles="Holder, collet and tool run true."),
    Stage(key="proof", title="Proof", settles="A test cut accepts the machine."),
]
