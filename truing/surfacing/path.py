"""From passes to motions: how a cutter comes down, links and goes up again.

It comes down outside of the work, in the air, or along a ramp; it goes sideways at depth only where
its rim stays clear of the work, and by rapids only at the safe height.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from itertools import pairwise

import shapely
from shapely.geometry import LineString, Point

from truing.surfacing.lines import Pass

AIR_MM = 0.2
"""Over what stands there: from that height on a cutter comes down at its feed."""


@dataclass(frozen=True)
class Move:
    """A motion to a place: a rapid, or at a feed (mm/min)."""

    x: float
    y: float
    z: float
    feed: float | None = None
    centre: tuple[float, float] | None = None
    """Of an arc in the plane of X and Y, for one that is round; equal ends go round once."""
    clockwise: bool = False


@dataclass
class Path:
    """Motions so far, from mid bed, Z as the program has it; it begins at the safe height."""

    safe_mm: float
    feed_mm_min: float
    ramp_deg: float
    link_mm: float
    """So far it may go on at depth to the next pass: what it cuts there is cut anyway."""
    moves: list[Move] = field(default_factory=list)

    @property
    def here(self) -> Move | None:
        return self.moves[-1] if self.moves else None

    def rapid(self, x: float, y: float, z: float) -> None:
        """At the safe height, or straight up to it."""
        self.moves.append(Move(x, y, z))

    def cut(self, x: float, y: float, z: float) -> None:
        """At the feed."""
        self.moves.append(Move(x, y, z, self.feed_mm_min))

    def up(self) -> None:
        """Out of the cut."""
        if self.here and self.here.z < self.safe_mm:
            self.rapid(self.here.x, self.here.y, self.safe_mm)

    def level(
        self,
        passes: list[Pass],
        z: float,
        above: float,
        work: shapely.Geometry,
        allowed: shapely.Geometry,
        radius_mm: float,
    ) -> None:
        """Cut passes at one level; `above` is the highest that may still stand there."""
        for p in passes:
            start = p[0]
            if self._linked(start, z, work, allowed, radius_mm):
                self.cut(*start, z)
            else:
                self.up()
                self.rapid(*start, self.safe_mm)
                if work.distance(Point(start)) >= radius_mm:
                    self.cut(*start, z)
                else:
                    self.cut(*start, min(above + AIR_MM, self.safe_mm))
                    self._ramp(p, z)
            for x, y in p[1:]:
                self.cut(x, y, z)
        self.up()

    def _linked(
        self,
        to: tuple[float, float],
        z: float,
        work: shapely.Geometry,
        allowed: shapely.Geometry,
        radius_mm: float,
    ) -> bool:
        here = self.here
        if here is None or here.z != z:
            return False
        way = LineString([(here.x, here.y), to])
        clear = work.distance(way) >= radius_mm or way.length <= self.link_mm
        return bool(clear and allowed.buffer(1e-6).covers(way))

    def _ramp(self, p: Pass, z: float) -> None:
        """Down along a pass and back, as often as it takes, to end where the pass begins."""
        assert self.here is not None
        drop = self.here.z - z
        whole = LineString(p)
        need = drop / math.tan(math.radians(self.ramp_deg)) * 1.02
        # there and back is one lap
        laps = max(1, math.ceil(need / (2 * whole.length) - 1e-9))
        out = min(whole.length, need / (2 * laps))
        down = drop / (2 * laps)
        for _ in range(laps):
            self._along(whole, 0.0, out, down)
            self._along(whole, out, 0.0, down)

    def _along(self, line: LineString, start: float, end: float, down: float) -> None:
        """Follow a line between two distances along it, descending evenly."""
        assert self.here is not None
        z = self.here.z
        total = abs(end - start)
        marks = [0.0]
        for a, b in pairwise(line.coords):
            marks.append(marks[-1] + math.dist(a, b))
        inside = [m for m in marks if min(start, end) < m < max(start, end)]
        for at in [*sorted(inside, reverse=end < start), end]:
            point = line.interpolate(at)
            share = abs(at - start) / total if total else 1.0
            self.cut(point.x, point.y, round(z - down * share, 6))
