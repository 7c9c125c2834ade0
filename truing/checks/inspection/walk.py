"""The walk round a machine: what to look at, by the parts it has."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from truing.machine import GANTRY_FORMS, Machine


@dataclass(frozen=True)
class Place:
    """Something to look at, and on which machines it is there."""

    key: str
    label: str
    look: str
    on: Callable[[Machine], bool] = lambda machine: True


WALK: tuple[Place, ...] = (
    Place(
        "mains",
        "Cable, plug and switch",
        "Cable whole, plug firm, switch and emergency stop click? No bare wire, no tape. "
        "Anything wrong is for a qualified electrician, to the local code.",
    ),
    Place("stand", "Stand", "Does it rock when you push a corner? Feet, casters and floor sound?"),
    Place(
        "castings",
        "Castings and frame",
        "Lamp along corners, bolt holes and thin walls: any crack, weld, bruise or bent plate?",
    ),
    Place(
        "column",
        "Column and its foot",
        "Bolts all there and tight, shims under it photographed, nothing between foot and base?",
        lambda m: m.column is not None or m.base is not None,
    ),
    Place(
        "ways",
        "Ways",
        "Paint, chips or rust on ways? Scratches that a nail feels?",
        lambda m: any(s.gib in ("strip", "tapered", "none") for s in m.slides),
    ),
    Place(
        "rails",
        "Rails and carriages",
        "All bolts in? Rails clean, carriages roll without a click, wipers whole?",
        lambda m: m.rails is not None or any(s.gib == "carriages" for s in m.slides),
    ),
    Place(
        "edges",
        "Edges and reference faces",
        "Stone sharp edges and burrs, the stone flat. Mark the faces that locate something.",
    ),
    Place(
        "table",
        "Table",
        "Burrs round slots, drilled holes, old welds? Stone it flat.",
        lambda m: m.form not in GANTRY_FORMS,
    ),
    Place(
        "bed",
        "Bed and board",
        "Board flat on its bed, screws below the surface, their places written down?",
        lambda m: m.board is not None or m.form in GANTRY_FORMS,
    ),
    Place(
        "gantry",
        "Gantry and end plates",
        "Bolts tight, plates not bent, cables free over the whole travel?",
        lambda m: m.gantry is not None,
    ),
    Place(
        "drives",
        "Screws, racks and belts",
        "Chips in the screw? Bent? Belt teeth whole, rack joints level, couplings tight?",
        lambda m: bool(m.slides),
    ),
    Place(
        "head",
        "Head and spindle",
        "Turn it by hand: rough, dry, a click? Bruises in the taper? Belts whole?",
        lambda m: m.spindle,
    ),
    Place("guards", "Guards and covers", "All there, and closed where hands or hair could go?"),
    Place(
        "limits",
        "Limit switches and stops",
        "Wired, in place, and struck before the slide strikes metal?",
        lambda m: m.control == "controller",
    ),
)


def places_for(machine: Machine) -> list[str]:
    """Keys of what is there on this machine, in the order of the walk."""
    return [p.key for p in WALK if p.on(machine)]


def place(key: str) -> Place:
    """The place with this key; KeyError if there is none."""
    return {p.key: p for p in WALK}[key]
