"""Jobs against a machine with errors that really cuts the part, and against what people may do with
the answers."""

from __future__ import annotations

import itertools
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from tests.core.erring import Erring, found_by, measured
from tests.core.jobbing import (
    FORMS,
    Errors,
    cut,
    features,
    good,
    machine_of,
    names_of,
    one,
    shared,
    some_errors,
)
from truing.jobs import FEATURE_TYPES, Ground, Job, fit, ground
from truing.jobs.features import (
    Engraving,
    Face,
    Hole,
    Outline,
    Slot,
    SmallCutter,
    Thickness,
    TwoSides,
    Wall,
)
from truing.jobs.first import fix_first

ALONE: list[tuple[Any, Errors, str, float]] = [
    (Face(flat_tol_mm=1), {"lean_x": 0.4}, "flat", 0.02),
    (Face(flat_tol_mm=1), {"lean_y": 0.4}, "flat", 0.02),
    (Face(flat_tol_mm=1), {"lean_x": 0.3, "lean_y": -0.5}, "flat", 0.02),
    (Face(flat_tol_mm=1), {"slope_x": 0.3, "slope_y": 0.2}, "flat", 0.03),
    (Face(flat_tol_mm=1, feed="y", x_mm=70), {"lean_x": 0.3, "slope_x": -0.2}, "flat", 0.02),
    (Face(flat_tol_mm=1, y_mm=30), {"lean_x": 0.4, "lean_y": 0.1}, "flat", 0.02),
    (Face(flat_tol_mm=1, y_mm=30), {"lean_x": 0.05, "lean_y": 0.3}, "flat", 0.02),
    (Face(flat_tol_mm=1, y_mm=30), {"flat": 0.03}, "flat", 0.01),
    (Thickness(thick_tol_mm=1, y_mm=30), {"slope_x": 0.3, "lean_x": 0.3}, "thick", 0.02),
    (Wall(upright_tol_mm=1), {"lean_y": 0.5}, "upright", 0.01),
    (Wall(upright_tol_mm=1, flute_mm=6), {"lean_y": 0.5, "rise_head_y": 0.5}, "upright", 0.1),
    (Wall(upright_tol_mm=1, runs="y"), {"rise_head_x": -0.5}, "upright", 0.01),
    (Wall(upright_tol_mm=1, level_mm=1), {"slope_y": 0.5}, "upright", 0.01),
    (Wall(along_tol_mm=1), {"jaw_vice": -0.6}, "along", 0.01),
    (Hole(upright_tol_mm=1), {"rise_head_x": 0.4}, "upright", 0.01),
    (Hole(upright_tol_mm=1), {"slope_y": -0.4}, "upright", 0.01),
    (Hole(place_tol_mm=1), {"lost_y": 0.05}, "place", 0.01),
    (Hole(place_tol_mm=1, approach="one"), {"lost_y": 0.05, "shake": 0.01}, "place", 0.01),
    (Hole(size_tol_mm=1, cutter="fluted"), {"tir": 0.02, "lean_x": 0.4}, "size", 0.01),
    (Hole(size_tol_mm=1, cutter="fluted"), {"slope_x": 0.4, "rise_head_x": 0.2}, "size", 0.01),
    (Slot(width_tol_mm=1), {"tir": 0.03, "play_x": 0.01}, "width", 0.01),
    (Slot(width_tol_mm=1, runs="y", ways="both"), {"lost_x": 0.03}, "width", 0.01),
    (Outline(square_tol_mm=1), {"square": 0.7}, "square", 0.01),
    (Outline(size_tol_mm=1), {"scale_x": 0.3, "lost_x": 0.02}, "size_x", 0.01),
    (Outline(size_tol_mm=1), {"scale_y": -0.3}, "size_y", 0.01),
    (Engraving(line_tol_mm=1), {"slope_x": 0.5, "tir": 0.02}, "line", 0.01),
    (Engraving(line_tol_mm=1), {"slope_x": 0.5, "slope_y": -0.3}, "there", 0.01),
    (SmallCutter(), {"tir": 0.004}, "load", 0.01),
    (SmallCutter(teeth=3), {"tir": 0.03}, "load", 0.02),
    (TwoSides(match_tol_mm=1), {"jaw_vice": 0.3, "lean_y": 0.4}, "match", 0.01),
]


@pytest.mark.parametrize(
    ("feature", "errors", "key", "near"), ALONE, ids=lambda v: str(v)[:40] if v else ""
)
def test_what_an_error_does_is_what_the_erring_machine_cuts(
    feature: Any, errors: Errors, key: str, near: float
) -> None:
    machine = machine_of()
    found = one(feature, machine, errors)[key]
    real = cut(feature, machine, errors)[key]
    assert real > 0
    assert found.most == pytest.approx(real, rel=near)
    # what may be the table's own need not reach the face
    assert found.least == pytest.approx(0 if "flat" in errors else found.most, rel=1e-6)


