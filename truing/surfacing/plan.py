"""From a map, a board and a wish to a plan, and to the program that does it, read back by the
checker before anybody is offered it.

Heights are over the board's lowest place; places from mid bed; both in mm. The program's Z is zero
at the stated place, with the plate on it.
"""

from __future__ import annotations

import hashlib
import json
import math
from typing import Literal

import numpy as np
import shapely
from pydantic import BaseModel, ConfigDict
from scipy.ndimage import distance_transform_edt
from shapely.geometry import Polygon, box

from truing.effects.ridges import Doubtful
from truing.machine.board import Board
from truing.measure.problem import Problem
from truing.measure.words import Words, plain, say, show, span
from truing.programs import read
from truing.programs.check import check
from truing.programs.ground import Cutter, Ground, heights
from truing.programs.report import Report
from truing.programs.timing import Drives
from truing.surfacing.area import Area, board_area, uncut
from truing.surfacing.choose import StepChoice, choose
from truing.surfacing.handwheel import HandLine, by_hand
from truing.surfacing.levels import levels
from truing.surfacing.life import more_times
from truing.surfacing.lines import Pass, raster, rings, trimmed
from truing.surfacing.path import Path
from truing.surfacing.seat import corner_words, pocket, pocket_rings
from truing.surfacing.speeds import Speeds, speeds
from truing.surfacing.wish import Wish
from truing.surfacing.write import write

CELLS = 20_000
"""Of the grid on which a map tells where a level has to be cut."""
Point3 = tuple[float, float, float]


class Facts(BaseModel):
    """What is known of the machine and its board when a plan is made."""

    model_config = ConfigDict(frozen=True)

    machine: str
    table_x_mm: float
    table_y_mm: float
    board: Board
    map: list[Point3] = []
    """Places and heights over the lowest one; empty where there is no fresh map."""
    map_expanded_mm: float = 0.0
    specks: list[Point3] = []
    """Places that stand off all those around them, and by how much over these."""
    lean_x: Doubtful | None = None
    lean_y: Doubtful | None = None
    proven_feed_mm_min: float = 0.0
    taken_mm: list[float] = []
    """What was taken off at earlier surfacings."""
    day: str = ""

    @property
    def mark(self) -> str:
        """Of the bed that depths and ways round belong to: another board, another thing in the way
        or another map has another mark."""
        bed = {
            "table": [self.table_x_mm, self.table_y_mm],
            "board": self.board.model_dump(mode="json"),
            "map": sorted([round(v, 4) for v in point] for point in self.map),
        }
        return hashlib.sha256(json.dumps(bed, sort_keys=True).encode()).hexdigest()[:16]


class PlannedLevel(BaseModel):
    """One level: its height as the program has it, and the passes over it from mid bed."""

    z_mm: float
    words: Words
    passes: list[list[tuple[float, float]]]
    length_mm: float


class Uncut(BaseModel):
    """Something that stays: a wall that work would rock on."""

    outline: list[tuple[float, float]]
    words: Words


class Surfacing(BaseModel):
    """What it comes to, and the program."""

    sentence: Words
    notes: list[Words]
    work: list[tuple[float, float]]
    """Outline of what is cut, from mid bed."""
    origin: tuple[float, float]
    levels: list[PlannedLevel]
    choice: StepChoice
    speeds: Speeds
    uncut: list[Uncut]
    removed_mm: float
    """Taken off the highest place."""
    left_mm: float
    """Of the board where it is cut deepest."""
    more_times: int | None
    """How often it can be skimmed after this; None where nothing bounds it."""
    saved_mm: float
    """Length that the map saved."""
    seconds: float
    program: str
    """Empty where the checker would refuse it."""
    air_program: str
    file_name: str
    report: Report
    by_hand: list[HandLine]
    mark: str = ""
    """`Facts.mark` of the bed that it was made for; "" for one of before there were any."""


