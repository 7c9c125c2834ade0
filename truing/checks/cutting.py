"""Pieces that are cut to be read: what kinds of check state of the cut, and how it is written down.

A program is read back by the checker, on the piece that it is for, before anybody is offered it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import Literal

from pydantic import BaseModel, Field

from truing.contract.cut import CutProgram
from truing.contract.setup import Setup
from truing.machine import Machine
from truing.measure.fields import Mm, choice, exact, length
from truing.measure.words import Words, plain, say, show
from truing.programs import read
from truing.programs.check import check
from truing.programs.cutters import Cutter
from truing.programs.ground import Ground
from truing.surfacing.path import Move
from truing.surfacing.wish import number
from truing.surfacing.write import write

CORNERS: dict[str, tuple[int, int]] = {
    "front left": (-1, -1),
    "front right": (1, -1),
    "rear right": (1, 1),
    "rear left": (-1, 1),
}
"""Of a rectangle that is marked or cut, counter-clockwise, by which side each lies on."""
LENGTHS: dict[str, tuple[str, str]] = {
    "d1": ("front left", "rear right"),
    "d2": ("front right", "rear left"),
    "front": ("front left", "front right"),
    "rear": ("rear left", "rear right"),
    "left": ("front left", "rear left"),
    "right": ("front right", "rear right"),
}
"""What is measured of it, from corner to corner; the diagonals first."""
FELT_MM = 0.01
"""A step below this stops no fingernail."""
NAIL: dict[str, tuple[str, float, float]] = {
    "none": ("nothing to be felt", 0.0, FELT_MM),
    "just": ("just felt", 0.005, 0.03),
    "felt": ("felt for certain", 0.02, 0.08),
    "stops": ("it stops the nail", 0.05, 0.3),
}
"""What a fingernail says of a step, by grade: in words, and between what it then lies (mm)."""
AIR_MM = 1.0
"""How far from the material a cutter comes down beside it, at least."""
RAISED_MM = 30.0
SPIN_UP_S = 3.0
Place = tuple[float, float]


class Cutting(Setup):
    """A set-up whose piece can be cut by a program."""

    feed_mm_min: float = number(
        "Feed of the cut (mm/min)",
        600.0,
        "As for any part like it.",
        gt=0,
        le=20_000,
        advanced=True,
    )
    rev_per_min: float = number(
        "Speed of the cutter (rev/min)",
        6000.0,
        "At or below what is marked on it.",
        gt=0,
        le=60_000,
        advanced=True,
    )
    bite_mm: Mm = length(
        "Depth of one cut", 0.3, gt=0, le=10, advanced=True, prompt="Of each pass in the program."
    )
    safe_mm: Mm = length(
        "Safe height", 5.0, gt=0.5, le=100, advanced=True, prompt="Over the piece and its clamps."
    )
    switched: Literal["program", "hand"] = choice(
        "The spindle is switched",
        "program",
        {"program": "by the program", "hand": "by hand"},
        advanced=True,
    )
    units: Literal["mm", "inch"] = choice(
        "Program in", "mm", {"mm": "mm", "inch": "inch"}, advanced=True
    )


class Piece(BaseModel):
    """What is cut, on a block whose top is Z 0."""

    key: str
    title: str
    block: tuple[float, float, float, float]
    """Left, front, right, rear, as the program has it (mm)."""
    zero: str
    """Where X0 Y0 is."""
    diameter_mm: float
    corner_mm: float = 0.0
    deepest_mm: float
    """Below the top; the block has to be thicker than that."""


def passes_at(z: float, lines: Sequence[Sequence[Place]], feed: float, safe: float) -> list[Move]:
    """Straight passes at one depth, each begun where it may come down at once, and left upward."""
    moves: list[Move] = []
    for line in lines:
        moves.append(Move(*line[0], safe))
        moves.append(Move(*line[0], z, feed))
        moves += [Move(x, y, z, feed) for x, y in line[1:]]
        moves.append(Move(*line[-1], safe))
    return moves


def offered(
    setup: Cutting, machine: Machine, piece: Piece, moves: Sequence[Move], kind: str
) -> CutProgram:
    """A piece with its program, or with why there is none; machines without a controller have
    the list alone, of its straight cuts."""
    found = CutProgram(
        key=piece.key,
        title=plain(piece.title),
        needs=_needs(setup, piece),
        file_name=f"{kind.replace('_', '-')}-{piece.key}.nc",
        program="",
        air_program="",
        by_hand=_by_hand(moves, setup.safe_mm),
    )
    if machine.control != "controller":
        return found
    text, air = (
        write(
            moves,
            says=_says(piece, setup),
            units=setup.units,
            origin=(0.0, 0.0),
            rev_per_min=setup.rev_per_min,
            safe_mm=setup.safe_mm,
            by_hand=setup.switched == "hand",
            spin_up_s=SPIN_UP_S,
            raise_mm=up,
        )
        for up in (0.0, RAISED_MM)
    )
    report = check(read(text.encode()), _ground(setup, piece))
    if report.verdict != "sound" or report.faults:
        first = report.faults[0].text if report.faults else report.sentence
        return found.model_copy(update={"refused": first})
    minutes = max(1, math.ceil(report.seconds / 60))
    time = plain(f"About {minutes} min.")
    return found.model_copy(
        update={"program": text, "air_program": air, "needs": [*found.needs, time]}
    )


def _ground(setup: Cutting, piece: Piece) -> Ground:
    return Ground(
        board=piece.block,
        floor_mm=-piece.deepest_mm - 1e-3,
        safe_mm=setup.safe_mm,
        cutter=Cutter(
            diameter_mm=piece.diameter_mm,
            corner_mm=piece.corner_mm,
            depth_mm=setup.bite_mm * 1.001,
            ramp_deg=RAMP_DEG,
        ),
        most_feed_mm_min=setup.feed_mm_min,
        most_rev_per_min=setup.rev_per_min,
        by_hand=setup.switched == "hand",
        spin_up_s=SPIN_UP_S,
    )


RAMP_DEG = 5.0
"""The steepest that a helix goes down."""


def _size(piece: Piece) -> tuple[float, float]:
    left, front, right, rear = piece.block
    return right - left, rear - front


def _needs(setup: Cutting, piece: Piece) -> list[Words]:
    wide, deep = _size(piece)
    return [
        say(
            "A block {w} left to right and {d} front to rear, its top flat, thicker than {t}.",
            w=exact(round(wide, 2)),
            d=exact(round(deep, 2)),
            t=show(piece.deepest_mm + 2, 0.1),
        ),
        say(
            "A cutter of {d}. X and Y are zero at the {zero}, Z on its top. It goes down {z}.",
            d=exact(piece.diameter_mm),
            zero=piece.zero,
            z=exact(round(piece.deepest_mm, 3)),
        ),
    ]


def _says(piece: Piece, setup: Cutting) -> list[str]:
    wide, deep = _size(piece)
    return [
        piece.title,
        f"Block {wide:g} by {deep:g} mm. X0 Y0: {piece.zero}. Z0: its top",
        f"Cutter: {piece.diameter_mm:g} mm. Deepest Z -{piece.deepest_mm:g} mm",
        "Run it in the air first. Clear of clamps. Hand at the stop.",
    ]


def _by_hand(moves: Sequence[Move], safe_mm: float) -> list[Words]:
    """Straight cuts as lines to go by; rapids are left to the hand."""
    found = []
    for before, move in pairwise(moves):
        if move.feed is None or move.centre is not None or before.z != move.z:
            continue
        if before.centre is not None:
            # out of a round cut, which no pair of handwheels makes
            continue
        ends = [
            say("X {x} Y {y}", x=show(p.x, 0.01, unit=False), y=show(p.y, 0.01, unit=False))
            for p in (before, move)
        ]
        found.append(say("Z {z}: from {a} to {b}", z=show(move.z, 0.01), a=ends[0], b=ends[1]))
    return found


class Patches(BaseModel):
    """Two patches on one block: fed to the right over the rear half, fed to the rear over the
    front half."""

    diameter_mm: float = Field(gt=0)
    corner_mm: float = 0.0
    stepover_mm: float = Field(gt=0)
    cut: tuple[Literal["x", "y"], ...] = ("x", "y")


MOST_FACED_MM = 0.3
"""A wide cutter takes no more."""
RIDGES = 2
"""Between so many passes and one more."""


def patches(setup: Cutting, machine: Machine, how: Patches, kind: str) -> CutProgram:
    """The block that ridges are read on."""
    d, s = how.diameter_mm, how.stepover_mm
    r = d / 2
    wide = RIDGES * s + d
    half = 1.5 * d if "y" in how.cut else 0.0
    deep = half + (wide if "x" in how.cut else 0.0)
    out = r + max(AIR_MM, 0.05 * d)
    lines: list[list[Place]] = []
    if "x" in how.cut:
        ys = [half + r + k * s for k in range(RIDGES + 1)]
        lines += [[(-out, y), (wide + out, y)] for y in ys]
    if "y" in how.cut:
        # where they end the other patch begins: they stop short of it
        end = half - r - 1.0 if "x" in how.cut else half + out
        xs = [r + k * s for k in range(RIDGES + 1)]
        lines += [[(x, -out), (x, end)] for x in xs]
    bite = min(setup.bite_mm, MOST_FACED_MM)
    moves = passes_at(-bite, lines, setup.feed_mm_min, setup.safe_mm)
    piece = Piece(
        key="patches",
        title="Two patches, one fed each way" if len(how.cut) == 2 else "One patch",
        block=(0.0, 0.0, wide, deep),
        zero="front left corner of the block",
        diameter_mm=d,
        corner_mm=how.corner_mm,
        deepest_mm=bite,
    )
    return offered(setup, machine, piece, moves, kind)
