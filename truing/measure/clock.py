"""Places round a circle as people name them: hours of a clock seen from above, 12 at the rear."""

from __future__ import annotations

import math
import re

from truing.measure.problem import Problem

_CLOCK = re.compile(r"(\d{1,2})(?::(\d{2})|\.(\d+))?")


def parse_clock(text: str) -> float:
    """A clock position ("3", "12:30", "10.5") as hours in (0, 12]; Problem if it is none."""
    match = _CLOCK.fullmatch(text.strip().lower())
    hours = -1.0
    if match:
        part = int(match[2]) / 60 if match[2] else float(f"0.{match[3] or 0}")
        hours = int(match[1]) + part
        # between 12 and 1 a clock says 12:30
        hours -= 12 if 12 < hours < 13 else 0
    if not 0 <= hours <= 12 or (match and match[2] and int(match[2]) > 59):
        raise Problem(
            f"“{text.strip()}” is no place on a clock face.",
            expected="Use hours from 12 round to 11, such as 3 or 1:30.",
        )
    return hours or 12.0


def parse_clocks(text: str) -> list[float]:
    """Several clock positions with commas or blanks between."""
    return [parse_clock(part) for part in re.split(r"[,;\s]+", text) if part.strip()]


def parse_degrees(text: str) -> list[float]:
    """Several angles in degrees, each more than the one before, with commas, semicolons or blanks
    between; Problem where one is no angle within one turn."""
    parts = [p for p in re.split(r"[;\s]+" if ";" in text else r"[,\s]+", text) if p]
    found: list[float] = []
    for part in parts:
        bare = part.removesuffix("°").removesuffix("deg").replace(",", ".")
        angle = float(bare) if re.fullmatch(r"\d{1,3}(\.\d+)?", bare) else -1.0
        if not (found[-1] if found else -1.0) < angle < 360:
            raise Problem(
                f"“{part[:20]}” does not go on round from the angle before it.",
                expected="Give degrees within one turn, one after the other: 0, 75, 150, 260.",
            )
        found.append(angle)
    return found


def clock_label(hours: float) -> str:
    """12, 3, 1:30 …"""
    whole = int(hours)
    minutes = round((hours - whole) * 60)
    if minutes == 60:
        whole, minutes = whole + 1, 0
    return f"{whole or 12}:{minutes:02d}" if minutes else f"{whole or 12}"


def angle_rad(hours: float) -> float:
    """Angle of a clock position seen from above, counter-clockwise from +X (right)."""
    return math.radians(90 - 30 * hours)
