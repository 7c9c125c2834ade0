"""What being out does to a part, against surfaces swept by a tilted cutter, point by point."""

from __future__ import annotations

import numpy as np
import pytest

from truing.effects.reach import hollow_mm, over_mm, step_mm


def swept(lean_along: float, lean_across: float, cutter: float, passes: list[float]) -> np.ndarray:
    """Lowest point of the rim over every place across the feed, with the middle of the cutter at
    each of `passes`; leans in mm/m. The trailing half cuts last, so the lower of the two counts."""
    phi = np.linspace(0, 2 * np.pi, 400_001)
    across, along = cutter / 2 * np.cos(phi), cutter / 2 * np.sin(phi)
    z = (lean_across * across + lean_along * along) / 1000
    places = np.linspace(-cutter, cutter, 16_001)
    surface = np.full(len(places), np.inf)
    for middle in passes:
        at = np.round((across + middle + cutter) / (2 * cutter) * 16_000).astype(int)
        kept = (at >= 0) & (at <= 16_000)
        np.minimum.at(surface, at[kept], z[kept])
    return surface


@pytest.mark.parametrize(("lean", "cutter"), [(0.1, 50.0), (-0.4, 50.0), (0.25, 16.0)])
def test_a_cutter_that_leans_along_its_feed_leaves_a_hollow(lean: float, cutter: float) -> None:
    surface = swept(lean, 0.0, cutter, [0.0])
    cut = surface[np.isfinite(surface)]
    assert hollow_mm(lean, cutter) == pytest.approx(float(cut.max() - cut.min()), rel=0.05)


@pytest.mark.parametrize(("lean", "stepover"), [(0.1, 20.0), (-0.3, 12.0)])
def test_a_cutter_that_leans_across_its_feed_leaves_steps(lean: float, stepover: float) -> None:
    surface = swept(0.0, lean, 50.0, [0.0, stepover])
    jumps = np.abs(np.diff(surface[np.isfinite(surface)]))
    assert step_mm(lean, stepover) == pytest.approx(float(jumps.max()), rel=0.02)


def test_a_hole_wanders_by_the_lean_of_the_quill() -> None:
    top, bottom = np.array([0.0, 0.0, 0.0]), np.array([0.3, 0.0, -1000.0]) * 0.04
    assert over_mm(-0.3, 40) == pytest.approx(float(abs(bottom - top)[0]))
