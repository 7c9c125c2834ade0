"""Sketches: what is drawn to be done is what the simulated machine would take as an improvement."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from tests.core.cases import CASES, Case
from truing.drawing.sketches import SketchFigure
from truing.machine import FORM_TITLES, starting_point
from truing.moves.sheet import move_sheet
from truing.registry import kind, registry
from truing.standin.apply import apply
from truing.standin.evening import one_round
from truing.standin.truth import Truth

SKETCHED = (
    "spindle_tram",
    "column_turn",
    "face_alignment",
    "travel_square",
    "table_travel",
    "beam_travel",
    "gantry_level",
    "gantry_square",
)


def points(figure: SketchFigure) -> list[Any]:
    found = [p for line in figure.lines for p in line.points]
    found += [p for d in figure.dials for p in (d.base, d.tip)]
    found += [b.at for b in figure.bolts]
    return found + (figure.arrow.points if figure.arrow else [])


@pytest.mark.parametrize("key", SKETCHED)
def test_every_way_of_reading_is_drawn_on_every_machine_that_it_suits(key: str) -> None:
    core, drawn = kind(key), 0
    for form in FORM_TITLES:
        machine = starting_point(form)
        if not core.suits(machine):
            assert core.sketches(machine) == []
            continue
        found = core.sketches(machine)
        ways = len({w for w in core.takes_by_way() if w})
        assert found
        if key == "spindle_tram":
            assert len(found) == ways
        for figure in found:
            drawn += 1
            assert figure.form
            assert figure.shows.endswith(".")
            for p in points(figure):
                assert figure.low.u <= p.u <= figure.high.u
                assert figure.low.v <= p.v <= figure.high.v
    assert drawn


def test_a_dial_is_drawn_where_it_is_read() -> None:
    mill = starting_point("column_mill")
    tram = kind("spindle_tram")
    [swing] = [f for f in tram.sketches(mill) if "dial over the table" in f.title.metric]
    [dial] = swing.dials
    # over the table, a swing's radius from the spindle
    assert (dial.tip.u, dial.tip.v) == (tram.example(mill).radius_mm, 0.0)
    square = kind("travel_square")
    for tip, side in (("plus", 1), ("minus", -1)):
        how = square.propose(mill).model_copy(update={"tip": tip})
        [dial] = square.sketch(how, mill).dials
        assert np.sign(dial.tip.u - dial.base.u) == side
    level = kind("gantry_level")
    router = starting_point("gantry_router")
    how = level.propose(router)
    assert [d.tip.u for d in level.sketch(how, router).dials] == how.places_mm


# --- moves ----------------------------------------------------------------------------------------


def way(figure: SketchFigure) -> tuple[float, float]:
    """Which way the arrow goes in its view."""
    assert figure.arrow is not None
    first, last = figure.arrow.points[0], figure.arrow.points[-1]
    return last.u - first.u, last.v - first.v


def rising(truth: Truth) -> Any:
    return truth.rising("head")


def seen(figure: SketchFigure, case: Case, before: Truth, after: Truth, how: Any) -> float:
    """How far what the arrow stands for really went along it, on the simulated machine."""
    du, dv = way(figure)
    axis = 0 if figure.view == "front" else 1
    if case.kind in ("spindle_tram", "travel_square"):
        upright = Truth.axis if case.kind == "spindle_tram" else rising
        top = (upright(after) - upright(before))[axis]
        if abs(du) > abs(dv):
            return float(top * np.sign(du))
        # one side of the foot goes up: the top goes to the other
        middle = sum(b.at.u for b in figure.bolts) / len(figure.bolts)
        assert figure.arrow is not None
        return float(-top * np.sign(figure.arrow.points[0].u - middle))
    if case.kind == "gantry_level":

        def lean(t: Truth) -> float:
            return t.gantry.right_up_mm - t.gantry.left_up_mm

        return float((lean(after) - lean(before)) * np.sign(dv))
    if case.kind == "gantry_square":
        ahead = after.gantry.right_ahead_mm - before.gantry.right_ahead_mm
        return float(ahead * np.sign(dv))
    face = how.subject.key
    end = figure.arrow.points[-1].u * 0.9
    long = how.face_mm
    nearer = after.face(face).nearer_mm(end, long) - before.face(face).nearer_mm(end, long)
    # from the dial's side toward the face: away from the dial
    return float(-nearer)


MOVED = [
    c
    for c in CASES
    if (
        c.kind in SKETCHED
        and c.mends
        and c.name
        in ("swing", "micro mill", "touches", "a bar with two points", "a face", "a vice")
    )
    or c.name in ("a square turned about", "front to back, tip to the front")
]


@pytest.mark.parametrize("case", MOVED, ids=[f"{c.kind}: {c.name}" for c in MOVED])
def test_the_arrow_goes_the_way_that_the_move_takes_it(case: Case) -> None:
    core, how, drawn = kind(case.kind), case.setup(), 0
    for seed in range(12):
        rng = np.random.default_rng(seed)
        truth = case.truth(rng, case.machine, how)
        stated = case.case()
        read = one_round(core, how, truth, case.instrument, rng)
        weighed = core.weigh(stated.but(readings=read))
        for move in core.advise(weighed).moves[:1]:
            if move.needs is not None or move.sketch is None or move.sketch.arrow is None:
                continue
            drawn += 1
            after = apply(case.kind, move, truth, case.machine, rng)
            assert seen(move.sketch, case, truth, after, how) > 0, move.title.metric
            # one bolt holds, and another is loose
            assert {b.holds for b in move.sketch.bolts} == {True, False}
            # and it goes along on paper
            sheet = move_sheet(move, "Heron", "metric")
            told = " ".join(s.text for s in sheet.shapes if s.type == "text")
            assert move.sketch.shows[:40] in told
    assert drawn >= 5


def test_kinds_without_hands_have_no_sketch_yet() -> None:
    for key, core in registry().items():
        machine = next((m for f in FORM_TITLES if core.suits(m := starting_point(f))), None)
        assert machine
        assert (key in SKETCHED) == bool(core.sketches(machine))
