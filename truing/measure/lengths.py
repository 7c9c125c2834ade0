"""Lengths as people type them, one by one or several in a row."""

from __future__ import annotations

import re
import unicodedata
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
    **dict.fromkeys(("mm", "mms", "millimetre", "millimetres", "millimeter", "millimeters"), "mm"),
    **dict.fromkeys(("µm", "um", "µ", "micron", "microns", "micrometre", "micrometres"), "µm"),
    **dict.fromkeys(("in", "ins", "inch", "inches", '"'), "in"),
    **dict.fromkeys(("thou", "thous", "thousandth", "thousandths"), "thou"),
    **dict.fromkeys(("tenth", "tenths"), "tenths"),
    **dict.fromkeys(("div", "divs", "division", "divisions"), "div"),
}
_LARGE_MM = {"cm": 10.0, "m": 1000.0}
_TURNS = ("turn", "turns", "rev", "revs", "revolution", "revolutions")

_SIGNS = {
    **dict.fromkeys("\N{MINUS SIGN}\N{HYPHEN}\N{NON-BREAKING HYPHEN}\N{FIGURE DASH}", "-"),
    **dict.fromkeys("\N{EN DASH}\N{EM DASH}\N{HORIZONTAL BAR}\N{SMALL HYPHEN-MINUS}", "-"),
    **dict.fromkeys("\N{SUPERSCRIPT MINUS}\N{FULLWIDTH HYPHEN-MINUS}\N{SOFT HYPHEN}", "-"),
    **dict.fromkeys("\N{FRACTION SLASH}\N{DIVISION SLASH}\N{FULLWIDTH SOLIDUS}", "/"),
    **dict.fromkeys("\N{LEFT DOUBLE QUOTATION MARK}\N{RIGHT DOUBLE QUOTATION MARK}", '"'),
    **dict.fromkeys("\N{DOUBLE HIGH-REVERSED-9 QUOTATION MARK}\N{DOUBLE PRIME}", '"'),
    **dict.fromkeys("\N{DOUBLE LOW-9 QUOTATION MARK}\N{MODIFIER LETTER DOUBLE PRIME}", '"'),
    **dict.fromkeys("\N{REVERSED DOUBLE PRIME}\N{FULLWIDTH QUOTATION MARK}", '"'),
    **dict.fromkeys("\N{LEFT SINGLE QUOTATION MARK}\N{RIGHT SINGLE QUOTATION MARK}", "'"),
    **dict.fromkeys("\N{PRIME}\N{MODIFIER LETTER PRIME}\N{REVERSED PRIME}\N{ACUTE ACCENT}", "'"),
    "\N{FULLWIDTH PLUS SIGN}": "+",
    "\N{GREEK SMALL LETTER MU}": "µ",
}

_COUNTS = {
    **dict.fromkeys(("half", "half a", "half of a", "a half", "half an", "half of an"), "1/2"),
    **dict.fromkeys(("quarter", "a quarter", "quarter of a", "a quarter of a"), "1/4"),
    **dict.fromkeys(("quarter of an", "a quarter of an", "quarter a"), "1/4"),
    **dict.fromkeys(("three quarters", "three quarters of a", "three quarters of an"), "3/4"),
    **dict.fromkeys(("a", "an", "one"), "1"),
}
_DECIMAL = r"(?:\d[\d.,]*|[.,]\d[\d.,]*)(?:e[+-]?\d{1,2}(?!\d))?"
_FRACTION = r"(?:\d+[ -]+)?\d+ ?/ ?\d+"
_LENGTH = re.compile(
    rf"(?P<sign>[+-]?) ?(?P<number>{_FRACTION}|{_DECIMAL}) ?(?P<unit>[^\d\s.,+-].*)?", re.ASCII
)
_SPELLED = re.compile(rf"(?P<sign>[+-]?) ?(?P<count>{'|'.join(_COUNTS)}) (?P<unit>[a-zµ]+)")
_TURNED = re.compile(
    rf"(?P<sign>[+-]?) ?(?P<turns>{_FRACTION}|\d+) ?(?:{'|'.join(_TURNS)})\.?"
    r"(?:(?: and| ?,| ?\+)? (?P<rest>[^+-].*))?"
)
_GROUPED = re.compile(r"[1-9]\d{0,2},\d{3}")
_GROUPS = re.compile(r"[1-9]\d{0,2}(?:,\d{3})+|[1-9]\d{0,2}(?:\.\d{3})+")