def make(wish: Wish, facts: Facts) -> Surfacing:
    """A plan for a wish. Problem, with its field, where it cannot be done."""
    ground = Relief(wish, facts)
    area = ground.area
    picked = choose(wish, facts.lean_x, facts.lean_y, _longer(area.work))
    if wish.stepover_mm > wish.flat_mm:
        raise Problem(
            f"A step of {wish.stepover_mm:g} mm leaves a strip beside a cutter that is flat for "
            f"{wish.flat_mm:g} mm.",
            expected=f"Step by {wish.flat_mm:g} mm or less.",
            field="stepover_mm",
        )
    fast = speeds(
        wish.material,
        wish.diameter_mm,
        wish.teeth,
        rated_rev=wish.rated_rev,
        spindle_rev=wish.spindle_rev,
        chip_mm=wish.chip_mm,
        most_feed_mm_min=wish.feed_mm_min or facts.proven_feed_mm_min,
    )
    zs = ground.levels()
    deepest = zs[-1] + ground.zero_mm
    ground.refuse_too_thin(deepest)
    passes, saved = _passes(wish, area, ground, zs, picked)
    path = _path(wish, area, ground, zs, passes, fast)
    says = _says(wish, facts, picked, zs, ground)
    origin = area.origin(wish)
    program, air = (
        write(
            path.moves,
            says=[*says, *extra],
            units=wish.units,
            origin=origin,
            rev_per_min=fast.rev_per_min,
            safe_mm=ground.safe_mm,
            by_hand=wish.by_hand,
            spin_up_s=wish.spin_up_s,
            raise_mm=up,
        )
        for up, extra in ((0.0, []), (wish.air_mm, [f"AIR RUN: raised by {wish.air_mm:g} mm"]))
    )
    report = check(read(program.encode("ascii")), ground.for_checker(fast), _drives(wish))
    left = facts.board.thickness_mm - (ground.high_mm - deepest)
    stays = _uncut(wish, area, ground, passes[-1])
    removed = ground.high_mm - deepest
    return Surfacing(
        sentence=_sentence(wish, report, removed, zs),
        notes=_notes(wish, facts, area, ground, picked, deepest),
        work=[(float(x), float(y)) for x, y in area.work.exterior.coords[:-1]],
        origin=origin,
        levels=[
            PlannedLevel(
                z_mm=z,
                words=show(z, 0.01, signed=False),
                passes=[list(q) for q in p],
                length_mm=sum(shapely.LineString(q).length for q in p),
            )
            for z, p in zip(zs, passes, strict=True)
        ],
        choice=picked,
        speeds=fast,
        uncut=stays,
        removed_mm=removed,
        left_mm=left,
        more_times=_more(wish, facts, ground, deepest, removed),
        saved_mm=saved,
        seconds=report.seconds,
        program="" if report.faults else program,
        air_program="" if report.faults else air,
        file_name=_file_name(facts, wish),
        report=report,
        mark=facts.mark,
        by_hand=by_hand(
            list(zip(zs, passes, strict=True)), origin, picked.along if wish.skims else "x"
        ),
    )


# --- heights --------------------------------------------------------------------------------------


