"""The links of each drive, from the hand or motor to the slide: how the slack of each is read by
itself, and what takes it out."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

from truing.machine import Drive
from truing.machine.mechanisms import Mechanism

Link = Literal["wheel", "clutch", "coupling", "pulley", "worm", "bearing", "nut", "mesh", "belt"]
ALL_LINKS: tuple[Link, ...] = get_args(Link)


@dataclass(frozen=True)
class Remedy:
    """What takes the slack out of a link."""

    title: str
    steps: tuple[str, ...]
    mechanism: Mechanism = "nut"


@dataclass(frozen=True)
class _Named:
    title: str
    asks: str
    """The switch in the set-up."""
    prompt: str


NAMED: dict[Link, _Named] = {
    "wheel": _Named(
        "handwheel on its shaft",
        "Read the handwheel on its shaft",
        "Hold the shaft still, turn the handwheel to and fro, and read what it moves at the "
        "graduation, as travel.",
    ),
    "clutch": _Named(
        "engagement clutch",
        "Read the engagement clutch",
        "Hold what the clutch drives, engage it, turn the wheel or the motor to and fro, and read "
        "it as travel.",
    ),
    "coupling": _Named(
        "coupling or gear",
        "Read a coupling or gear",
        "Hold the screw or pinion still, turn the motor or the gear to and fro, and read it as "
        "travel.",
    ),
    "pulley": _Named(
        "pulley on its shaft",
        "Read the pulley on its shaft",
        "Hold the belt still, turn the motor’s shaft to and fro, and read it as travel.",
    ),
    "worm": _Named(
        "worm in its wheel",
        "Read the worm in its wheel",
        "Hold the worm wheel still, turn the worm to and fro, and read it as travel. Push and pull "
        "the worm along as well: its end float counts with it.",
    ),
    "bearing": _Named(
        "end float of the screw",
        "Read the screw’s end float",
        "Dial on the end of the screw: push and pull the slide hard, and read how far the screw "
        "moves along.",
    ),
    "nut": _Named(
        "nut on the screw",
        "Read the nut by itself",
        "Dial from the screw to the slide: push and pull, and read how far the slide moves on the "
        "screw.",
    ),
    "mesh": _Named(
        "pinion in the rack",
        "Read the pinion in the rack",
        "Hold the pinion still, push and pull the slide, and read how far it moves along the rack.",
    ),
    "belt": _Named(
        "belt and its clamps",
        "Read the belt by itself",
        "Hold both pulleys still, push and pull the slide as hard as it cuts, and read how far it "
        "moves.",
    ),
}
"""What each link is called, and how its slack is read."""

LINKS_OF: dict[Drive, tuple[Link, ...]] = {
    "screw": ("wheel", "clutch", "coupling", "bearing", "nut"),
    "ball_screw": ("wheel", "coupling", "bearing", "nut"),
    "rack": ("wheel", "clutch", "coupling", "mesh"),
    "worm": ("wheel", "clutch", "worm", "mesh"),
    "belt": ("wheel", "coupling", "pulley", "belt"),
    "lever": (),
}
"""From the hand to the slide."""

USUAL: dict[Drive, Link] = {
    "screw": "nut",
    "ball_screw": "bearing",
    "rack": "mesh",
    "worm": "worm",
    "belt": "belt",
    "lever": "nut",
}
"""Where it mostly sits, while nobody has looked."""

LAST: dict[Drive, Link] = {
    "screw": "nut",
    "ball_screw": "nut",
    "rack": "mesh",
    "worm": "mesh",
    "belt": "belt",
    "lever": "nut",
}
"""What moves the slide itself: where the rest is, when that has not been read."""

_WHEEL = Remedy(
    "Take the play out of the handwheel",
    (
        "Look for a loose grub screw, a worn key or a pin that has worn its hole.",
        "A taper pin: ream the hole to the next size. A key: fit one that has to be pressed in.",
        "Turn it against the shaft by hand and feel that nothing is left.",
    ),
)
_CLUTCH = Remedy(
    "Take up the engagement clutch",
    (
        "Engage it with the drive still, and look whether the dogs go in to their full depth.",
        "Set the lever’s stop or its rod until they do; a weak spring lets them creep out.",
        "Dogs with rounded flanks are stoned square, or the clutch is replaced.",
    ),
)
_PULLEY = Remedy(
    "Clamp the pulley on its shaft",
    (
        "Look for a loose grub screw, a worn key, or a bore that is too wide for its shaft.",
        "Clean shaft and bore, turn the grub screw onto a flat, and hold it with thread lock.",
        "A bore that is too wide gets a clamping bush.",
    ),
)
_WORM = Remedy(
    "Close the worm into its wheel",
    (
        "Slacken the worm’s housing or its eccentric bush.",
        "Push the worm into the wheel until it drags at the tightest place of a whole turn, then "
        "back off by a strip of paper.",
        "Take the worm’s end float up with its nut or a shim, tighten, and turn it through again.",
    ),
)
_BEARING = Remedy(
    "Preload the end bearing",
    (
        "Slacken the lock nut of the end bearing.",
        "Tighten the bearing nut until the handwheel drags, then back off until two fingers turn "
        "it.",
        "Hold it there and tighten the lock nut; it pulls tighter, so feel again.",
    ),
    "end_bearing",
)
_COUPLING = Remedy(
    "Take the slack out of the coupling",
    (
        "Look for a loose grub screw, a worn key or a worn spider first.",
        "Clean shaft and bore, push them together, tighten the clamp by turns.",
        "Gears: bring them closer until a strip of paper just goes through between the teeth.",
    ),
)
_NUT = Remedy(
    "Close the nut",
    (
        "A split nut: turn its screw in by an eighth, try the whole travel, go on until it "
        "drags, then back by a touch.",
        "Two nuts: turn the second against the first until two fingers still turn the screw.",
        "Where neither can be set a new nut is the cure.",
    ),
)
_BALL_NUT = Remedy(
    "Preload the ball nut",
    (
        "A double nut: take the spacer down, or turn the halves against each other.",
        "A single nut: larger balls. Keep it in its sleeve while it is off the screw.",
    ),
)
_MESH = Remedy(
    "Bring the pinion closer to the rack",
    (
        "Slacken the motor’s or the pinion’s plate, push or wedge the pinion into the rack, back "
        "off by a strip of paper.",
        "Run the whole rack: set it for the tightest place, and shim the rack where it lies low or "
        "steps at a joint.",
        "Tighten the plate by turns while it is held, and read again: it moves as it is tightened.",
    ),
)
_BELT = Remedy(
    "Tension the belt",
    (
        "Look for worn teeth, and for a clamp in which the belt creeps.",
        "Tighten until it gives by a belt’s thickness in the middle, no more.",
    ),
)
_REMEDIES: dict[Link, Remedy] = {
    "wheel": _WHEEL,
    "clutch": _CLUTCH,
    "coupling": _COUPLING,
    "pulley": _PULLEY,
    "worm": _WORM,
    "bearing": _BEARING,
    "nut": _NUT,
    "mesh": _MESH,
    "belt": _BELT,
}


def remedy_of(link: Link, drive: Drive) -> Remedy:
    """What takes the slack out of a link of this drive."""
    return _BALL_NUT if link == "nut" and drive == "ball_screw" else _REMEDIES[link]