LONGEST_MM = 100_000.0
"""Nothing on a hobby machine is longer; more is a slip of the keys or of the unit."""
LONGEST_TEXT = 60
LONGEST_LIST = 4000

EXPECTED_LENGTH = "Type a number with its unit, for example 0.07 mm, 7 div, 1.5 thou or 1/64 in."


class Length(BaseModel):
    """A length read from text: `mm` for the sums, `text` and `unit` as it was meant."""

    model_config = ConfigDict(frozen=True)

    mm: float
    text: str
    unit: str
    signed: bool
    """Whether a + or a minus was typed; an unsigned dial reading may be on another turn."""
    bare: bool = False
    """Whether it was typed without a unit."""


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


def normal(text: str) -> str:
    """The text with one sort of minus, quote, slash, space and digit, fractions spelt out, in small
    letters: what phones and spreadsheets make of them differs."""
    found = []
    for sign in "".join(_SIGNS.get(c, c) for c in text):
        spelt = unicodedata.normalize("NFKC", sign)
        vulgar = "\N{FRACTION SLASH}" in spelt
        found.append(f" {spelt} ".replace("\N{FRACTION SLASH}", "/") if vulgar else spelt)
    # compatibility forms bring signs of their own, such as the Greek mu
    flat = "".join(_SIGNS.get(c, c) for c in "".join(found)).replace("''", '"').lower()
    return re.sub(r"^([+-]) (?=[\d.,])", r"\1", " ".join(flat.split()))


def parse_length(
    text: str,
    *,
    unit: Unit = "mm",
    division_mm: float | None = None,
    turn_mm: float | None = None,
) -> Length:
    """Read one length.

    A bare number is in `unit`; `division_mm` and `turn_mm` are the value of one division and of one
    turn of the dial in hand. Accepts decimals with a point or a comma, powers of ten (5e-4), common
    fractions, "half a thou", "1 turn 5 div", either sign. Problem when the text is no length, when
    its unit is doubtful ("mil"), or when a comma could be either thing.
    """
    cleaned = normal(text[: LONGEST_TEXT + 1])
    if not cleaned:
        raise Problem("Nothing was typed.", expected=EXPECTED_LENGTH)
    said = _said(text)
    if len(text.strip()) > LONGEST_TEXT:
        raise Problem(f"“{said}” is not a length.", expected=EXPECTED_LENGTH)
    if turned := _TURNED.fullmatch(cleaned):
        return _turned(turned, text, division_mm, turn_mm)
    if spelled := _SPELLED.fullmatch(cleaned):
        cleaned = f"{spelled['sign']}{_COUNTS[spelled['count']]} {spelled['unit']}"
    match = _LENGTH.fullmatch(cleaned)
    if match is None:
        raise Problem(f"“{said}” is not a length.", expected=EXPECTED_LENGTH)
    name = (match["unit"] or "").strip().rstrip(".").strip()
    size, meant = _size(name, unit, division_mm, said)
    value = float(_value(match["number"], said)) * size * (-1 if match["sign"] == "-" else 1)
    if abs(value) > LONGEST_MM:
        raise Problem(f"“{said}” is {abs(value) / 1000:.0f} metres.", expected="Check the unit.")
    return Length(
        mm=value, text=text.strip(), unit=meant, signed=bool(match["sign"]), bare=not name
    )


def parse_lengths(text: str) -> list[float]:
    """Several lengths in mm, with commas, semicolons or spaces between; bare ones take the unit of
    the last. Problem when commas could be decimal commas as well as separators."""
    if len(text) > LONGEST_LIST:
        raise Problem("That is too long for a list.", expected="Give the lengths one by one.")
    flat = normal(text)
    ways = [parts for parts in _splits(flat) if all(_readable(part) for part in parts)]
    if not ways:
        # told for the first that cannot be read
        ways = [[p.strip() for p in re.split(r"[;,]", flat) if p.strip()]]
    if len(ways) > 1:
        raise Problem(
            f"“{_said(text)}” could be {' and '.join(ways[0])}, or {' and '.join(ways[1])}.",
            expected="Put semicolons between them, and write decimals with a point.",
        )
    return _in_one_unit(ways[0], text)


