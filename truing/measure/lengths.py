"""Lengths as people type them, and estimates with their uncertainty."""

from __future__ import annotations

import re
from fractions import Fraction
from typing import Literal

from pydantic import BaseModel, ConfigDict

from truing.measure.problem import Problem
from truing.measure.words import MM_PER_INCH

Unit = Literal["mm", "µm", "in", "thou", "tenths", "div"]
"""Units that a reading can be typed in; `div` is one division of the dial in hand."""

_SIZE_MM: dict[Unit, float] = {
    "mm": 1.0,
    "µm": 0.001,
    "in": MM_PER_INCH,
    "thou": MM_PER_INCH / 1000,
    "tenths": MM_PER_INCH / 10_000,
}

_NAMES: dict[str, Unit] = {
    **dict.fromkeys(("mm", "millimetre", "millimetres", "millimeter", "millimeters"), "mm"),
    **dict.fromkeys(("µm", "um", "micron", "microns", "micrometre", "micrometres"), "µm"),
    **dict.fromkeys(("in", "inch", "inches", '"', "″", "''"), "in"),
    **dict.fromkeys(("thou", "thous", "thousandth", "thousandths"), "thou"),
    **dict.fromkeys(("tenth", "tenths"), "tenths"),
    **dict.fromkeys(("div", "divs", "division", "divisions"), "div"),
}
_LARGE_MM = {"cm": 10.0, "m": 1000.0}

_VULGAR = {"½": "1/2", "¼": "1/4", "¾": "3/4", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8"}

_LENGTH = re.compile(
    r"""
    (?P<sign>[+-]?)\s*
    (?: (?:(?P<whole>\d+)[\s-]+)?(?P<num>\d+)\s*/\s*(?P<den>\d+)
      | (?P<decimal>\d+[.,]\d*|[.,]\d+|\d+) )
    \s*(?P<unit>[^\d\s.,+-].*)?
    """,
    re.VERBOSE,
)
_GROUPED = re.compile(r"[1-9]\d{0,2},\d{3}")

LONGEST_MM = 100_000.0
"""Nothing on a hobby machine is longer; more is a slip of the keys or of the unit."""

EXPECTED_LENGTH = "Type a number with its unit, for example 0.07 mm, 7 div, 1.5 thou or 1/64 in."


class Length(BaseModel):
    """A length read from text: `mm` for the sums, `text` and `unit` as it was meant."""

    model_config = ConfigDict(frozen=True)

    mm: float
    text: str
    unit: str
    signed: bool
    """Whether a + or a minus was typed; an unsigned dial reading may be on another turn."""


def unit_size_mm(unit: Unit, division_mm: float | None) -> float:
    """mm in one `unit`; Problem when divisions are used without a dial."""
    if unit != "div":
        return _SIZE_MM[unit]
    if division_mm is None:
        raise Problem(
            "Divisions mean nothing without a dial.",
            expected="Use mm, µm, in, thou or tenths, or pick the indicator first.",
        )
    return division_mm


def parse_length(text: str, *, unit: Unit = "mm", division_mm: float | None = None) -> Length:
    """Read one length.

    A bare number is in `unit`; `division_mm` is the value of one division of the dial in hand.
    Accepts decimals with a point or a comma, common fractions, either sign. Problem when the text
    is no length, when its unit is doubtful ("mil"), or when a comma could be either thing.
    """
    cleaned = " ".join(text.replace("\N{MINUS SIGN}", "-").replace("–", "-").lower().split())
    cleaned = cleaned.replace("\N{GREEK SMALL LETTER MU}", "µ")
    for sign, spelled in _VULGAR.items():
        cleaned = cleaned.replace(sign, f" {spelled}").strip()
        cleaned = cleaned.replace("- ", "-") if cleaned.startswith("- ") else cleaned
    if not cleaned:
        raise Problem("Nothing was typed.", expected=EXPECTED_LENGTH)
    match = _LENGTH.fullmatch(cleaned)
    if match is None:
        raise Problem(f"“{text.strip()}” is not a length.", expected=EXPECTED_LENGTH)
    size, name = _size(match["unit"], unit, division_mm, text)
    value = float(_value(match, text)) * size
    if match["sign"] == "-":
        value = -value
    if abs(value) > LONGEST_MM:
        raise Problem(
            f"“{text.strip()}” is {abs(value) / 1000:.0f} metres.", expected="Check the unit."
        )
    return Length(mm=value, text=text.strip(), unit=name, signed=bool(match["sign"]))


def _size(
    typed: str | None, default: Unit, division_mm: float | None, text: str
) -> tuple[float, str]:
    name = (typed or "").strip().rstrip(".").strip()
    if not name:
        return unit_size_mm(default, division_mm), default
    if name in ("mil", "mils"):
        raise Problem(
            "“mil” is a thousandth of an inch to some and a millimetre to others.",
            expected="Type thou or mm.",
        )
    if name in _LARGE_MM:
        return _LARGE_MM[name], name
    if name not in _NAMES:
        raise Problem(
            f"“{name}” in “{text.strip()}” is not a unit known here.",
            expected="Use mm, µm, in, thou, tenths or div.",
        )
    return unit_size_mm(_NAMES[name], division_mm), _NAMES[name]


def _value(match: re.Match[str], text: str) -> Fraction:
    if match["num"]:
        if int(match["den"]) == 0:
            raise Problem(f"“{text.strip()}” divides by zero.", expected=EXPECTED_LENGTH)
        return Fraction(int(match["whole"] or 0)) + Fraction(int(match["num"]), int(match["den"]))
    decimal: str = match["decimal"]
    if _GROUPED.fullmatch(decimal):
        raise Problem(
            f"“{decimal}” could be {decimal.replace(',', '.')} or {decimal.replace(',', '')}.",
            expected="Type it with a point, or without the comma.",
        )
    return Fraction(decimal.replace(",", ".").rstrip(".") or "0")
