"""What a step says is done on a body of this file's own, by its words alone: which end, which way,
until the needle stands where the words say. The machine must then be true."""

from __future__ import annotations

import re
from itertools import product
from typing import Any

import numpy as np
import pytest
from pydantic import ValidationError
from scipy.optimize import brentq

from tests.core.helpers import FINE, case_of, readings
from tests.core.rigid import Spindle
from truing.contract.move import Act, Move, Target
from truing.kit.instruments import Rule
from truing.machine import starting_point
from truing.machine.parts import GantryDrive, Head
from truing.measure.words import plain
from truing.registry import kind

FACE = re.compile(
    r"Stand the tip at (\S+) mm and tap the (\w+) end (toward|away from) it "
    r"until the needle goes from (\S+) mm to (\S+) mm\."
)
TOP = re.compile(
    r"Stand the tip at (\S+) and tap the top to the (\w+) with a soft mallet "
    r"until the needle goes from (\S+) mm to (\S+) mm\."
)


def number(text: str) -> float:
    return float(text.replace("−", "-").replace("+", ""))


def told(move: Any, pattern: re.Pattern[str]) -> tuple[str, ...]:
    [found] = [m for step in move.steps if (m := pattern.fullmatch(step.metric))]
    return found.groups()


# --- faces ----------------------------------------------------------------------------------------


def points(slope: float, turned: float, pivot: float) -> Any:
    """Where the face stands, toward the dial, at a place of the travel: a line that has been turned
    (rad) about a point on it."""
    at = np.arctan(slope / 1000) + turned
    height = pivot * slope / 1000
    return lambda x: 2.0 + height + (x - pivot) * np.tan(at)


LEVERS = (-90.0, -70.0, -20.0, 0.0, 35.0, 75.0)


@pytest.mark.parametrize("along", ["left_right", "front_back"])
@pytest.mark.parametrize(("slope", "pivot"), list(product((4.0, -4.0), LEVERS)))
def test_a_face_is_tapped_by_its_words_alone(slope: float, pivot: float, along: Any) -> None:
    core = kind("face_alignment")
    places = [-75.0, -30.0, 20.0, 75.0]
    how = core.setup_type(
        face_mm=160.0, places_mm=places, passes=1, pivot_mm=pivot, along=along, sort="fence"
    )
    before = points(slope, 0.0, pivot)
    seen = readings([(s.key, before(s.at_mm)) for s in core.stations(how)])
    [move] = core.advise(core.weigh(case_of(core, how, seen, FINE))).moves
    place, end, way, start, goal = told(move, FACE)
    at = number(place)
    assert before(at) == pytest.approx(number(start), abs=1e-3)
    edge = 80.0 if end in ("right", "rear") else -80.0
    # that end goes toward the tip or away from it until the needle says so
    by = brentq(lambda by: points(slope, by, pivot)(at) - number(goal), -0.02, 0.02)
    after = points(slope, by, pivot)
    assert (after(at) > before(at)) == (way == "toward")
    if abs(pivot) < 80:
        assert (after(edge) > before(edge)) == (way == "toward")
    assert (after(80.0) - after(-80.0)) / 0.16 == pytest.approx(0.0, abs=0.05)


# --- heads ----------------------------------------------------------------------------------------


@pytest.mark.parametrize("pivot", [0.0, 60.0, -60.0, 250.0])
@pytest.mark.parametrize("lean", [0.6, -0.6])
@pytest.mark.parametrize("axis", ["lean_x", "nod"])
def test_a_head_is_tapped_by_its_words_alone(axis: str, lean: float, pivot: float) -> None:
    core, sideways = kind("spindle_tram"), axis == "lean_x"
    along = {"pivot_x_mm": pivot} if sideways else {"pivot_y_mm": pivot}
    machine = starting_point("column_mill").model_copy(
        update={"head": Head(turns=True, nods=True, **along), "base": None}
    )
    body = Spindle().leaning(lean if sideways else 0.0, 0.0 if sideways else lean)
    how = core.setup_type(radius_mm=115.0, radius_u_mm=0.0, passes=1)
    hours = {"12": 12.0, "3": 3.0, "6": 6.0, "9": 9.0}
    seen = readings([(key, body.reading(h, 115.0) - 98.0) for key, h in hours.items()])
    case = core.weigh(case_of(core, how, seen, FINE, machine=machine))
    move = next(m for m in core.advise(case).moves if m.mechanism == "head_pivot")
    label, to, start, goal = told(move, TOP)
    hour = hours[label]
    axle = np.array([pivot if sideways else 0.0, 0.0 if sideways else pivot, 80.0])

    def turned(by: float) -> Spindle:
        return body.turned("y" if sideways else "x", by, axle)

    def needle(by: float) -> float:
        return turned(by).reading(hour, 115.0) - 98.0 - number(goal)

    assert needle(0.0) + number(goal) == pytest.approx(number(start), abs=1e-3)
    by = brentq(needle, -3.0, 3.0)
    up = turned(by).attitude @ np.array([0.0, 0.0, 1.0])
    was = body.attitude @ np.array([0.0, 0.0, 1.0])
    went = (up - was)[0 if sideways else 1]
    assert (
        ("right" if went > 0 else "left") == to
        if sideways
        else (("rear" if went > 0 else "front") == to)
    )
    assert up[0 if sideways else 1] * 1000 == pytest.approx(0.0, abs=0.02)


