"""Pieces that are cut to be read: what kinds of check state of the cut, and how it is written down.

A program is read back by the checker, on the piece that it is for, before anybody is offered it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any, Literal

from pydantic import BaseModel, Field

from truing.contract.cut import CutProgram
from truing.contract.setup import Setup
from truing.machine import Machine
from truing.machine.parts import DIRECTIONS
from truing.measure.fields import Mm, choice, exact, hint, length
from truing.measure.words import Words, plain, say, show, span
from truing.programs import read
from truing.programs.check import check
from truing.programs.cutters import Cutter
from truing.programs.ground import Ground
from truing.surfacing.path import Move
from truing.surfacing.speeds import MATERIALS, Speeds, speeds
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
STOCK, OUT = 0.75, 0.6
"""Of an end mill: by which the block of a square is larger each side, so that one pass takes all of
it; and by which its middle comes down beside that, where its rim clears it."""
ROUND = 1 + STOCK + OUT + 0.1
"""By so much of an end mill its way round a square is longer than the square."""
AIR_MM = 1.0
"""How far from the material a cutter comes down beside it, at least."""
RAISED_MM = 30.0
SPIN_UP_S = 3.0
Place = tuple[float, float]


class Cutting(Setup):
    """A set-up whose piece can be cut by a program."""

    material: Literal[
        "mdf", "ply", "softwood", "hardwood", "plastic", "aluminium", "brass", "steel"
    ] = choice(
        "Cut in", "steel", {key: name for key, (name, _, _) in MATERIALS.items()}, advanced=True
    )
    teeth: int = Field(
        2,
        ge=1,
        le=20,
        title="Teeth of the cutter",
        json_schema_extra=hint("Feed goes by them.", field="integer", advanced=True),
    )
    rev_per_min: float = number(
        "Fastest that it may turn (rev/min)",
        6000.0,
        "As marked on the cutter, or what the spindle does. In metal it turns slower.",
        gt=0,
        le=60_000,
        advanced=True,
    )
    feed_mm_min: float = number(
        "Fastest feed (mm/min)",
        600.0,
        "What the drives are good for.",
        gt=0,
        le=20_000,
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

    def fast(self, diameter_mm: float) -> Speeds:
        """Speed and feed of a cutter, by what is cut: as a plan has them."""
        return speeds(
            self.material,
            diameter_mm,
            self.teeth,
            rated_rev=self.rev_per_min,
            most_feed_mm_min=self.feed_mm_min,
        )


def cutting(machine: Machine, diameter_mm: float) -> dict[str, Any]:
    """What a machine proposes for it."""
    board = machine.work == "board"
    return {
        "material": "mdf" if board else "steel",
        "teeth": 2 if board or diameter_mm < 20 else 4,
        "rev_per_min": 12_000.0 if board else 6000.0,
        "feed_mm_min": 1500.0 if board else 600.0,
    }


@dataclass(frozen=True)
class Cut:
    """A piece, and the way of the cutter over it."""

    piece: Piece
    moves: list[Move]


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
    own_setting: bool = False
    """One of several that do not fit the travel together."""


def passes_at(z: float, lines: Sequence[Sequence[Place]], feed: float, safe: float) -> list[Move]:
    """Straight passes at one depth, each begun where it may come down at once, and left upward."""
    moves: list[Move] = []
    for line in lines:
        moves.append(Move(*line[0], safe))
        moves.append(Move(*line[0], z, feed))
        moves += [Move(x, y, z, feed) for x, y in line[1:]]
        moves.append(Move(*line[-1], safe))
    return moves


def beyond_travel(machine: Machine, cuts: Sequence[Cut]) -> list[Words]:
    """Where the way of a cutter is longer than the machine travels."""
    found: list[Words] = []
    for cut in cuts:
        for axis, way in enumerate(("left_right", "front_back")):
            places = [(m.x, m.y)[axis] for m in cut.moves]
            far = max(places) - min(places)
            slide = machine.slide(way)  # type: ignore[arg-type]
            if slide is not None and far > slide.travel_mm:
                found.append(
                    say(
                        "{title}: the cutter runs {far} {way}, and that slide travels {travel}. "
                        "Take a smaller cutter, or cut a smaller piece.",
                        title=cut.piece.title,
                        far=span(math.ceil(far)),
                        way=DIRECTIONS[way],  # type: ignore[index]
                        travel=span(slide.travel_mm),
                    )
                )
    return found


def offered(setup: Cutting, machine: Machine, cuts: Sequence[Cut], kind: str) -> list[CutProgram]:
    """Pieces with their programs, or with why there is none; machines without a controller have
    the list alone, of its straight cuts."""
    return [_offered(setup, machine, cut, kind, len(cuts) > 1) for cut in cuts]


def _offered(setup: Cutting, machine: Machine, cut: Cut, kind: str, several: bool) -> CutProgram:
    piece, moves = cut.piece, cut.moves
    fast = setup.fast(piece.diameter_mm)
    needs = [*_needs(piece), fast.words]
    if piece.own_setting and several:
        needs.append(plain("Both do not fit in one setting: move the block between them."))
    found = CutProgram(
        key=piece.key,
        title=plain(piece.title),
        needs=needs,
        file_name=f"{kind.replace('_', '-')}-{piece.key}.nc",
        program="",
        air_program="",
        by_hand=_by_hand(moves, setup.safe_mm),
    )
    beyond = beyond_travel(machine, [cut])
    if beyond:
        return found.model_copy(update={"refused": beyond[0], "by_hand": []})
    if machine.control != "controller":
        return found
    text, air = (
        write(
            moves,
            says=_says(piece),
            units=setup.units,
            origin=(0.0, 0.0),
            rev_per_min=fast.rev_per_min,
            safe_mm=setup.safe_mm,
            by_hand=setup.switched == "hand",
            spin_up_s=SPIN_UP_S,
            raise_mm=up,
        )
        for up in (0.0, RAISED_MM)
    )
    report = check(read(text.encode()), _ground(setup, piece, fast))
    if report.verdict != "sound" or report.faults:
        first = report.faults[0].text if report.faults else report.sentence
        return found.model_copy(update={"refused": first})
    minutes = max(1, math.ceil(report.seconds / 60))
    time = plain(f"About {minutes} min.")
    return found.model_copy(
        update={"program": text, "air_program": air, "needs": [*found.needs, time]}
    )


def _ground(setup: Cutting, piece: Piece, fast: Speeds) -> Ground:
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
        most_feed_mm_min=fast.feed_mm_min,
        most_rev_per_min=fast.rev_per_min,
        by_hand=setup.switched == "hand",
        spin_up_s=SPIN_UP_S,
    )


RAMP_DEG = 5.0
"""The steepest that a helix goes down."""


def _size(piece: Piece) -> tuple[float, float]:
    left, front, right, rear = piece.block
    return right - left, rear - front


def _needs(piece: Piece) -> list[Words]:
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


def _says(piece: Piece) -> list[str]:
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
    steps_mm: tuple[float, float]
    """From pass to pass, fed to the right and fed to the rear."""
    cut: tuple[Literal["x", "y"], ...] = ("x", "y")


MOST_FACED_MM = 0.3
"""A wide cutter takes no more."""
RIDGES = 2
"""Between so many passes and one more; one of them has to do where the travel is short."""
SHORT = 0.4
"""Of the cutter: the least length of a patch on which a ridge can be read."""


def patches(setup: Cutting, machine: Machine, how: Patches) -> list[Cut]:
    """The block that ridges are read on: in one setting where the travel allows it, else a patch at
    a time."""
    d = how.diameter_mm
    fast = setup.fast(d)
    out = d / 2 + max(AIR_MM, 0.05 * d)
    depth = min(setup.bite_mm, MOST_FACED_MM)

    def cut(piece: Piece, lines: list[list[Place]]) -> Cut:
        return Cut(piece, passes_at(-depth, lines, fast.feed_mm_min, setup.safe_mm))

    def piece(key: str, title: str, block: tuple[float, float], alone: bool) -> Piece:
        return Piece(
            key=key,
            title=title,
            block=(0.0, 0.0, *block),
            zero="front left corner of the block",
            diameter_mm=d,
            corner_mm=how.corner_mm,
            deepest_mm=depth,
            own_setting=alone,
        )

    if len(how.cut) == 2:
        lines, block = _both(d, out, how.steps_mm)
        one = cut(piece("patches", "Two patches, one fed each way", block, False), lines)
        if not beyond_travel(machine, [one]):
            return [one]
    found = []
    for way in how.cut:
        room = _room(machine)
        along, across = room if way == "x" else room[::-1]
        step = how.steps_mm[0 if way == "x" else 1]
        ridges = RIDGES if RIDGES * step <= across else 1
        long = max(SHORT * d, min(1.5 * d, along - 2 * out))
        lines = [
            [(-out, d / 2 + k * step), (long + out, d / 2 + k * step)] for k in range(ridges + 1)
        ]
        block = (long, ridges * step + d)
        if way == "y":
            lines, block = [[(y, x) for x, y in line] for line in lines], block[::-1]
        fed = "left to right" if way == "x" else "front to rear"
        title = f"A patch fed {fed}"
        found.append(cut(piece(f"patch-{way}", title, block, len(how.cut) == 2), lines))
    return found


def _room(machine: Machine) -> tuple[float, float]:
    """How far the machine travels left to right and front to rear, as far as that is known."""
    slides = (machine.slide("left_right"), machine.slide("front_back"))
    x, y = (s.travel_mm if s is not None else math.inf for s in slides)
    return x, y


def _both(
    d: float, out: float, steps: tuple[float, float]
) -> tuple[list[list[Place]], tuple[float, float]]:
    """Passes of both on one block, and its size: the patch fed to the right lies behind."""
    r, half = d / 2, 1.5 * d
    wide = RIDGES * steps[1] + d
    ys = [half + r + k * steps[0] for k in range(RIDGES + 1)]
    xs = [r + k * steps[1] for k in range(RIDGES + 1)]
    lines: list[list[Place]] = [[(-out, y), (wide + out, y)] for y in ys]
    # where they end the other patch begins: they stop short of it
    lines += [[(x, -out), (x, half - r - 1.0)] for x in xs]
    return lines, (wide, half + RIDGES * steps[0] + d)
