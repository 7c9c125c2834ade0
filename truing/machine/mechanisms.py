"""What can be moved, worn or replaced on a machine: how one setting undoes another.

A check names the mechanisms it rests on; a move or an event names those it touches.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal, get_args

from pydantic import BaseModel

from truing.machine import Machine, starting_point

Mechanism = Literal[
    "feet",
    "gibs",
    "rail_first",
    "rail_second",
    "rail_packs",
    "nut",
    "end_bearing",
    "screw_blocks",
    "drive_settings",
    "column_base",
    "column_pivot",
    "lift_home",
    "drive_home",
    "head_pivot",
    "bracket",
    "bracket_pivot",
    "end_plate_left",
    "end_plate_right",
    "table",
    "board",
    "vice",
    "spindle_bearing",
    "holder",
    "collet",
    "tool",
]

ALL: tuple[Mechanism, ...] = get_args(Mechanism)
RAILS: tuple[Mechanism, ...] = ("rail_first", "rail_second", "rail_packs")


@dataclass(frozen=True)
class _Named:
    title: str
    touched: str
    """What is said of it afterwards, as in “the column was shimmed”."""
    on: Callable[[Machine], bool]


def _always(machine: Machine) -> bool:
    return True


def _has_rails(machine: Machine) -> bool:
    return machine.rails is not None


def _has_screw(machine: Machine) -> bool:
    return any(s.drive in ("screw", "ball_screw") for s in machine.slides)


def _has_drive(machine: Machine) -> bool:
    return any(s.drive != "lever" for s in machine.slides)


_NAMED: dict[Mechanism, _Named] = {
    "feet": _Named("Feet", "a foot was turned", lambda m: m.feet is not None),
    "gibs": _Named(
        "Gibs and carriages", "a gib was set", lambda m: any(s.gib != "none" for s in m.slides)
    ),
    "rail_first": _Named("First rail", "the first rail was moved", _has_rails),
    "rail_second": _Named("Second rail", "the second rail was moved", _has_rails),
    "rail_packs": _Named("Shims under the rails", "the rails were shimmed", _has_rails),
    "nut": _Named("Nut or pinion", "a nut was set", _has_drive),
    "end_bearing": _Named("End bearing", "an end bearing was set", _has_screw),
    "screw_blocks": _Named("Screw's end blocks", "a screw was centred", _has_screw),
    "drive_settings": _Named(
        "Settings of the drive", "the drive was set", lambda m: m.control == "controller"
    ),
    "column_base": _Named("Column's foot", "the column was shimmed", lambda m: m.base is not None),
    "column_pivot": _Named(
        "Column's pivot",
        "the column was turned",
        lambda m: m.column is not None and m.column.turns,
    ),
    "lift_home": _Named(
        "Home of the lift", "a home offset of the lift was changed", lambda m: m.lift is not None
    ),
    "drive_home": _Named(
        "Home of the gantry",
        "a home offset of the gantry was changed",
        lambda m: m.gantry_drive is not None,
    ),
    "head_pivot": _Named("Head", "the head was turned", lambda m: m.head is not None),
    "bracket": _Named(
        "Spindle bracket", "the spindle bracket was shimmed", lambda m: m.bracket is not None
    ),
    "bracket_pivot": _Named(
        "Bracket's pivot",
        "the spindle bracket was turned",
        lambda m: m.bracket is not None and m.bracket.turns,
    ),
    "end_plate_left": _Named(
        "Left end plate", "the left end plate was twisted", lambda m: m.gantry is not None
    ),
    "end_plate_right": _Named(
        "Right end plate", "the right end plate was twisted", lambda m: m.gantry is not None
    ),
    "table": _Named("Table", "the table was worked on", lambda m: m.gantry is None),
    "board": _Named("Board", "the board was surfaced or changed", lambda m: m.board is not None),
    "vice": _Named("Vice or fence", "the vice was moved", _always),
    "spindle_bearing": _Named(
        "Spindle bearings", "the spindle bearings were set", lambda m: m.spindle
    ),
    "holder": _Named("Holder", "a holder was changed", lambda m: m.spindle),
    "collet": _Named("Collet and nut", "a collet was changed", lambda m: m.spindle),
    "tool": _Named("Tool", "a tool was changed", lambda m: m.spindle),
}


def title(mechanism: Mechanism) -> str:
    """What it is called."""
    return _NAMED[mechanism].title


def touched(mechanism: Mechanism) -> str:
    """What is said once it was touched, without a capital."""
    return _NAMED[mechanism].touched


def mechanisms_of(machine: Machine) -> list[Mechanism]:
    """Those this machine has, from the stand to the tool."""
    return [m for m in ALL if _NAMED[m].on(machine)]


DESCRIBED: dict[Mechanism, str] = {
    "feet": "feet",
    "gibs": "slides",
    "rail_first": "rails",
    "rail_second": "rails",
    "rail_packs": "rails",
    "nut": "slides",
    "end_bearing": "slides",
    "screw_blocks": "slides",
    "drive_settings": "slides",
    "column_base": "base",
    "column_pivot": "column",
    "lift_home": "lift",
    "drive_home": "gantry_drive",
    "head_pivot": "head",
    "bracket": "bracket",
    "bracket_pivot": "bracket",
    "end_plate_left": "gantry",
    "end_plate_right": "gantry",
    "board": "board",
    "vice": "things",
}
"""The field of a machine's description that tells most of a mechanism; a table, a bearing and what
is held in a spindle are described nowhere there."""


class DescribedPart(BaseModel):
    """A part of a machine's description that something goes by."""

    key: str
    """Its field."""
    title: str
    has: bool
    """Whether this machine is described with one."""


def described_by(machine: Machine, mechanisms: Sequence[Mechanism]) -> list[DescribedPart]:
    """What tells of these mechanisms, in the order of the description: what this machine has, and
    what others of its form have."""
    usual = starting_point(machine.form)
    wanted = {DESCRIBED[m] for m in mechanisms if m in DESCRIBED}

    def there(of: Machine, key: str) -> bool:
        return bool(getattr(of, key))

    return [
        DescribedPart(key=key, title=str(field.title), has=there(machine, key))
        for key, field in Machine.model_fields.items()
        # a vice is named by who has one: no form begins with it
        if key in wanted and (key == "things" or there(machine, key) or there(usual, key))
    ]
