"""What somebody types of a machine's zeros and its tools' lengths, in words that programs use."""

from __future__ import annotations

import re

from truing.programs.frames import MACHINE, OFFSETS, Frames, Place

_NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)"
_AXIS = re.compile(rf"([XYZ])\s*({_NUMBER})", re.IGNORECASE)
_TOOL = re.compile(rf"T\s*(\d{{1,4}})\s+L?\s*({_NUMBER})", re.IGNORECASE)
_BETWEEN = re.compile(r"[;\n]+")


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


def lengths_of(text: str) -> dict[int, float]:
    """Lengths such as “T1 0; T2 7.5”, in mm. ValueError, which says what is expected, where one
    cannot be read."""
    found: dict[int, float] = {}
    for part in filter(None, (p.strip() for p in _BETWEEN.split(text))):
        read = _TOOL.fullmatch(part)
        if read is None:
            raise ValueError(
                f"“{part[:60]}” is no tool and its length. Write such as “T1 0; T2 7.5”: by how "
                "many mm each stands out further than the one that Z was zeroed with."
            )
        found[int(read[1])] = float(read[2])
    return found


def frames_of(zeros: str, lengths: str, lengths_set: bool) -> Frames:
    """All of it."""
    return Frames(zeros=zeros_of(zeros), lengths_mm=lengths_of(lengths), lengths_set=lengths_set)