class Relief:
    """Heights over the board: what is highest, lowest, and where Z is zero."""

    def __init__(self, wish: Wish, facts: Facts) -> None:
        self.wish, self.facts = wish, facts
        board = board_area(facts.board, facts.table_x_mm, facts.table_y_mm)
        self.board = board
        work = _work(wish, board)
        self.mapped = bool(facts.map) and wish.heights == "map"
        if wish.skims and wish.heights == "map" and not facts.map:
            raise Problem(
                "There is no map of this bed, or it is not fresh any more.",
                expected="Map the bed, or state how uneven it is.",
                field="heights",
            )
        if self.mapped:
            _refuse_one_line(facts.map)
        self.left, self.front, self.right, self.rear = work.bounds
        cell = math.sqrt(max(work.area, 1.0) / CELLS)
        self.x = np.arange(self.left + cell / 2, self.right, cell)
        self.y = np.arange(self.front + cell / 2, self.rear, cell)
        self.cell = cell
        if self.mapped:
            self.up = heights(list(facts.map), self.x, self.y)
            ends = self._ends(work)
            self.high_mm = max(float(self.up.max()), *ends)
            self.low_mm = min(float(self.up.min()), *ends)
        else:
            stated = wish.range_mm if wish.skims else 0.0
            self.up = np.full((len(self.y), len(self.x)), stated)
            self.high_mm, self.low_mm = stated, 0.0
        self.zero_mm = self._zero() + wish.plate_mm
        # a hundredth: what is rounded in a program must not come below it
        self.safe_mm = math.ceil((self._all_highest() - self.zero_mm + wish.safe_mm) * 100) / 100
        self.area = Area(
            work=work,
            board=board,
            kept=[(k, self.face_at(k.outline) + k.top_mm) for k in facts.board.keep_outs],
            reach=wish.reach,
        )

    def _ends(self, work: Polygon) -> list[float]:
        """Heights at the corners of the work, and of every point of the map within it: cells have
        their middles a little inside."""
        corner = heights(
            list(self.facts.map),
            np.array([self.left, self.right]),
            np.array([self.front, self.rear]),
        )
        inside = shapely.contains_xy(
            work, [x for x, _, _ in self.facts.map], [y for _, y, _ in self.facts.map]
        )
        read = [z for (_, _, z), there in zip(self.facts.map, inside, strict=True) if there]
        return [*(float(v) for v in corner.ravel()), *read]

    def _zero(self) -> float:
        wish = self.wish
        if wish.zero == "highest":
            return self.high_mm
        if not self.board.buffer(1).covers(shapely.Point(wish.zero_x_mm, wish.zero_y_mm)):
            raise Problem(
                "The place where Z is zeroed does not lie on the board.",
                expected="Give a place on it, from mid bed.",
                field="zero_x_mm",
            )
        return self.face_at([(wish.zero_x_mm, wish.zero_y_mm)])

    def face_at(self, places: list[tuple[float, float]]) -> float:
        """The highest that the face is at any of these places."""
        if not self.mapped:
            return self.high_mm
        found = [
            heights(list(self.facts.map), np.array([x]), np.array([y]))[0, 0] for x, y in places
        ]
        return float(max(found))

    def _all_highest(self) -> float:
        """Of the board and of everything that lies on it or beside it."""
        tops = [self.face_at(k.outline) + k.top_mm for k in self.facts.board.keep_outs]
        mapped = [z for _, _, z in self.facts.map] if self.mapped else []
        return max([self.high_mm, *tops, *mapped])

    def levels(self) -> list[float]:
        """Program heights, highest first."""
        wish = self.wish
        if wish.skims:
            if self.mapped and wish.skim_mm < self.facts.map_expanded_mm:
                least = math.ceil(self.facts.map_expanded_mm * 1000) / 1000
                raise Problem(
                    f"The map itself is good to ±{self.facts.map_expanded_mm:.3f} mm: a skim of "
                    f"{wish.skim_mm:g} mm would leave marks.",
                    expected=f"Skim by {least:g} mm or more.",
                    field="skim_mm",
                )
            return levels(self.high_mm, self.low_mm, self.zero_mm, wish.depth_mm, wish.skim_mm)
        face = self.zero_mm - wish.plate_mm
        floor = face - wish.panel_mm
        n = max(1, math.ceil((self.high_mm - floor) / wish.depth_mm - 1e-9))
        drop = (self.high_mm - floor) / n
        return [self.high_mm - k * drop - self.zero_mm for k in range(1, n + 1)]

    def needed(self, z: float) -> shapely.Geometry | None:
        """Where a cutter's centre has to be at an upper level; None for everywhere."""
        if not self.mapped or self.wish.work == "seat":
            return None
        level = z + self.zero_mm
        high = self.up + self.facts.map_expanded_mm > level
        if high.all():
            return None
        reach = self.wish.radius_mm + self.wish.margin_mm + 1.5 * self.cell
        pad = math.ceil(reach / self.cell) + 2
        padded = np.pad(high, pad)
        if not high.any():
            return shapely.GeometryCollection()
        near = distance_transform_edt(~padded) * self.cell <= reach
        return _outline(
            near,
            self.left - (pad - 0.5) * self.cell,
            self.front - (pad - 0.5) * self.cell,
            self.cell,
        )

    def refuse_too_thin(self, deepest: float) -> None:
        """Problem where too little of the board would be left."""
        board = self.facts.board
        lean = self.lean_mm
        left = board.thickness_mm - (self.high_mm - deepest) - lean
        if left < board.least_mm:
            raise Problem(
                f"{left:.2f} mm of the board would be left, less than the {board.least_mm:g} mm at "
                "which it still holds.",
                expected="Take less off, or put a new board on first.",
                field="skim_mm" if self.wish.skims else "panel_mm",
            )

    @property
    def lean_mm(self) -> float:
        """By which a leaning cutter cuts below its centre."""
        a, b = self.facts.lean_x, self.facts.lean_y
        if a is None or b is None:
            return 0.0
        most = math.hypot(abs(a[0]) + a[1], abs(b[0]) + b[1])
        return self.wish.radius_mm * most / 1000

    def for_checker(self, fast: Speeds) -> Ground:
        """The same ground in the program's own coordinates."""
        wish, board = self.wish, self.facts.board
        x0, y0 = self.area.origin(wish)
        left, front, right, rear = self.board.bounds
        reach = wish.reach
        points = [(x - x0, y - y0, z - self.zero_mm) for x, y, z in self.facts.map]
        return Ground(
            board=(left - x0, front - y0, right - x0, rear - y0),
            top_mm=self.high_mm - self.zero_mm,
            map=points if self.mapped else [],
            floor_mm=self.high_mm - self.zero_mm - (board.thickness_mm - board.least_mm),
            kept=self.area.in_program(wish, self.zero_mm),
            margin_mm=wish.margin_mm,
            reach=(reach[0] - x0, reach[1] - y0, reach[2] - x0, reach[3] - y0),
            safe_mm=self.safe_mm,
            cutter=Cutter(
                diameter_mm=wish.diameter_mm,
                corner_mm=wish.corner_mm,
                rated_rev_per_min=wish.rated_rev,
                depth_mm=wish.depth_mm,
                ramp_deg=wish.ramp_deg,
            ),
            body_mm=wish.body_mm,
            below_mm=wish.below_mm,
            lean_mm=self.lean_mm,
            most_feed_mm_min=wish.feed_mm_min or self.facts.proven_feed_mm_min,
            most_rev_per_min=wish.spindle_rev,
            by_hand=wish.by_hand,
            spin_up_s=wish.spin_up_s,
        )


