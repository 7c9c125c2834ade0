"""How high the board is: its highest and lowest, where Z is zero, what of it a level has to cut.

Heights are over the board's lowest place; places from mid bed; both in mm.
"""

from __future__ import annotations

import math

import numpy as np
import shapely
from scipy.ndimage import distance_transform_edt
from shapely.geometry import Polygon, box

from truing.measure.problem import Problem
from truing.programs.cutters import Cutter
from truing.programs.face import Point3
from truing.programs.ground import Ground
from truing.surfacing.area import Area, board_area
from truing.surfacing.facts import Facts
from truing.surfacing.levels import levels
from truing.surfacing.seat import pocket
from truing.surfacing.speeds import Speeds
from truing.surfacing.wish import Wish

ON_THE_EDGE_MM = 0.01
"""A point of the map on the very edge of the work is of it."""
CELLS = 20_000
"""Of the grid on which a map tells where a level has to be cut."""


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
        self.face = facts.face
        if self.mapped:
            self.up = self.face.high(self.x, self.y)
            ends = self._ends(work)
            self.high_mm = max(float(self.up.max()), *ends)
            self.low_mm = min(float(self.face.low(self.x, self.y).min()), *ends)
        else:
            stated = wish.range_mm if wish.skims else 0.0
            self.up = np.full((len(self.y), len(self.x)), stated)
            self.high_mm, self.low_mm = stated, 0.0
        self.holes = [h for h in facts.holes if self.mapped and box(*h.box).intersects(work)]
        if wish.holes == "cut":
            self.low_mm = min([self.low_mm, *(h.low_mm for h in self.holes)])
            self.holes = []
        least, most = self._zero()
        if most - least > wish.depth_mm:
            raise Problem(
                f"About the place where Z is zeroed the map is uneven by {most - least:.2f} mm, "
                "more than one pass.",
                expected="Give a smoother place.",
                field="zero_x_mm",
            )
        self.zero_mm = least + wish.plate_mm
        self.zero_doubt_mm = most - least
        """By which what Z is zeroed on may stand over where it is taken to be: the cutter is then
        higher by that, so that no bite gets deeper, and the last level lower."""
        self.area = Area(
            work=work,
            board=board,
            kept=[(k, self.face_at(k.outline) + k.top_mm) for k in facts.board.keep_outs],
            reach=wish.reach,
        )
        self.walls = self.area.walls(self.low_mm, wish)
        self.first_mm = max([self.high_mm, *(top for _, top in self.walls)])
        """The highest that is cut: of the face, or of a wall that was left on it."""
        self._raise_walls()
        # a hundredth: what is rounded in a program must not come below it
        self.safe_mm = math.ceil((self._all_highest() - self.zero_mm + wish.safe_mm) * 100) / 100

    def _raise_walls(self) -> None:
        """Walls stand on the face."""
        x, y = np.meshgrid(self.x, self.y)
        for k, top in self.walls:
            inside = shapely.contains_xy(Polygon(k.outline).buffer(self.cell), x, y)
            self.up[inside] = np.maximum(self.up[inside], top)

    def _ends(self, work: Polygon) -> list[float]:
        """Heights at the corners of the work, and of every point of the map within it: cells have
        their middles a little inside."""
        corner = self.face.high(
            np.array([self.left, self.right]), np.array([self.front, self.rear])
        )
        points = self.face.points
        inside = shapely.contains_xy(
            work.buffer(ON_THE_EDGE_MM), [x for x, _, _ in points], [y for _, y, _ in points]
        )
        read = [z for (_, _, z), there in zip(points, inside, strict=True) if there]
        parts = [p for p in self.face.patches if box(*p.box).intersects(work)]
        many = [v for p in parts for v in (p.low_mm, p.high_mm)]
        return [*(float(v) for v in corner.ravel()), *read, *many]

    def _zero(self) -> tuple[float, float]:
        """The least and the most that the face may be where Z is zeroed on it."""
        wish = self.wish
        if wish.zero == "highest":
            return self.high_mm, self.high_mm
        place = (wish.zero_x_mm, wish.zero_y_mm)
        if not self.board.buffer(1).covers(shapely.Point(place)):
            raise Problem(
                "The place where Z is zeroed does not lie on the board.",
                expected="Give a place on it, from mid bed.",
                field="zero_x_mm",
            )
        if any(
            Polygon(k.outline).covers(shapely.Point(place))
            for k in self.facts.board.keep_outs
            if k.is_wall
        ):
            raise Problem(
                "Z would be zeroed on a wall that an earlier surfacing left.",
                expected="Give a place on the face.",
                field="zero_x_mm",
            )
        if any(box(*h.box).covers(shapely.Point(place)) for h in self.facts.holes if self.mapped):
            raise Problem(
                "Z would be zeroed in a hole: the map has one there.",
                expected="Give a place beside it.",
                field="zero_x_mm",
            )
        return self.face.about(*place) if self.mapped else (self.high_mm, self.high_mm)

    def face_at(self, places: list[tuple[float, float]]) -> float:
        """The highest that the face is at any of these places."""
        return self.face.high_at(places) if self.mapped else self.high_mm

    def _all_highest(self) -> float:
        """Of the board and of everything that lies on it or beside it."""
        tops = [self.face_at(k.outline) + k.top_mm for k in self.facts.board.keep_outs]
        mapped = [self.face.highest_mm] if self.mapped else []
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
            low = self.low_mm - self.zero_doubt_mm
            return levels(self.first_mm, low, self.zero_mm, wish.depth_mm, wish.skim_mm)
        face = self.zero_mm - wish.plate_mm
        floor = face - wish.panel_mm
        n = max(1, math.ceil((self.first_mm - floor) / wish.depth_mm - 1e-9))
        drop = (self.first_mm - floor) / n
        return [self.first_mm - k * drop - self.zero_mm for k in range(1, n + 1)]

    def needed(self, z: float) -> shapely.Geometry | None:
        """Where a cutter's centre has to be at an upper level; None for everywhere."""
        if not (self.mapped or self.walls) or self.wish.work == "seat":
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
        off = self.high_mm - deepest
        left = board.thickness_mm - off - lean
        room = max(0.0, off - (board.least_mm - left))
        if left < board.least_mm:
            raise Problem(
                f"{left:.2f} mm of the board would be left, less than the {board.least_mm:g} mm at "
                "which it still holds.",
                expected=f"{room:.2f} mm can still come off: take less off, or put a new board on "
                "first.",
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
        points = [(x - x0, y - y0, z - self.zero_mm) for x, y, z in self.face.points]
        return Ground(
            board=(left - x0, front - y0, right - x0, rear - y0),
            top_mm=self.high_mm - self.zero_mm,
            map=points if self.mapped else [],
            patches=[p.moved(-x0, -y0, -self.zero_mm) for p in self.face.patches]
            if self.mapped
            else [],
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
            rapid_mm_min=wish.rapid_mm_min,
            accel_mm_s2=wish.accel_mm_s2,
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


def _refuse_one_line(points: list[Point3]) -> None:
    """Problem where the points of a map tell nothing of an area."""
    hull = shapely.MultiPoint([(x, y) for x, y, _ in points]).convex_hull
    if hull.area < 1.0:
        raise Problem(
            "The points of the map lie on one line: they tell nothing beside it.",
            expected="Map the bed at its corners as well, or state how uneven it is.",
            field="heights",
        )