def _splits(flat: str) -> list[list[str]]:
    """The ways in which a text can be cut into lengths."""
    if not flat:
        return [[]]
    if ";" in flat:
        return [[p.strip() for p in flat.split(";") if p.strip()]]
    by_commas = [p.strip() for p in flat.split(",") if p.strip()]
    # commas inside of numbers: then something else stands between them
    body, unit = _trailing_unit(flat)
    words = [w.rstrip(",") for w in body.split()] if "/" not in flat else [body]
    with_unit = [*words[:-1], f"{words[-1]} {unit}".strip()] if words else []
    if any(_GROUPED.fullmatch(w) for w in words):
        doubtful = next(w for w in words if _GROUPED.fullmatch(w))
        raise Problem(
            f"“{doubtful}” could be one number or two.",
            expected="Put semicolons between numbers, and write decimals with a point.",
        )
    ways = [way for way in (with_unit, by_commas) if way]
    return ways[:1] if len(ways) == 2 and ways[0] == ways[1] else ways


def _trailing_unit(flat: str) -> tuple[str, str]:
    match = re.fullmatch(r"(.*[\d.,]) ?([a-zµ\"]+\.?)", flat)
    return (match[1], match[2]) if match else (flat, "")


def _readable(part: str) -> bool:
    try:
        parse_length(part)
    except Problem:
        return False
    return True


def _in_one_unit(parts: list[str], text: str) -> list[float]:
    if not parts:
        return []
    last = parts[-1]
    found = [parse_length(p) for p in parts]
    bare = [f.bare for f in found]
    if (bare[-1] and not all(bare)) or (any(bare) and not all(bare[:-1])):
        raise Problem(
            f"Some of “{_said(text)}” have a unit and some have none.",
            expected="Give a unit to each, or only to the last.",
        )
    if all(bare) or not any(bare):
        return [f.mm for f in found]
    unit = re.sub(r"^[\d\s.,/+-]+(?:e[+-]?\d+)?", "", last)
    return [*(parse_length(f"{p} {unit}").mm for p in parts[:-1]), found[-1].mm]


def _said(text: str) -> str:
    short = text.strip()
    return short if len(short) <= LONGEST_TEXT else f"{short[:LONGEST_TEXT]}…"


def _turned(
    match: re.Match[str], text: str, division_mm: float | None, turn_mm: float | None
) -> Length:
    if turn_mm is None:
        raise Problem(
            "Turns mean nothing without a dial that has a needle.",
            expected="Use mm, µm, in, thou or tenths, or pick the dial first.",
        )
    value = float(_value(match["turns"], _said(text))) * turn_mm
    if match["rest"]:
        rest = parse_length(match["rest"], unit="div", division_mm=division_mm)
        value += rest.mm
    value *= -1 if match["sign"] == "-" else 1
    # whoever counted the turns has said which one it is
    return Length(mm=value, text=text.strip(), unit="div", signed=True)


def _size(name: str, default: Unit, division_mm: float | None, said: str) -> tuple[float, str]:
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
            f"“{name}” in “{said}” is not a unit known here.",
            expected="Use mm, µm, in, thou, tenths or div.",
        )
    return unit_size_mm(_NAMES[name], division_mm), _NAMES[name]


def _value(number: str, said: str) -> Fraction:
    if "/" in number:
        whole, num, den = re.fullmatch(r"(?:(\d+)[ -]+)?(\d+) ?/ ?(\d+)", number).groups()  # type: ignore[union-attr]
        if int(den) == 0:
            raise Problem(f"“{said}” divides by zero.", expected=EXPECTED_LENGTH)
        return Fraction(int(whole or 0)) + Fraction(int(num), int(den))
    decimal, _, power = number.partition("e")
    return Fraction(_pointed(decimal, said)) * Fraction(10) ** int(power or 0)


def _pointed(decimal: str, said: str) -> str:
    """A decimal with a point and without groups. Problem when its commas or points fit neither, or
    either."""
    if _GROUPED.fullmatch(decimal):
        raise Problem(
            f"“{decimal}” could be {decimal.replace(',', '.')} or {decimal.replace(',', '')}.",
            expected="Type it with a point, or without the comma.",
        )
    marks = "".join(c for c in decimal if c in ".,")
    if len(marks) > 1:
        # the last mark is the decimal one, unless all are the same: then they group thousands
        same = marks == marks[0] * len(marks)
        whole, _, rest = (decimal, "", "") if same else decimal.rpartition(marks[-1])
        if not _GROUPS.fullmatch(whole):
            raise Problem(f"“{said}” is not a length.", expected=EXPECTED_LENGTH)
        decimal = f"{whole.replace(marks[0], '')}.{rest}"
    plain = decimal.replace(",", ".").rstrip(".")
    return f"0{plain}" if plain.startswith(".") else plain or "0"