def _outline(mask: np.ndarray, x0: float, y0: float, cell: float) -> shapely.Geometry:
    """The area of a mask, as boxes of its runs put together."""
    boxes = []
    for j, row in enumerate(mask):
        edges = np.flatnonzero(np.diff(np.concatenate([[0], row.astype(np.int8), [0]])))
        for a, b in zip(edges[::2], edges[1::2], strict=True):
            y = y0 + j * cell
            boxes.append(
                box(
                    x0 + (a - 0.5) * cell, y - 0.501 * cell, x0 + (b - 0.5) * cell, y + 0.501 * cell
                )
            )
    return shapely.union_all(boxes)


def _work(wish: Wish, board: Polygon) -> Polygon:
    """Outline of what is cut, from mid bed."""
    if wish.work == "seat":
        found = pocket(wish)
        if not board.covers(found):
            raise Problem(
                "The seat does not lie within the board.", expected="Move it.", field="x_mm"
            )
        return found
    if wish.work == "skim":
        return board
    w, d = wish.across_mm / 2, wish.deep_mm / 2
    part = box(wish.x_mm - w, wish.y_mm - d, wish.x_mm + w, wish.y_mm + d).intersection(board)
    if part.area < 1:
        raise Problem(
            "That part does not lie on the board.", expected="Move it onto the board.", field="x_mm"
        )
    return part


def _longer(work: Polygon) -> Literal["x", "y"]:
    left, front, right, rear = work.bounds
    return "x" if right - left >= rear - front else "y"


