"""The kinds of check that are built, one module or package each, in the order of the work."""

from typing import Any

from truing.check import Check
from truing.checks.base_level import BASE_LEVEL
from truing.checks.drive_proof import DRIVE_PROOF
from truing.checks.gib_shim import GIB_SHIM
from truing.checks.inspection import INSPECTION
from truing.checks.lost_motion import LOST_MOTION
from truing.checks.rail_parallel import RAIL_PARALLEL
from truing.checks.rail_straight import RAIL_STRAIGHT
from truing.checks.rail_twist import RAIL_TWIST
from truing.checks.screw_centre import SCREW_CENTRE
from truing.checks.slide_play import SLIDE_PLAY
from truing.checks.spindle_tram import SPINDLE_TRAM

ALL: dict[str, Check[Any, Any]] = {
    check.key: check
    for check in (
        INSPECTION,
        BASE_LEVEL,
        SLIDE_PLAY,
        GIB_SHIM,
        RAIL_STRAIGHT,
        RAIL_PARALLEL,
        RAIL_TWIST,
        LOST_MOTION,
        SCREW_CENTRE,
        DRIVE_PROOF,
        SPINDLE_TRAM,
    )
}
