"""Does the work lie on one plane?"""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar

from truing.checks.bed_map.beneath import COMPARES, beneath
from truing.checks.bed_map.evaluate import BedMapFinding, evaluate
from truing.checks.bed_map.figure import contour
from truing.checks.bed_map.setup import (
    LEAST_POINTS,
    MOST_POINTS,
    TAKES,
    BedMapSetup,
    proposed,
    stations,
)
from truing.checks.bed_map.sketch import set_up
from truing.checks.common import expectation
from truing.checks.fits import reachable
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.expected import expected_mean, expected_range
from truing.contract.judgement import Expectation, Judgement, Tolerances
from truing.contract.move import Advice, LeaveIt
from truing.contract.readings import LogReading, Reading
from truing.contract.setup import Station
from truing.drawing.figures import Figure
from truing.drawing.sketches import SketchFigure
from truing.machine import Machine
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.problem import Problem
from truing.measure.verdict import Verdict
from truing.measure.words import Words, plain, say, show

BedCase = Case[BedMapSetup, BedMapFinding]
CLOSER = "Each point of a log is read once: log it again with a slower touch, or a finer probe."


class BedMap(Check[BedMapSetup, BedMapFinding]):
    """Heights over the area that is used; see `geometry.md` in docs."""

    key: ClassVar[str] = "bed_map"
    layout: ClassVar = "plan"
    limit_kinds: ClassVar = {"area": ("Height over the area used", "length")}
    compares: ClassVar[tuple[str, ...]] = COMPARES
    setup_type = BedMapSetup
    finding_type = BedMapFinding

    def propose(self, machine: Machine, subject: Subject = THE_MACHINE) -> BedMapSetup | None:
        return proposed(machine)

    def doubts(self, setup: BedMapSetup, machine: Machine) -> list[Words]:
        return [
            *reachable(machine, "left_right", setup.x_places_mm, called="bed"),
            *reachable(machine, "front_back", setup.y_places_mm, called="bed"),
        ]

    def tolerances(self, machine: Machine) -> Tolerances:
        return {"area": 0.1}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        return say(
            "a line engraved {d} deep is there in one place and gone in another.",
            d=show(tolerances["area"], 0.001),
        )

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return dict(TAKES)

    def powered(self, machine: Machine) -> bool:
        return machine.control == "controller"

    def stations(self, setup: BedMapSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return stations(setup)

    def passes(self, setup: BedMapSetup) -> int:
        return 1 if setup.way == "log" else setup.passes

    def take_log(self, setup: BedMapSetup, station: Station, log: LogReading) -> LogReading:
        names = {name.lower(): name for name in log.columns}
        known = names if "z" in names else _unnamed(setup, log)
        missing = [n for n in "xyz" if n not in known]
        if missing:
            raise Problem(
                "Columns x, y and z are needed; there is " + " and ".join(log.columns) + ".",
                expected="Name them in the first line, such as “x y z”.",
                field="text",
            )
        kept = {n: log.columns[known[n]] for n in "xyz"}
        mark = next((known[n] for n in ("ok", "success", "hit") if n in known), None)
        if mark is not None:
            hit = log.columns[mark]
            kept = {n: [v for v, h in zip(c, hit, strict=True) if h] for n, c in kept.items()}
        count = len(kept["x"])
        if count > MOST_POINTS:
            raise Problem(
                f"{count} points are more than a map can have.",
                expected=f"Thin it out to {MOST_POINTS}.",
                field="text",
            )
        if count < LEAST_POINTS:
            raise Problem(
                f"{count} points that touched tell no plane.",
                expected=f"{LEAST_POINTS} lines or more, the corners among them.",
                field="text",
            )
        return log.model_copy(update={"columns": kept})

    def expect(self, case: BedCase) -> Expectation | None:
        if case.setup.way == "log":
            mean = expected_mean(case.instrument, 1)
            big = 2**0.5 * mean.expanded_mm + 2 * mean.bound_mm
        else:
            big = expected_range(case, self.stations(case.setup))
        return expectation(big, case.tolerances["area"], "length")

    def evaluate(self, case: BedCase) -> BedMapFinding:
        return evaluate(case)

    def judge(self, case: BedCase) -> Judgement:
        judged = super().judge(case)
        if case.setup.way == "log" and judged.verdict == "too_close":
            return judged.decided_otherwise(plain(CLOSER))
        return judged.joined_by(self._unread(case))

    def _unread(self, case: BedCase) -> list[tuple[Verdict, Words]]:
        """Places that nobody has read may be any height."""
        if case.setup.way == "log":
            return []
        read = {s.station for s in case.finding.stations}
        left = [s for s in self.stations(case.setup) if s.key not in read]
        if not left:
            return []
        count = f"{len(left)} place{'s have' if len(left) > 1 else ' has'} not been read"
        return [("too_close", say(count + ": {at} first.", at=left[0].label))]

    def figures(self, case: BedCase) -> list[Figure]:
        return list(contour(case.finding, case.tolerances["area"]))

    def sketch(self, setup: BedMapSetup, machine: Machine) -> SketchFigure | None:
        return set_up(setup, machine)

    def remedies(self, case: BedCase) -> Advice:
        if not case.amiss("area"):
            return Advice(moves=[], leave=None)
        area = case.get("area")
        assert area is not None
        remarks = [
            say(
                "Surfaced, it loses {v} at its highest place and nothing but the skim at its "
                "lowest. Wipe bed and board first: dust under a board is a bow.",
                v=show(area.estimate.value, 0.01),
            )
        ]
        board = case.machine.board
        if board is not None and board.thickness_mm - area.estimate.value <= board.least_mm:
            remarks.append(
                say(
                    "That would leave less than the {least} at which it still holds: a new board "
                    "comes first.",
                    least=show(board.least_mm, 0.1),
                )
            )
        told, asks = beneath(case)
        leave = LeaveIt(
            text=say(
                "Or leave it: cuts at one depth differ by {v} over the bed, and by less over a "
                "part of it.",
                v=show(area.estimate.value, 0.01),
            )
        )
        return Advice(moves=[], leave=leave, remarks=[*remarks, *told], asks=asks)


def _unnamed(setup: BedMapSetup, log: LogReading) -> dict[str, str]:
    """Columns without names in the order that was stated; a fourth of nothing but 0 and 1 says
    whether the probe touched."""
    columns = list(log.columns)
    found = dict(zip(setup.order, columns, strict=False)) if len(columns) in (3, 4) else {}
    if len(columns) == 4:
        if not set(log.columns[columns[3]]) <= {0.0, 1.0}:
            return {}
        found["ok"] = columns[3]
    return found


CHECK = BedMap()
