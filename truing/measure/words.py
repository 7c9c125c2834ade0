"""How results are shown: every sentence and figure twice, in metric and in inch."""

from __future__ import annotations

import math
import re
from functools import lru_cache
from typing import Annotated, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict

MM_PER_INCH = 25.4
INCH_PER_FOOT = 12.0

Measure = Literal["length", "slope", "twist", "feed", "accel"]
"""length in mm; slope in mm/m (shown to inch readers in inches per foot); twist in mm/m for each
metre (inches per foot for each foot); feed in mm/min; accel in mm/s²."""

MINUS = "\N{MINUS SIGN}"


class Words(BaseModel):
    """One text in both systems; the reader's setting picks which is shown."""

    model_config = ConfigDict(frozen=True)

    metric: str
    inch: str

    def __add__(self, other: Words | str) -> Words:
        more = plain(other) if isinstance(other, str) else other
        return Words(metric=self.metric + more.metric, inch=self.inch + more.inch)

    def capital(self) -> Words:
        """With a capital at its beginning, the rest as it is."""
        return Words(metric=capital(self.metric), inch=capital(self.inch))

    def lower(self) -> Words:
        """Without a capital at its beginning, the rest as it is."""
        return Words(metric=lower(self.metric), inch=lower(self.inch))


def plain(text: str) -> Words:
    """Text that is the same in both systems."""
    return Words(metric=text, inch=text)


def capital(text: str) -> str:
    """The text with a capital at its beginning, the rest as it is."""
    return text[:1].upper() + text[1:]


def lower(text: str) -> str:
    """The text without a capital at its beginning, the rest as it is."""
    return text[:1].lower() + text[1:]


def say(template: str, **parts: Words | str | float) -> Words:
    """Fill a `str.format` template once for each system; lengths that stand in the template are
    told as `stated` does. A text goes in as it is: it may be what somebody called a thing."""
    metric = {k: v.metric if isinstance(v, Words) else str(v) for k, v in parts.items()}
    inch = {k: v.inch if isinstance(v, Words) else str(v) for k, v in parts.items()}
    return Words(metric=template.format(**metric), inch=stated(template).inch.format(**inch))


def goes(what: str, before: Words, after: Words) -> Words:
    """How far something is to go, as in “the needle goes from 0.2 mm to 0.3 mm”; where both read
    the same it is not told as a move."""

    def told(a: str, b: str) -> str:
        return f"{what} goes from {a} to {b}" if a != b else f"{what} stays at {a}, as it is read"

    return Words(metric=told(before.metric, after.metric), inch=told(before.inch, after.inch))


def join(parts: list[Words], separator: str = " ") -> Words:
    """Several texts as one."""
    return Words(
        metric=separator.join(p.metric for p in parts), inch=separator.join(p.inch for p in parts)
    )


def _decimals(resolution: float) -> int:
    """Decimals that show `resolution` without inventing more."""
    if resolution <= 0 or not math.isfinite(resolution):
        return 4
    return max(0, min(6, math.ceil(-math.log10(resolution) - 1e-9)))


def _number(value: float, decimals: int, signed: bool) -> str:
    text = f"{abs(value):.{decimals}f}"
    if float(text) == 0:
        return text
    return (MINUS if value < 0 else "+" if signed else "") + text


TO_INCH: dict[Measure, float] = {
    "length": 1 / MM_PER_INCH,
    # mm/m -> in/ft: a thousandth of the run, times 12 inches in a foot
    "slope": INCH_PER_FOOT / 1000,
    "twist": INCH_PER_FOOT / 1000 * INCH_PER_FOOT * MM_PER_INCH / 1000,
    "feed": 1 / MM_PER_INCH,
    "accel": 1 / MM_PER_INCH,
}
UNITS: dict[Measure, tuple[str, str]] = {
    "length": ("mm", "in"),
    "slope": ("mm/m", "in/ft"),
    "twist": ("mm/m per m", "in/ft per ft"),
    "feed": ("mm/min", "in/min"),
    "accel": ("mm/s²", "in/s²"),
}


def show(
    value: float,
    resolution: float,
    measure: Measure = "length",
    *,
    signed: bool = False,
    unit: bool = True,
) -> Words:
    """`value` (mm or mm/m) with the decimals its `resolution` (same unit) supports."""
    factor = TO_INCH[measure]
    names = UNITS[measure]
    metric = _number(value, _decimals(resolution), signed)
    inch = _number(value * factor, _decimals(resolution * factor), signed)
    if not unit:
        return Words(metric=metric, inch=inch)
    return Words(metric=f"{metric} {names[0]}", inch=f"{inch} {names[1]}")


def show_most(value: float, resolution: float) -> Words:
    """A length (mm) that something stays below: never rounded to less than it is."""
    return _rounded(value, resolution, 1)


def show_least(value: float, resolution: float) -> Words:
    """A length (mm) that something has to stay below: never rounded to more than it is."""
    return _rounded(value, resolution, -1)


def _rounded(value: float, resolution: float, side: int) -> Words:
    told = []
    for factor in (1.0, TO_INCH["length"]):
        digits = _decimals(resolution * factor)
        # a rounding error of the factor is no digit more
        whole = side * math.ceil(side * value * factor * 10**digits - 1e-9)
        told.append(_number(whole / 10**digits, digits, False))
    metric, inch = UNITS["length"]
    return Words(metric=f"{told[0]} {metric}", inch=f"{told[1]} {inch}")


_LENGTHS = re.compile(r"(\d+(?:\.\d+)?) mm\b( (?:in|over|across) a) metre|(\d+(?:\.\d+)?) mm\b")


