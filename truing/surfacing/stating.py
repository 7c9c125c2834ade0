"""What somebody types of a machine's zeros and its tools' lengths, in words that programs use."""

from __future__ import annotations

import re
from dataclasses import dataclass

from truing.programs.cutters import Cutter
from truing.programs.frames import MACHINE, OFFSETS, Frames, Place

_NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)"
_AXIS = re.compile(rf"([XYZ])\s*({_NUMBER})", re.IGNORECASE)
_BETWEEN = re.compile(r"[;\n]+")
MOST_WIDE_MM = 300.0
MOST_TOOLS = 24


def zeros_of(text: str) -> dict[str, Place]:
    """Zeros such as “G55 X120 Y0 Z-2; machine X-20 Y-30 Z60”, in mm. ValueError, which says what is
    expected, where one cannot be read."""
    found: dict[str, Place] = {}
    for part in filter(None, (p.strip() for p in _BETWEEN.split(text))):
        name, _, rest = part.partition(" ")
        known = name.upper() if name.upper() in OFFSETS else name.lower()
        axes = {a.upper(): float(v) for a, v in _AXIS.findall(rest)}
        if known not in (*OFFSETS, MACHINE) or not axes or _AXIS.sub("", rest).strip(" ,"):
            raise ValueError(
                f"“{part[:60]}” names no zero and its place. Write such as “G55 X120 Y0 Z-2; "
                "machine X-20 Y-30 Z60”, in mm from this program’s zero."
            )
        found[known] = (axes.get("X"), axes.get("Y"), axes.get("Z"))
    return found


@dataclass(frozen=True)
class Described:
    """Tools as somebody described them: how much longer each stands out than the one that Z was
    zeroed with (mm), and what they are, by their numbers, as far as that was said."""

    lengths_mm: dict[int, float]
    cutters: dict[int, Cutter]


EXAMPLE = "T1 flat 6; T2 ball 3 length -4.5 rated 20000; T3 V 60 tip 0.2 across 6; T4 drill 5"
_TOOL = re.compile(r"T\s*(\d{1,4})\s+(.+)", re.IGNORECASE)
_SAID = re.compile(rf"([a-z]*)\s*({_NUMBER})\s*", re.IGNORECASE)
_WORDS = {
    "flat": "flat",
    "ball": "ball",
    "v": "v",
    "drill": "drill",
    "tip": "tip",
    "across": "across",
    "corner": "corner",
    "depth": "depth",
    "rated": "rated",
    "s": "rated",
    "length": "length",
    "l": "length",
    "": "length",
}
"""What may stand before a figure, and what it says then."""
_SHAPES = ("flat", "ball", "v", "drill")


def tools_of(text: str) -> Described:
    """Tools such as `EXAMPLE`, in mm, degrees and rev/min. ValueError, which says what is expected,
    where one cannot be read."""
    found = Described({}, {})
    for part in filter(None, (p.strip() for p in _BETWEEN.split(text))):
        read = _TOOL.fullmatch(part)
        said = _figures(read[2]) if read else None
        cutter = _cutter(said) if said else None
        if read is None or said is None or (cutter is None and set(said) != {"length"}):
            raise ValueError(
                f"“{part[:60]}” describes no tool. Write such as “{EXAMPLE}”: mm, the angle of a V "
                "in degrees, the rated speed in rev/min, and as its length by how much it stands "
                "out further than the one that Z was zeroed with."
            )
        number = int(read[1])
        if "length" in said:
            found.lengths_mm[number] = said["length"]
        if cutter:
            found.cutters[number] = cutter
    if len(found.cutters) > MOST_TOOLS:
        raise ValueError(
            f"{len(found.cutters)} tools are more than one program is checked with. State those "
            f"that it uses, up to {MOST_TOOLS}."
        )
    return found


def _figures(text: str) -> dict[str, float] | None:
    """Each figure under what it says; None where one says nothing, or what was said before."""
    found: dict[str, float] = {}
    for word, value in _SAID.findall(text):
        name = _WORDS.get(word.lower())
        if name is None or name in found:
            return None
        found[name] = float(value)
    return None if _SAID.sub("", text).strip(" ,") else found


def _cutter(said: dict[str, float]) -> Cutter | None:
    """What these figures describe; None where that is no one cutter that there could be."""
    shapes = [name for name in _SHAPES if name in said]
    if len(shapes) != 1 or any(v < 0 for name, v in said.items() if name != "length"):
        return None
    shape, size = shapes[0], said[shapes[0]]
    wide = said.get("across", 6.0) if shape == "v" else size
    # a word that says nothing of such a cutter was meant for another
    own = {"v": {"tip", "across"}, "flat": {"corner"}}.get(shape, set())
    other = {"tip", "across", "corner"} - own
    if not 0 < wide <= MOST_WIDE_MM or other & set(said) or (shape == "v" and not 1 < size < 179):
        return None
    return Cutter(
        diameter_mm=wide,
        corner_mm=wide / 2 if shape == "ball" else said.get("corner", 0.0),
        included_deg=size if shape == "v" else 0.0,
        tip_mm=said.get("tip", 0.0),
        rated_rev_per_min=said.get("rated", 0.0),
        depth_mm=said.get("depth", 0.0),
        plunges=shape in ("v", "drill"),
        drill=shape == "drill",
    )


def frames_of(zeros: str, tools: Described, lengths_set: bool) -> Frames:
    """Where zeros lie, and how long tools are."""
    return Frames(zeros=zeros_of(zeros), lengths_mm=tools.lengths_mm, lengths_set=lengths_set)