# --- passes ---------------------------------------------------------------------------------------


def _passes(
    wish: Wish, area: Area, ground: Relief, zs: list[float], picked: StepChoice
) -> tuple[list[list[Pass]], float]:
    """Passes of each level, and the length that the map saved."""
    found: list[list[Pass]] = []
    saved = 0.0
    for z in zs:
        level = z + ground.zero_mm
        allowed = area.allowed(level, wish)
        if wish.work == "seat":
            passes = pocket_rings(area.work, wish, min(picked.stepover_mm, wish.flat_mm * 0.8))
            if not allowed.buffer(1e-6).covers(shapely.MultiLineString(passes)):
                raise Problem(
                    "Something in the board, or the end of the travel, is in the way of the seat.",
                    expected="Move the seat, or take out what is there.",
                    field="x_mm",
                )
        elif wish.pattern == "raster":
            passes = raster(
                area.work,
                allowed,
                picked.along,
                picked.stepover_mm,
                wish.radius_mm,
                wish.flat_mm,
                wish.both_ways,
            )
        else:
            passes = rings(
                area.work,
                allowed,
                picked.stepover_mm,
                wish.radius_mm,
                wish.flat_mm,
                wish.pattern == "rings_out",
            )
        whole = sum(shapely.LineString(p).length for p in passes)
        passes = trimmed(passes, ground.needed(z))
        saved += whole - sum(shapely.LineString(p).length for p in passes)
        found.append(passes)
    if not found[-1]:
        raise Problem(
            "Nothing can be cut: what is in the way, or the end of the travel, leaves no room.",
            expected="Look at the reach and at what must not be cut.",
            field="reach_left_mm",
        )
    return found, saved


def _path(
    wish: Wish,
    area: Area,
    ground: Relief,
    zs: list[float],
    passes: list[list[Pass]],
    fast: Speeds,
) -> Path:
    path = Path(
        safe_mm=ground.safe_mm,
        feed_mm_min=fast.feed_mm_min,
        ramp_deg=wish.ramp_deg,
        link_mm=1.6 * wish.diameter_mm,
    )
    above = ground.high_mm - ground.zero_mm
    if ground.mapped and area.work is not area.board:
        above = max(above, max(z for _, _, z in ground.facts.map) - ground.zero_mm)
    for z, found in zip(zs, passes, strict=True):
        allowed = area.allowed(z + ground.zero_mm, wish)
        path.level(found, z, above, area.board, allowed, wish.radius_mm)
    return path


def _uncut(wish: Wish, area: Area, ground: Relief, passes: list[Pass]) -> list[Uncut]:
    """What stays standing, with its height over the new face."""
    if wish.work == "seat":
        return []
    left = uncut(area.work, passes, wish.flat_mm)
    rise = ground.high_mm - ground.low_mm + wish.skim_mm
    found = []
    for part in getattr(left, "geoms", [left]):
        if part.is_empty:
            continue
        x, y = part.representative_point().coords[0]
        found.append(
            Uncut(
                outline=[(float(a), float(b)) for a, b in part.exterior.coords[:-1]],
                words=say(
                    "{area} about X {x} Y {y} stays, up to {h} high.",
                    area=Words(
                        metric=f"{part.area / 100:.1f} cm²", inch=f"{part.area / 25.4**2:.2f} in²"
                    ),
                    x=span(x),
                    y=span(y),
                    h=show(rise, 0.01),
                ),
            )
        )
    return found


def _drives(wish: Wish) -> Drives:
    v, a = wish.rapid_mm_min, wish.accel_mm_s2
    return Drives(rapid_mm_min=(v, v, v), accel_mm_s2=(a, a, a))


# --- words ----------------------------------------------------------------------------------------


def _sentence(wish: Wish, report: Report, removed: float, zs: list[float]) -> Words:
    minutes = max(1, math.ceil(report.seconds / 60))
    what = "Takes {v} off the highest place" if wish.skims else "Cuts a seat {v} deep"
    return say(
        what + " in {n}, about {t} min.",
        v=show(removed, 0.01),
        n=f"{len(zs)} pass" + ("" if len(zs) == 1 else "es"),
        t=str(minutes),
    )


