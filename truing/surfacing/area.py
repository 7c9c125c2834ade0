"""What is to be cut, where the centre of a cutter may go, and what that leaves uncut."""

from __future__ import annotations

from dataclasses import dataclass

import shapely
from shapely.geometry import Polygon, box

from truing.machine.board import Board, KeepOut
from truing.programs.face import Box
from truing.programs.ground import Kept
from truing.surfacing.wish import Wish

QUAD = 24
"""Chords of a quarter turn in an offset; offsets err to the safe side by `SAFE`."""
SAFE = 1.003
"""Of a radius: the chords of an offset circle lie inside of it."""
EDGE_MM = 0.5
"""By which outlines of the same thing may differ."""
SLIVER_MM2 = 0.5
"""Less than that is the rounding of an outline."""


@dataclass(frozen=True)
class Area:
    """From mid bed: the work, the board, and what each keep-out does (all mm)."""

    work: Polygon
    board: Polygon
    kept: list[tuple[KeepOut, float]]
    """With the height of its top over the lowest place of the board."""
    reach: Box

    def allowed(self, level_mm: float, wish: Wish) -> shapely.Geometry:
        """Where a cutter's centre may be at a level (over the lowest place): its rim keeps clear of
        what is in the way, and so does the nut over it, of what stands as high as that."""
        out = []
        for radius_mm, below_mm in wish.reaches:
            out += [
                Polygon(k.outline).buffer((radius_mm + wish.margin_mm) * SAFE, quad_segs=QUAD)
                for k, top in self.kept
                if top > level_mm + below_mm - wish.margin_mm and not k.may_meet
            ]
        return box(*self.reach).difference(shapely.union_all(out))

    def binding(self, level_mm: float, wish: Wish) -> list[KeepOut]:
        """What is in the way at a level."""
        return [
            k
            for k, top in self.kept
            if not k.may_meet
            and any(
                top > level_mm + below - wish.margin_mm
                and Polygon(k.outline).distance(self.work) < radius + wish.margin_mm
                for radius, below in wish.reaches
            )
        ]

    def walls(self, level_mm: float, wish: Wish) -> list[tuple[KeepOut, float]]:
        """Walls that an earlier surfacing left, where a cutter at a level comes to them: what is in
        the way may guard them still."""
        cut = (
            self.allowed(level_mm, wish)
            .buffer(wish.radius_mm)
            .intersection(self.work.buffer(wish.radius_mm))
        )
        return [
            (k, top)
            for k, top in self.kept
            # what was left beside a path is its very edge
            if k.is_wall and Polygon(k.outline).buffer(-EDGE_MM).intersects(cut)
        ]

    def in_program(self, wish: Wish, zero_mm: float) -> list[Kept]:
        """What is in the way, in the program's own coordinates."""
        x0, y0 = self.origin(wish)
        return [
            Kept(
                name=k.name,
                outline=[(x - x0, y - y0) for x, y in k.outline],
                top_mm=top - zero_mm + (0.0 if k.is_wall else wish.margin_mm),
                may_cut=k.may_cut,
                wall=k.is_wall,
            )
            for k, top in self.kept
        ]

    def origin(self, wish: Wish) -> tuple[float, float]:
        """Where the program's X0 Y0 lies, from mid bed."""
        left, front, right, rear = self.work.bounds
        if wish.origin == "corner":
            return left, front
        return ((left + right) / 2, (front + rear) / 2) if wish.origin == "middle" else (0.0, 0.0)


def board_area(board: Board, table_x_mm: float, table_y_mm: float) -> Polygon:
    """The board's outline from mid bed."""
    w, d = (board.across_mm or table_x_mm) / 2, (board.deep_mm or table_y_mm) / 2
    return box(board.x_mm - w, board.y_mm - d, board.x_mm + w, board.y_mm + d)


def uncut(
    work: Polygon, passes: list[list[tuple[float, float]]], flat_mm: float
) -> shapely.Geometry:
    """What of an area no pass covers with the flat of its cutter."""
    covered = shapely.union_all(
        [
            (shapely.LineString(p) if len(p) > 1 else shapely.Point(p[0])).buffer(
                flat_mm / 2, quad_segs=QUAD
            )
            for p in passes
        ]
    )
    # the chords of a round end lie inside of it, and a sliver is no rim
    left = work.difference(covered.buffer(1e-6 + flat_mm * 0.0012))
    parts = [g for g in getattr(left, "geoms", [left]) if g.area > SLIVER_MM2]
    return shapely.union_all(parts)
