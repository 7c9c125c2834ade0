"""At what heights a board is cut, from its highest place down to its lowest and a skim below."""

from __future__ import annotations

import math

from truing.measure.problem import Problem


def levels(
    high_mm: float, low_mm: float, zero_mm: float, depth_mm: float, skim_mm: float
) -> list[float]:
    """Program heights Z of each level, highest first.

    `high_mm` and `low_mm` are the highest and the lowest place, `zero_mm` the height at which Z is
    zero (the spot, with the plate on it), all over one plane; even steps of at most `depth_mm`, and
    one last by `skim_mm` below the lowest place. Problem where a skim is no skim.
    """
    if depth_mm <= 0:
        raise Problem("A pass takes something off.", expected="Give a depth.", field="depth_mm")
    if not 0 < skim_mm <= depth_mm:
        raise Problem(
            f"A last skim of {skim_mm:g} mm is not between nothing and one pass ({depth_mm:g} mm).",
            expected="Make it thinner, or the passes deeper.",
            field="skim_mm",
        )
    rise = high_mm - low_mm
    # a rounding error is not a pass
    n = max(0, math.ceil(rise / depth_mm - 1e-9))
    steps = [high_mm - zero_mm - k * rise / n for k in range(1, n + 1)]
    return [*steps, low_mm - zero_mm - skim_mm]
