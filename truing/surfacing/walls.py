"""What a surfacing leaves standing on a board, and goes on standing there until it is cut.

Each is kept among the things in the board, where it can be seen, corrected and taken out once it
has been planed off by hand.
"""

from __future__ import annotations

from collections.abc import Sequence

import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from truing.machine.board import Board, KeepOut

SMALL_MM2 = 4.0
"""Less than that no work rocks on."""
MOST_CORNERS = 40
MOST_WALLS = 30
Outline = Sequence[tuple[float, float]]


def walls_of(board: Board, over: BaseGeometry) -> list[KeepOut]:
    """Walls that stand, in part, in an area from mid bed."""
    return [
        k
        for k in board.keep_outs
        if k.is_wall and Polygon(k.outline).intersection(over).area > SMALL_MM2
    ]


def after(board: Board, off_mm: float, left: Sequence[Outline]) -> Board:
    """The board with so much taken off its face but for the areas that were left (from mid bed):
    they stand over it by that, and by what stood there before; a wall elsewhere was cut.

    ValueError when less than the least would be left of the board.
    """
    lower = board.surfaced(off_mm)
    areas = [Polygon(outline).buffer(0) for outline in left if len(outline) > 2]
    before = [(Polygon(k.outline).buffer(0), k) for k in board.keep_outs if k.is_wall]
    stand: list[tuple[Polygon, float]] = []
    for area in areas:
        rest = area
        for wall, k in before:
            stand += [(p, k.top_mm + off_mm) for p in _parts(area.intersection(wall))]
            rest = rest.difference(wall)
        stand += [(p, off_mm) for p in _parts(rest)]
    # the largest first, where there are more than can be kept
    stand = sorted(stand, key=lambda s: -s[0].area)[:MOST_WALLS]
    others = [k for k in lower.keep_outs if not k.is_wall]
    taken = {k.name.strip().casefold() for k in others}
    names = (name for n in range(1, 200) if (name := f"Wall {n}").casefold() not in taken)
    walls = [_wall(area, up, name) for (area, up), name in zip(stand, names, strict=False)]
    room = 60 - len(others)
    return Board.model_validate(
        {
            **lower.model_dump(),
            "keep_outs": [k.model_dump() for k in [*others, *walls[: max(0, room)]]],
        }
    )


def _parts(area: BaseGeometry) -> list[Polygon]:
    return [
        p
        for p in getattr(area, "geoms", [area])
        if isinstance(p, Polygon) and p.area > SMALL_MM2 and not p.buffer(-0.1).is_empty
    ]


def _wall(area: Polygon, up_mm: float, name: str) -> KeepOut:
    """About its outline, with no more corners than can be kept."""
    outline = Polygon(area.exterior)
    for off in (0.05, 0.2, 0.5, 1.0):
        if len(outline.exterior.coords) - 1 <= MOST_CORNERS:
            break
        # outward, so that nothing of it is forgotten
        outline = shapely.simplify(area.buffer(off), off, preserve_topology=True)
        outline = Polygon(outline.exterior)
    if len(outline.exterior.coords) - 1 > MOST_CORNERS:
        outline = shapely.minimum_rotated_rectangle(area)
    left, front, right, rear = outline.bounds
    x, y = round((left + right) / 2, 1), round((front + rear) / 2, 1)
    return KeepOut(
        name=name,
        what="wall",
        shape="polygon",
        x_mm=x,
        y_mm=y,
        corners_mm=[
            round(v, 2)
            for a, b in outline.exterior.coords[:-1]
            for v in (float(a) - x, float(b) - y)
        ],
        top_mm=round(up_mm, 4),
    )