def test_a_hole_follows_what_takes_the_tool_down() -> None:
    mill = machine_of("round_column")
    both = {"rise_head_x": 0.5, "lean_x": 0.2}
    told = {n: (both.get(n, 0.0), 0.0) for n in names_of(mill) if not n.startswith("rise_quill")}
    for by, expected in (("head", 0.5), ("quill", 0.2)):
        hole = Hole(depth_mm=40, by=by, upright_tol_mm=0.1)
        found = shared(Job(name="j", features=[hole]), mill, told).features[0].demands[0]
        real = measured(Erring(both), hole, by, False)["upright"]
        assert found.most == pytest.approx(expected * 0.04) == pytest.approx(real)
    # a cutter that a quill takes down along its spindle opens no mouth
    plunged = Hole(depth_mm=40, by="quill", cutter="fluted", size_tol_mm=0.1)
    found = shared(Job(name="j", features=[plunged]), mill, told).features[0].demands[0]
    assert found.most == 0 == measured(Erring(both), plunged, "quill", False)["size"]


# --- together, and with their uncertainty ---------------------------------------------------------


@settings(max_examples=150, deadline=None)
@given(features(), st.sampled_from(FORMS), st.integers(0, 2**32 - 1))
def test_no_part_comes_out_worse_than_foretold(feature: Any, form: str, seed: int) -> None:
    machine, rng = machine_of(form), np.random.default_rng(seed)
    errors = some_errors(machine, rng)
    # read wrongly by as much as U allows, each to one side or the other
    told = {}
    for name, (value, expanded) in found_by(Erring(errors), 0.2).items():
        told[name] = (value + float(rng.choice([-1, 1])) * expanded, expanded * (1 + 1e-9))
    job = Job(name="one", features=[feature])
    found = shared(job, machine, told).features[0]
    real = cut(feature, machine, errors)
    for d in found.demands:
        assert real[d.demand.key] <= d.most * (1 + 1e-3) + 1e-6, d.demand.title
        assert d.answer != "fits" or real[d.demand.key] <= d.demand.tolerance * (1 + 1e-3)


# --- what is typed --------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("kind", "typed", "said"),
    [
        ("face", {}, "how far it may be off"),
        ("face", {"flat_tol_mm": 0}, "greater than 0"),
        ("face", {"flat_tol_mm": "0.02 furlongs"}, "furlongs"),
        ("face", {"flat_tol_mm": 0.1, "stepover_mm": 50}, "strip would stay"),
        ("wall", {"upright_tol_mm": 0.1, "flute_mm": 2}, "shank would rub"),
        ("wall", {"along_tol_mm": 0.1, "held": "table"}, "against which"),
        ("small_cutter", {"over": 0}, "greater than 0"),
        ("engraving", {"line_tol_mm": "nan"}, "nan"),
    ],
)
def test_what_cannot_be_is_refused_at_its_feature(kind: str, typed: Any, said: str) -> None:
    with pytest.raises(ValidationError) as refused:
        Job.model_validate({"name": "j", "features": [{"kind": kind, **typed}]})
    error = refused.value.errors()[0]
    assert said.lower() in str(error["msg"]).lower() + str(error["input"]).lower()
    assert error["loc"][:2] == ("features", 0)


def test_two_hundred_features_are_taken_and_no_more() -> None:
    many = [Hole(place_tol_mm=0.1)] * 200
    machine = machine_of()
    found = shared(Job(name="j", features=many), machine, good(machine))
    assert len(found.features) == 200
    assert len(fix_first(found).remedies) <= 5
    with pytest.raises(ValidationError, match="200"):
        Job(name="j", features=[*many, many[0]])


def test_inches_are_taken_and_mean_the_same() -> None:
    typed = {"kind": "hole", "depth_mm": "1 in", "place_tol_mm": '0.002"'}
    job = Job.model_validate({"name": "j", "features": [typed]})
    hole = job.features[0]
    assert isinstance(hole, Hole)
    assert (hole.depth_mm, hole.place_tol_mm) == pytest.approx((25.4, 0.0508))


def test_every_kind_of_feature_asks_something_on_every_form() -> None:
    for form, kind in itertools.product(FORMS, FEATURE_TYPES):
        machine = machine_of(form)
        extra = next((n for n in FEATURE_TYPES[kind].model_fields if n.endswith("_tol_mm")), None)
        feature = FEATURE_TYPES[kind](**({extra: 0.1} if extra else {}))
        job = Job.model_validate({"name": "j", "features": [feature.model_dump()]})
        here: Ground = ground(machine, [])
        found = fit(job, here).features[0]
        assert not found.outside, (form, kind, found.outside)
        assert found.demands
        assert all(d.shares for d in found.demands)
        assert found.answer == "unknown"
