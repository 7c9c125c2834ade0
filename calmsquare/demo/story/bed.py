"""Curlew's bed: its board planned, a seat for an engraved dial plate, and a program from elsewhere
with four faults in it."""

from __future__ import annotations

import math
from datetime import timedelta

from django.utils import timezone

from calmsquare.demo.story.shed import Shed
from calmsquare.surfacing import services
from calmsquare.surfacing.facts import facts_of, found_of
from calmsquare.surfacing.models import Program
from calmsquare.surfacing.schemas import KeepPlanIn
from calmsquare.workshop.models import Machine
from truing.machine.board import Board, KeepOut
from truing.programs import read
from truing.programs.check import check
from truing.programs.cite import cited
from truing.programs.picture import picture
from truing.record import dump
from truing.surfacing.foreign import Stated, ground_for
from truing.surfacing.wish import Wish

REACH = {
    "reach_left_mm": -460.0,
    "reach_right_mm": 460.0,
    "reach_front_mm": -610.0,
    "reach_rear_mm": 610.0,
}
BOARD = Board(
    thickness_mm=16.5,
    least_mm=9.0,
    keep_outs=[
        KeepOut(name="Front insert", what="insert", x_mm=-300, y_mm=-480, across_mm=9, top_mm=-6.0),
        KeepOut(name="Rear insert", what="insert", x_mm=300, y_mm=480, across_mm=9, top_mm=-5.5),
        KeepOut(
            name="Toe clamp",
            what="clamp",
            shape="rectangle",
            x_mm=400,
            y_mm=-540,
            across_mm=60,
            deep_mm=40,
            top_mm=22.0,
        ),
    ],
)
"""Birch ply's poor cousin, glued down; two inserts for the fence and one clamp that stays."""


def bed(shed: Shed, machine: Machine) -> None:
    """Plans and a program on a bed that has been mapped."""
    skim = Wish(
        diameter_mm=35,
        rated_rev=16000,
        spindle_rev=18000,
        depth_mm=0.4,
        skim_mm=0.1,
        ridge_mm=0.02,
        zero="spot",
        plate_mm=12.0,
        **REACH,
    )
    seat = Wish(
        work="seat",
        x_mm=-120,
        y_mm=140,
        across_mm=160,
        deep_mm=160,
        panel_mm=2.0,
        clearance_mm=0.15,
        panel_corner_mm=3.0,
        diameter_mm=6,
        depth_mm=0.7,
        rated_rev=18000,
        spindle_rev=18000,
        **REACH,
    )
    for wish, hours in ((seat, 30), (skim, 28)):
        form = KeepPlanIn(id=shed.id(), wish=wish.model_dump(mode="json"))
        plan = services.keep_plan(shed.owner, machine.pk, form)
        plan.made_at = timezone.now() - timedelta(hours=hours)
        plan.save()
    _foreign(shed, machine)


def _foreign(shed: Shed, machine: Machine) -> None:
    data = dial_program().encode("ascii")
    stated = Stated(
        shape="v",
        diameter_mm=6,
        included_deg=60,
        tip_mm=0.2,
        depth_mm=0.4,
        rated_rev=18000,
        spindle_rev=18000,
        x_mm=300,
        y_mm=-540,
        thickness_mm=6,
        safe_mm=2,
        **REACH,
    )
    ground = ground_for(stated, facts_of(machine, found_of(machine)))
    program = read(data)
    report = check(program, ground)
    report = report.model_copy(update={"cited": cited(data, (f.line for f in report.faults))})
    kept = Program.objects.create(
        id=shed.id(),
        machine=machine,
        by=shed.maker.user,
        made_at=timezone.now() - timedelta(hours=5),
        name="tide-dial-small.nc",
        size=len(data),
        stated=dump("stated", stated),
        ground=dump("ground", ground),
        state=Program.State.DONE,
        share=1.0,
        report=dump("report", report),
        picture=dump("picture", picture(program.motions, ground)),
    )
    kept.keep([data])


def dial_program() -> str:
    """A ring and twelve marks of a tide dial, as a drawing program of theirs wrote it, and four
    slips: no wait for the spindle, a retract that is missing, a lost decimal, and the last mark
    straight through the clamp."""
    lines = [
        "(tide dial, ring and hours)",
        "G21 G17 G90 G94 G54",
        "G0 Z5",
        "S15000 M3",
        "G0 X50 Y0",
        "G1 Z-0.3 F200",
        "G2 X50 Y0 I-50 J0 F500",
        "G0 Z5",
    ]
    for hour in range(12):
        a = math.radians(30 * hour)
        x, y = math.cos(a), math.sin(a)
        deep = "-3." if hour == 4 else "-0.3"
        lines += [
            f"G0 X{42 * x:.3f} Y{42 * y:.3f}",
            f"G1 Z{deep} F200",
            f"G1 X{49 * x:.3f} Y{49 * y:.3f} F500",
        ]
        if hour != 7:
            lines.append("G0 Z5")
    lines += [
        "G0 X60 Y0",
        "G1 Z-0.3 F200",
        "G1 X85 Y12 F500",
        "G0 Z5",
        "M5",
        "M30",
    ]
    return "\n".join(lines) + "\n"
