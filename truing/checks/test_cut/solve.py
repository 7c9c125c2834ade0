"""From the sizes of a piece to the errors that made it so: skew, scales, lost motion, the cutter.

A path of length p that is told becomes p·(1 + scale); a slide that is turned round loses its slack
on the way back, so that an outline comes out smaller by it and a hole as well; a cutter that is e
larger than stated takes e off an outline and adds e to a hole. With γ the skew, plus = the right
end of the beam ahead, or the front–back travel drifting to the right:

    width    = W + scale_x·(W + d) − b_x − e
    diagonal = √(W² + H²) + (W·δW + H·δH ± γ·W·H)/√(W² + H²), δ the sides' own errors
    hole, left to right           = D + scale_x·(D − d) − b_x + e
    hole, along a diagonal (G3)   = D + (scale_x + scale_y)/2·(D − d) + e
                                      ± [γ·(D − d)/2 + (b_x − b_y)/√2]

All of it is linear, so that one system gives each error with its doubt, or says which cannot be
told from one another by what was read.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from truing.checks.test_cut.setup import TestCutSetup

ERRORS = ("square", "scale_x", "scale_y", "lost_x", "lost_y", "cutter")
"""Skew and scales in mm per mm, the others in mm."""
SCALES = {"scale_x", "scale_y"}
USUAL_SCALE = 1e-3
"""What a scale that nobody read is taken to be off by at most."""


@dataclass(frozen=True)
class Made:
    """How one error follows from the lengths that were read: weights by station, and what the
    piece as programmed has of it already."""

    weights: dict[str, float]
    nominal: float
    per_scale: float = 0.0
    """What it would be wrong by, at most, for each mm per mm that the scales are off: 0 where they
    are solved for."""


def row(setup: TestCutSetup, station: str) -> tuple[float, list[float]]:
    """(length as programmed, what each error adds to it) of one length of the piece."""
    w, h, d = setup.width_mm, setup.depth_mm, setup.cutter_mm
    wide = np.array([0.0, w + d, 0.0, -1.0, 0.0, -1.0])
    deep = np.array([0.0, 0.0, h + d, 0.0, -1.0, -1.0])
    if station in ("front", "rear"):
        return w, wide.tolist()
    if station in ("left", "right"):
        return h, deep.tolist()
    if station in ("d1", "d2"):
        long = math.hypot(w, h)
        skew = np.array([w * h, 0.0, 0.0, 0.0, 0.0, 0.0])
        both = (w * wide + h * deep + (skew if station == "d1" else -skew)) / long
        return long, both.tolist()
    path = setup.hole_mm - d
    if station == "h0":
        return setup.hole_mm, [0.0, path, 0.0, -1.0, 0.0, 1.0]
    if station == "h90":
        return setup.hole_mm, [0.0, 0.0, path, 0.0, -1.0, 1.0]
    way = 1.0 if station == "h45" else -1.0
    turn = way if setup.round == "ccw" else -way
    slack = turn / math.sqrt(2)
    return setup.hole_mm, [way * path / 2, path / 2, path / 2, slack, -slack, 1.0]


def solved(setup: TestCutSetup, read: Sequence[str]) -> dict[str, Made]:
    """Each error that these lengths tell, by least squares; those that they do not tell are not
    there.

    A hole alone tells no scale: its slack is then told for scales that are right, and how much a
    wrong one would make of that is said.
    """
    found = _solved(setup, read, list(range(len(ERRORS))))
    if not found.keys() & SCALES:
        for error, made in _solved(setup, read, [0, 3, 4, 5]).items():
            found.setdefault(error, made)
    return found


def _solved(setup: TestCutSetup, read: Sequence[str], among: list[int]) -> dict[str, Made]:
    if not read:
        return {}
    rows = [row(setup, key) for key in read]
    a: NDArray[np.float64] = np.array([r for _, r in rows])
    nominal = np.array([n for n, _ in rows])
    # mm for all of them: an error over the piece's own size
    scale = np.array([max(setup.width_mm, setup.depth_mm)] * 3 + [1.0] * 3)[among]
    inverse = np.linalg.pinv(a[:, among] / scale, rcond=1e-9)
    told = inverse @ (a[:, among] / scale)
    found = {}
    for j, error in enumerate(ERRORS[i] for i in among):
        alone = np.zeros(len(among))
        alone[j] = 1.0
        if np.abs(told[j] - alone).max() > 1e-6:
            continue
        weights = inverse[j] / scale[j]
        found[error] = Made(
            weights={k: float(v) for k, v in zip(read, weights, strict=True) if abs(v) > 1e-15},
            nominal=float(weights @ nominal),
            per_scale=0.0 if 1 in among else float(np.abs(weights @ a[:, 1:3]).sum()),
        )
    return found


def left_over(setup: TestCutSetup, means: dict[str, float]) -> dict[str, float]:
    """What no errors of these sorts explain, by station (mm): a burr, a slip, a jaw askew."""
    keys = list(means)
    if not keys:
        return {}
    rows = [row(setup, key) for key in keys]
    a = np.array([r for _, r in rows])
    off = np.array([means[k] - n for k, (n, _) in zip(keys, rows, strict=True)])
    best = np.linalg.lstsq(a, off, rcond=1e-9)[0]
    return {k: float(v) for k, v in zip(keys, off - a @ best, strict=True)}