def both(text: str) -> Words:
    """A text that was written in millimetres, for readers of either system: each length in inches
    to two figures, each “mm in a metre” as inches in a foot."""

    def inches(found: re.Match[str]) -> str:
        slope, over, length = found.groups()
        if slope:
            return f"{_two_figures(float(slope) * TO_INCH['slope'])} in{over} foot"
        return f"{_two_figures(float(length) / MM_PER_INCH)} in"

    return Words(metric=text, inch=_LENGTHS.sub(inches, text))


def _two_figures(value: float) -> str:
    digits = max(0, 1 - math.floor(math.log10(value))) if value > 0 else 0
    return f"{value:.{digits}f}"


_NUMBER = r"[+\N{MINUS SIGN}-]?\d+(?:\.\d+)?"
_READ_AS = {
    metric: (inch, TO_INCH[measure], 2 if TO_INCH[measure] > 0.02 else 3)
    for measure, (metric, inch) in UNITS.items()
}
"""Of each metric unit the inch one, what takes to it, and how many more decimals that asks for."""
_STATED = re.compile(
    rf"“[^”]*”|({_NUMBER}(?:(?: and | by | to | × ){_NUMBER})*) "
    rf"({'|'.join(map(re.escape, sorted(_READ_AS, key=len, reverse=True)))})(?![/²\w])"
)


@lru_cache(maxsize=2048)
def stated(text: str) -> Words:
    """A text with lengths, slopes and feeds as somebody stated them (a place along a travel, a
    size), for readers of either system: in inches as finely as they stand there in millimetres, and
    with no more digits than that takes. “84 by 60 mm” is two of them. What stands in
    quotation marks is somebody's own, and stays."""

    def inches(found: re.Match[str]) -> str:
        if not found[1]:
            return found[0]
        unit, factor, finer = _READ_AS[found[2]]
        numbers = re.sub(_NUMBER, lambda m: _as_stated(m[0], factor, finer), found[1])
        return f"{numbers} {unit}"

    return Words(metric=text, inch=_STATED.sub(inches, text) if "mm" in text else text)


def _as_stated(number: str, factor: float, finer: int) -> str:
    """A number of a metric unit in the inch one: a hundredth of an inch for a whole millimetre."""
    decimals = len(number.partition(".")[2]) + finer
    sign, digits = (number[0], number[1:]) if number[0] in f"+-{MINUS}" else ("", number)
    return sign + f"{float(digits) * factor:.{decimals}f}".rstrip("0").rstrip(".")


def _both_systems(value: object) -> object:
    return stated(value) if isinstance(value, str) else value


InBoth = Annotated[Words, BeforeValidator(_both_systems)]
"""Words; a text given for them is told in both systems, as `stated` does."""


def place(value_mm: float) -> str:
    """A coordinate as a label: whole millimetres where it is whole, with a true minus."""
    return f"{value_mm:g}".replace("-", MINUS)


def spot(x_mm: float, y_mm: float) -> Words:
    """A place on a surface, by its two coordinates."""
    return tick(x_mm) + ", " + stated(f"{place(y_mm)} mm")


def tick(value_mm: float) -> Words:
    """A coordinate on an axis that names its unit."""
    told = stated(f"{place(value_mm)} mm")
    return Words(metric=told.metric.removesuffix(" mm"), inch=told.inch.removesuffix(" in"))


def span(value_mm: float) -> Words:
    """A length of a machine part or an arm: to the millimetre, or the hundredth of an inch."""
    metric, inch = f"{round(value_mm)} mm", f"{round(value_mm / MM_PER_INCH, 2) or 0.0:.2f} in"
    return Words(metric=metric.replace("-", MINUS), inch=inch.replace("-", MINUS))


def last_digit(expanded: float) -> float:
    """The place value at which ±`expanded` and its value are both rounded.

    One significant figure of the uncertainty, two when it starts with a 1, so that rounding never
    changes it by more than a third.
    """
    if expanded <= 0 or not math.isfinite(expanded):
        return 1e-4
    exponent = math.floor(math.log10(expanded))
    leading = expanded / 10**exponent
    return float(10.0 ** (exponent - 1 if leading < 1.95 else exponent))


def show_estimate(
    value: float, expanded: float, measure: Measure, *, signed: bool = False
) -> Words:
    """`value ± expanded`, with no more digits than the uncertainty supports."""

    def one(v: float, big_u: float, name: str) -> str:
        d = _decimals(last_digit(big_u))
        return f"{_number(v, d, signed)} ± {_number(big_u, d, False)} {name}"

    f = TO_INCH[measure]
    names = UNITS[measure]
    return Words(metric=one(value, expanded, names[0]), inch=one(value * f, expanded * f, names[1]))


def show_limits(low: float, high: float, measure: Measure) -> Words:
    """A size that lies between two limits; the upper one alone where it may be nothing."""

    def one(factor: float, name: str) -> str:
        d = _decimals(last_digit((high - low) * factor))
        top = _number(high * factor, d, False)
        bottom = _number(low * factor, d, False)
        return f"at most {top} {name}" if low <= 0 else f"{bottom} to {top} {name}"

    names = UNITS[measure]
    return Words(metric=one(1.0, names[0]), inch=one(TO_INCH[measure], names[1]))


def exact_slope(mm_per_m: float) -> Words:
    """A stated slope with as many digits as it has, up to four decimals."""

    def trim(text: str) -> str:
        number, unit = text.split(" ", 1)
        return f"{number.rstrip('0').rstrip('.') if '.' in number else number} {unit}"

    full = show(mm_per_m, 1e-4, "slope")
    return Words(metric=trim(full.metric), inch=trim(full.inch))
