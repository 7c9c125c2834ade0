"""A piece that a machine cuts with all its errors: the cutter's middle is followed along the path
it is sent, slack, skew and scale included, and what the cutter leaves of the piece is measured."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from truing.checks.cutting import CORNERS, NAIL
from truing.checks.test_cut.setup import HOLE, CutStation, TestCutSetup
from truing.contract.readings import Reading
from truing.kit.instruments import Instrument
from truing.standin.hands import Answers
from truing.standin.seen import Seen, measured
from truing.standin.truth import Truth

Path = NDArray[np.float64]
"""Places of the cutter's middle, (n, 2) in mm."""
ROUND = 1440


def read(
    truth: Truth,
    setup: TestCutSetup,
    station: CutStation,
    instrument: Instrument,
    rng: np.random.Generator,
    readings: Sequence[Reading],
) -> Seen:
    """What eye, nail, ear and caliper say of the piece."""
    if station.key == "sound":
        loose = truth.turning.play_across_mm > 0.03
        return Seen(grade="chatters" if loose else "even")
    if station.key == "finish":
        return Seen(grade="part")
    if station.sort == "face":
        return Seen(grade=_face(truth, setup, station))
    if station.sort == "thickness":
        x, y = station.x_mm, station.y_mm
        right, rear = truth.travel.top_x_mm_per_m, truth.travel.top_y_mm_per_m
        left = 12.0 - (right * x + rear * y) / 1000
        return measured(left, instrument, rng, truth.noise_share)
    if station.sort == "hole":
        size = _hole(truth, setup, HOLE[station.key][0])
    else:
        size = _outline(truth, setup, station.tip)
    return measured(size, instrument, rng, truth.noise_share)


def _followed(truth: Truth, told: Path) -> Path:
    """Where the middle of the cutter really goes when it is sent along a path: each slide stands
    still until its slack is taken up, and the axes are neither square nor to scale."""
    slack = [
        max(0.0, sum(truth.slide(d).links_mm.values()) - truth.slide(d).compensated_mm)
        for d in ("left_right", "front_back")
    ]
    at = np.empty_like(told)
    for axis in (0, 1):
        # it begins where it was last moved to the plus side
        here = told[0, axis]
        for i, to in enumerate(told[:, axis]):
            here = min(max(here, to), to + slack[axis])
            at[i, axis] = here
    skew = truth.gantry.right_ahead_mm / (truth.gantry.right_x_mm - truth.gantry.left_x_mm)
    x, y = at[:, 0] * truth.gantry.scale_x, at[:, 1] * truth.gantry.scale_y
    drift = np.tan(truth.travel.plan_mrad / 1000)
    return np.column_stack([x * np.cos(skew) + y * drift, y + x * np.sin(skew)])


def _hole(truth: Truth, setup: TestCutSetup, angle_deg: float) -> float:
    """Between two jaws in a hole that was milled round twice: how far the cutter reached."""
    turn = np.linspace(0, 4 * np.pi, ROUND)
    turn = turn if setup.round == "ccw" else -turn
    r = (setup.hole_mm - setup.cutter_mm) / 2
    path = _followed(truth, r * np.column_stack([np.cos(turn), np.sin(turn)]))[ROUND // 2 :]
    n = np.array([np.cos(np.radians(angle_deg)), np.sin(np.radians(angle_deg))])
    out = path @ n
    return float(out.max() - out.min()) + setup.cutter_mm + truth.cutter_over_mm


def _outline(truth: Truth, setup: TestCutSetup, which: str) -> float:
    """A side or diagonal of the outline: its edges are a cutter's radius inside of where the
    middle went, and its corners are where two edges meet."""
    w, h, d = setup.width_mm, setup.depth_mm, setup.cutter_mm
    corners = [(sx * (w + d) / 2, sy * (h + d) / 2) for sx, sy in CORNERS.values()]
    ring = [*corners, *corners, corners[0]]
    legs = [np.linspace(a, b, 41) for a, b in pairwise(ring)]
    path = np.split(_followed(truth, np.vstack(legs)), len(legs))[4:]
    # each edge as a line along what was cut of it, front, right, rear, left; the ends, where slack
    # is taken up, left out
    inward = [(0, 1), (-1, 0), (0, -1), (1, 0)]
    edges = []
    for leg, n in zip(path, inward, strict=True):
        a, b = leg[8], leg[-4]
        along = (b - a) / np.linalg.norm(b - a)
        normal = np.array([-along[1], along[0]])
        normal *= np.sign(normal @ np.array(n))
        edges.append((a + normal * (d + truth.cutter_over_mm) / 2, along))
    front, right, rear, left = edges
    at = {
        "front left": _meet(front, left),
        "front right": _meet(front, right),
        "rear right": _meet(rear, right),
        "rear left": _meet(rear, left),
    }
    ends = {
        "d1": ("front left", "rear right"),
        "d2": ("front right", "rear left"),
        "front": ("front left", "front right"),
        "rear": ("rear left", "rear right"),
        "left": ("front left", "rear left"),
        "right": ("front right", "rear right"),
    }[which]
    return float(np.linalg.norm(at[ends[1]] - at[ends[0]]))


def _meet(one: tuple[Path, Path], other: tuple[Path, Path]) -> Path:
    """Where two lines cross."""
    (p, u), (q, v) = one, other
    s, _ = np.linalg.solve(np.column_stack([u, -v]), q - p)
    return np.asarray(p + s * u)


def _face(truth: Truth, setup: TestCutSetup, station: CutStation) -> str:
    """The step between passes, or the marks, of a disc that leans."""
    along, across = (0, 1) if station.feed == "x" else (1, 0)
    axis = truth.axis()
    lean = np.abs(axis[[along, across]] / axis[2])
    r, s = setup.face_mm / 2, setup.stepover_mm
    if station.tip == "marks":
        return "crossed" if lean[0] * 2 * r <= setup.seen_mm else "one_way"
    # the high rim of a pass over the surface of its neighbour, which reaches s less far
    rim = lean[1] * r
    over = lean[1] * (r - s) + lean[0] * np.sqrt(max(0.0, r * r - (r - s) ** 2))
    step = max(0.0, rim - over)
    fits = [key for key, (_, low, most) in NAIL.items() if low <= step <= most]
    return fits[-1] if fits else "stops"


ANSWERS: Answers = {}