FRONT_REAR, LEFT_RIGHT = (("front", -1), ("rear", 1)), (("left", -1), ("right", 1))


# --- stops of a gantry ----------------------------------------------------------------------------


@pytest.mark.parametrize("homes", ["front", "rear"])
@pytest.mark.parametrize("ahead", [0.8, -0.8])
def test_the_stops_of_a_gantry_are_set_by_their_words_alone(ahead: float, homes: Any) -> None:
    """Four marks made by a beam whose right end is ahead of its left one by so much."""
    core = kind("gantry_square")
    machine = starting_point("gantry_router")
    drive = GantryDrive(left_x_mm=-400, right_x_mm=400, homes=homes)
    machine = machine.model_copy(update={"gantry_drive": drive, "control": "handwheels"})
    how = core.propose(machine).model_copy(update={"passes": 2})
    width, depth = how.width_mm, how.depth_mm

    def mark(x: float, y: float, right: float) -> np.ndarray:
        skew = right / 800
        return np.array([x * np.cos(skew), y + x * np.sin(skew)])

    def apart(right: float) -> list[tuple[str, float]]:
        corner = {f"{y} {x}": (sx, sy) for y, sy in FRONT_REAR for x, sx in LEFT_RIGHT}
        at = {n: mark(sx * width / 2, sy * depth / 2, right) for n, (sx, sy) in corner.items()}
        pairs = {"d1": ("front left", "rear right"), "d2": ("front right", "rear left")}
        pairs |= {"front": ("front left", "front right"), "rear": ("rear left", "rear right")}
        pairs |= {"left": ("front left", "rear left"), "right": ("front right", "rear right")}
        return [
            (s.key, float(np.linalg.norm(at[pairs[s.key][0]] - at[pairs[s.key][1]])))
            for s in core.stations(how)
        ]

    bar = Rule(repeatability_mm=0.01, resolution_mm=0.01, range_mm=3000)
    seen = readings([*apart(ahead), *apart(ahead)])
    case = core.weigh(case_of(core, how, seen, bar, machine=machine))
    [move] = core.advise(case).moves
    [step] = [
        m
        for s in move.steps
        if (m := re.fullmatch(r"Set the (\w+) stop (\S+) mm further to the (\w+)\.", s.metric))
    ]
    went = number(step[2]) * (1 if step[3] == "rear" else -1) * (1 if step[1] == "right" else -1)
    assert ahead + went == pytest.approx(0.0, abs=0.06)


# --- a move that contradicts itself ---------------------------------------------------------------


def test_words_and_targets_that_disagree_make_no_move() -> None:
    target = Target(
        station="75",
        label="75 mm",
        from_mm=0.0,
        to_mm=0.04,
        words=plain("the needle goes"),
        quantity="face",
        per_mm=13.0,
        lever_mm=75.0,
        pushed_in=True,
    )
    act = Act.at_tip(("left", "right"), target)
    assert (act.end, act.way) == ("the right end", "toward")
    common: dict[str, Any] = {"key": "turn", "mechanism": "vice", "title": plain("Turn")}
    common |= {"predicted": [], "takes": []}
    Move(steps=[act.words], acts=[act], **common)
    with pytest.raises(ValidationError, match="No step says"):
        Move(steps=[plain("Tap it.")], acts=[act], **common)
    wrong = act.model_copy(update={"way": "away"})
    with pytest.raises(ValidationError, match="goes the other way"):
        Move(steps=[wrong.words], acts=[wrong], **common)
