"""How the simulated machine answers each kind of check, one module each."""

from types import ModuleType

from truing.standin.kinds import (
    base_level,
    drive_proof,
    gib_shim,
    inspection,
    lost_motion,
    rail_parallel,
    rail_straight,
    rail_twist,
    screw_centre,
    slide_play,
    spindle_tram,
)

ALL: dict[str, ModuleType] = {
    module.__name__.rpartition(".")[2]: module
    for module in (
        base_level,
        drive_proof,
        gib_shim,
        inspection,
        lost_motion,
        rail_parallel,
        rail_straight,
        rail_twist,
        screw_centre,
        slide_play,
        spindle_tram,
    )
}
