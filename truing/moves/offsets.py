"""Home offsets of two motors that carry one gantry: how far each backs off its switch."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from truing.contract.move import Change, Entry
from truing.machine.parts import MotorPair
from truing.measure.words import say, show
from truing.moves.changes import altered

STEP_MM = 0.001
"""Controllers keep offsets to a micrometre."""
HOMES_MM = 0.02
"""How far a switch lets a motor stop from where it stopped before, 95 %."""

AWAY: dict[str, int] = {"top": -1, "bottom": 1, "front": 1, "rear": -1}
"""Which way backing off a switch moves that end: up and to the rear are plus."""


@dataclass(frozen=True)
class Offsets:
    """What both motors back off, mm."""

    left_mm: float
    right_mm: float


def carried_right(pair: MotorPair, homes: str, by_mm: float) -> Offsets:
    """The offsets that carry the right end by `by_mm` (mm; up or to the rear is plus) against the
    left one. The right one takes all of it, unless it would come below the least that can be set:
    then the left one takes the rest, the other way."""
    wanted = pair.right_offset_mm + by_mm / AWAY[homes]
    right = max(wanted, pair.least_offset_mm)
    return Offsets(
        left_mm=_kept(pair.left_offset_mm + (right - wanted)),
        right_mm=_kept(right),
    )


def moved_mm(pair: MotorPair, homes: str, to: Offsets) -> tuple[float, float]:
    """How far these offsets move the left and the right end from where they are (mm)."""
    away = AWAY[homes]
    return (
        away * (to.left_mm - pair.left_offset_mm),
        away * (to.right_mm - pair.right_offset_mm),
    )


def changes_of(part: Literal["lift", "gantry_drive"], pair: MotorPair, to: Offsets) -> list[Change]:
    """What is different in the machine's description with these offsets."""
    return altered(
        Change(path=f"{part}.left_offset_mm", before=_kept(pair.left_offset_mm), after=to.left_mm),
        Change(
            path=f"{part}.right_offset_mm", before=_kept(pair.right_offset_mm), after=to.right_mm
        ),
    )


def entries_of(pair: MotorPair, to: Offsets) -> list[Entry]:
    """What is typed into the controller: both, so that none is left as it was by mistake."""
    both = (
        ("Left motor", pair.left_offset_mm, to.left_mm),
        ("Right motor", pair.right_offset_mm, to.right_mm),
    )
    return [
        Entry(
            setting=name,
            value_mm=now,
            before_mm=before,
            words=say("{now} (was {before})", now=show(now, STEP_MM), before=show(before, STEP_MM))
            if abs(now - before) >= STEP_MM / 2
            else say("{now}, as it is", now=show(now, STEP_MM)),
        )
        for name, before, now in both
    ]


def _kept(mm: float) -> float:
    return round(mm / STEP_MM) * STEP_MM