def _refuse_one_line(points: list[Point3]) -> None:
    """Problem where the points of a map tell nothing of an area."""
    hull = shapely.MultiPoint([(x, y) for x, y, _ in points]).convex_hull
    if hull.area < 1.0:
        raise Problem(
            "The points of the map lie on one line: they tell nothing beside it.",
            expected="Map the bed at its corners as well, or state how uneven it is.",
            field="heights",
        )


def _notes(
    wish: Wish, facts: Facts, area: Area, ground: Relief, picked: StepChoice, deepest: float
) -> list[Words]:
    notes = [picked.words] if wish.skims else []
    if wish.work == "seat":
        corners = corner_words(wish)
        if corners:
            notes.append(corners)
    for k in area.binding(deepest, wish):
        notes.append(
            say(
                "{name} is in the way: the board is not cut around it.",
                name=k.name[:1].upper() + k.name[1:],
            )
        )
    proud = [s for s in facts.specks if s[2] > 0] if ground.mapped else []
    if proud:
        x, y, up = max(proud, key=lambda s: s[2])
        notes.append(
            say(
                "At X {x} Y {y} the map stands {up} over all around it: a chip, or a screw head? "
                "The plan begins over it. Look there, and map it again if it can be wiped away.",
                x=span(x),
                y=span(y),
                up=show(up, 0.01),
            )
        )
    lean = ground.lean_mm
    if lean >= 0.005:
        notes.append(
            say(
                "A leaning cutter cuts up to {v} below the depth that is set; that is counted in.",
                v=show(lean, 0.001),
            )
        )
    if ground.mapped and not shapely.MultiPoint(
        [(x, y) for x, y, _ in facts.map]
    ).convex_hull.buffer(wish.radius_mm).covers(area.work):
        notes.append(
            plain(
                "The map does not reach to the edges: there the cutter goes down as over the "
                "highest place near it."
            )
        )
    return notes


def _more(wish: Wish, facts: Facts, ground: Relief, deepest: float, removed: float) -> int | None:
    """How often it can be skimmed after this, until it is too thin or metal is met."""
    if wish.work == "seat":
        return None
    usual = float(np.median(facts.taken_mm)) if facts.taken_mm else removed
    board = facts.board
    rooms = [board.thickness_mm - removed - board.least_mm]
    for k, top in ground.area.kept:
        if top < deepest and not k.may_cut:
            rooms.append(deepest - top - wish.margin_mm)
    return more_times(rooms, usual)


def _says(
    wish: Wish, facts: Facts, picked: StepChoice, zs: list[float], ground: Relief
) -> list[str]:
    zero = (
        "the highest place"
        if wish.zero == "highest"
        else (f"X {wish.zero_x_mm:g} Y {wish.zero_y_mm:g} from mid bed")
    )
    plate = f", a plate of {wish.plate_mm:g} mm on it" if wish.plate_mm else ""
    origin = {
        "corner": "front left corner of the work",
        "middle": "middle of the work",
        "bed": "mid bed",
    }[wish.origin]
    return [
        f"{facts.machine}: {'board skimmed' if wish.skims else 'seat for a panel'} {facts.day}",
        f"X0 Y0: {origin}",
        f"Z0: {zero}{plate}",
        f"Cutter: {wish.diameter_mm:g} mm, {wish.teeth} teeth",
        f"{len(zs)} levels, deepest Z {zs[-1]:.3f} mm, steps of {picked.stepover_mm:.2f} mm",
        "Run it in the air first. Clear of clamps and metal. Hand at the stop.",
    ]


def _file_name(facts: Facts, wish: Wish) -> str:
    name = "".join(c if c.isascii() and c.isalnum() else "-" for c in facts.machine.lower())
    return f"{name.strip('-')}-{'board' if wish.skims else 'seat'}-{facts.day or 'plan'}.nc"
