"""A path as RS-274: one motion to a line, everything stated, words that no controller misreads."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from typing import Literal

from truing.surfacing.path import Move

MM_PER_INCH = 25.4


def comment(text: str) -> str:
    """Text as a comment: only letters, digits, space and . , - _ : of ASCII, so that a name that
    somebody typed never becomes code; and no word that a controller acts on within a comment."""
    plain = text.replace("\u2212", "-").replace("\u2019", "")
    plain = re.sub(r"[^A-Za-z0-9 .,\-_:]+", " ", plain)
    # MSG, DEBUG, PRINT, LOG, PROBEOPEN at the beginning, before a comma, are orders to some
    plain = re.sub(r"^\s*([A-Za-z]+)\s*,", r"\1 -", re.sub(r"\s+", " ", plain))
    return f"({plain.strip()[:100]})"


def number(value: float, digits: int) -> str:
    """A number without an exponent, a superfluous zero or a minus before nothing."""
    text = f"{value:.{digits}f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def write(
    moves: Sequence[Move],
    *,
    says: Iterable[str],
    units: Literal["mm", "inch"],
    origin: tuple[float, float],
    rev_per_min: float,
    safe_mm: float,
    by_hand: bool,
    spin_up_s: float,
    raise_mm: float = 0.0,
) -> str:
    """A whole program; `raise_mm` lifts all of it, for a run in the air.

    It begins with Z up alone and ends with the spindle stopped at the safe height.
    """
    per = MM_PER_INCH if units == "inch" else 1.0
    digits = 5 if units == "inch" else 4

    def n(value_mm: float) -> str:
        return number(value_mm / per, digits)

    lines = ["%", *(comment(line) for line in says)]
    lines += [
        "G20" if units == "inch" else "G21",
        "G17",
        "G90",
        "G94",
        "G40",
        "G49",
        "G54",
        f"G0 Z{n(safe_mm + raise_mm)}",
    ]
    if by_hand:
        lines += [comment("Switch the spindle on, then go on"), f"S{rev_per_min:.0f}", "M0"]
    else:
        lines += [f"S{rev_per_min:.0f} M3", f"G4 P{number(max(spin_up_s, 0.1) + 0.1, 1)}"]
    feed = None
    at: list[str | None] = [None, None, n(safe_mm + raise_mm)]
    for move in moves:
        to = [n(move.x - origin[0]), n(move.y - origin[1]), n(move.z + raise_mm)]
        changed = [
            f"{axis}{now}" for axis, now, before in zip("XYZ", to, at, strict=True) if now != before
        ]
        if not changed and move.centre is None:
            continue
        words = ["G0" if move.feed is None else "G1", *changed]
        if move.centre is not None:
            # from where it stands, as it was written: rounding must not make the radii differ
            start = [float(v or 0) * per for v in at[:2]]
            off = [c - o - v for c, o, v in zip(move.centre, origin, start, strict=True)]
            words = ["G2" if move.clockwise else "G3", *changed, f"I{n(off[0])}", f"J{n(off[1])}"]
        if move.feed is not None and move.feed != feed:
            words.append(f"F{number(move.feed / per, 3 if units == 'inch' else 1)}")
            feed = move.feed
        lines.append(" ".join(words))
        at = list(to)
    if at[2] != n(safe_mm + raise_mm):
        lines.append(f"G0 Z{n(safe_mm + raise_mm)}")
    lines += ["M5", "M30", "%"]
    return "\n".join(lines) + "\n"
