"""What to mend first for a job, and the limits that it needs."""

from __future__ import annotations

import dataclasses
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.erring import Erring, found_by
from tests.core.jobbing import (
    FORMS,
    clock_plate,
    cut,
    features,
    good,
    machine_of,
    poor,
    shared,
    some_errors,
)
from truing.jobs import Job, JobFit, fit
from truing.jobs.features import (
    Face,
    Hole,
    Outline,
    Slot,
)
from truing.jobs.first import fix_first
from truing.jobs.fit import leaves
from truing.jobs.limits import limits_for
from truing.jobs.witnesses import called
from truing.machine import Machine


def test_the_order_ends_when_all_fits_and_tells_what_it_leaves() -> None:
    machine = machine_of()
    found = shared(clock_plate(), machine, poor(machine))
    order = fix_first(found)
    kinds = [r.kind for r in order.remedies]
    assert sorted(kinds) == ["lost_motion", "spindle_tram", "travel_square", "travel_square"]
    assert not order.still
    assert fit(clock_plate(), order.ends).answer == "fits"
    # what moves the column asks for the tram again, and that is in its price
    column = next(r for r in order.remedies if r.subject == "part:head_front_back")
    assert "spindle_tram" in column.again
    assert found.worst is not None
    _, worst = found.worst
    assert sum(leaves(worst, found.ground)) < worst.most


def test_what_nothing_mends_is_said_to_limit_still() -> None:
    machine = machine_of()
    order = fix_first(shared(clock_plate(), machine, good(machine, flat=(0.09, 0.002))))
    assert [d.demand.key for _, d in order.still] == ["flat"]
    assert not order.remedies


@settings(max_examples=40, deadline=None)
@given(st.lists(features(), min_size=1, max_size=6), st.integers(0, 2**32 - 1))
def test_following_the_order_never_makes_it_worse(asked: list[Any], seed: int) -> None:
    machine, rng = machine_of(), np.random.default_rng(seed)
    told = found_by(Erring(some_errors(machine, rng, 1.2)), 0.1)
    told = {n: v for n, v in told.items() if rng.random() < 0.8}
    now = shared(Job(name="j", features=asked), machine, told)
    steps = 0
    while order := fix_first(now).remedies:
        first = order[0]
        was = max(1.0, *(d.ratio for _, d in now.asked))
        # nothing is asked for that takes nothing away, of the error or of the doubt
        for r in order:
            unknown = sum(h.share.most for h in r.demand.shares if not h.known)
            left = sum(h.share.most for h in r.after.shares if not h.known)
            assert r.after.most < r.demand.most or left < unknown
        # it came out somewhere within the limit, and was read so
        mended = {}
        for s in first.sources:
            to = s.limit if s.mends or not s.known else s.span.most
            value = float(rng.uniform(-0.7, 0.7)) * to
            span = dataclasses.replace(
                s.span, low=value - 0.2 * to, value=value, high=value + 0.2 * to
            )
            mended[s.name] = dataclasses.replace(s, span=span, state="measured")
        now = fit(now.job, now.ground.but(mended))
        assert max(1.0, *(d.ratio for _, d in now.asked)) <= was + 1e-9
        # no sitting is asked for twice
        again = [(r.kind, r.subject) for r in fix_first(now).remedies]
        assert (first.kind, first.subject) not in again
        assert len(again) < len(order) + 1
        steps += 1
        assert steps < 30


# --- limits backwards -----------------------------------------------------------------------------


def _inside(machine: Machine, found: Any, fitted: JobFit) -> dict[str, tuple[float, bool]]:
    """How far each error may be off: (size, whether it may point either way)."""
    bounds = {}
    for limit in found.limits:
        for s in limit.sources:
            bounds[s.name] = limit.value
    for s in found.fixed:
        bounds[s.name] = max(s.span.most, 0.0 if s.known else s.limit)
    return {n: (b, called(n, machine)[1] == "slope") for n, b in bounds.items()}


@settings(max_examples=60, deadline=None)
@given(
    st.lists(features(), min_size=1, max_size=4),
    st.sampled_from(FORMS),
    st.integers(0, 2**32 - 1),
)
def test_inside_its_limits_every_part_is_good(asked: list[Any], form: str, seed: int) -> None:
    machine, rng = machine_of(form), np.random.default_rng(seed)
    errors = found_by(Erring(some_errors(machine, rng, 0.3)), 0.1)
    told = {n: v for n, v in errors.items() if rng.random() < 0.7}
    fitted = shared(Job(name="j", features=asked), machine, told)
    found = limits_for(fitted)
    beyond = {id(d) for _, d, _ in found.beyond}
    inside = _inside(machine, found, fitted)
    corners = [rng.choice([-1.0, 0.0, 1.0], len(inside)) for _ in range(6)]
    anywhere = [rng.uniform(-1, 1, len(inside)) for _ in range(4)]
    for point in (*corners, *anywhere):
        real = {
            n: b * (w if signed else abs(w))
            for (n, (b, signed)), w in zip(inside.items(), point, strict=True)
        }
        for f in fitted.features:
            if f.outside:
                continue
            cut_ = cut(f.feature, machine, real)
            for d in f.demands:
                if id(d.demand) not in beyond:
                    most = d.demand.tolerance * (1 + 1e-3) + 1e-6
                    assert cut_[d.demand.key] <= most, d.demand.title


def test_limits_fill_the_tolerance_and_give_away_what_is_good_already() -> None:
    machine = machine_of()
    job = Job(name="j", features=[Hole(depth_mm=40, upright_tol_mm=0.02)])
    told = good(machine, slope_x=(0.0, 0.004), slope_y=(0.0, 0.004))
    rest = {n: v for n, v in told.items() if not n.startswith("rise")}
    found = {(x.kind, x.tolerance): x for x in limits_for(shared(job, machine, rest)).limits}
    table, column = found["table_travel", "slope"], found["travel_square", "square"]
    # the table is good: it keeps a quarter more than it has, the column has the rest
    assert table.value == pytest.approx(1.25 * 0.004, rel=0.1)
    assert table.filled is None
    assert table.is_met
    used = 2 * (table.value + column.value) * 0.04
    assert 0.9 * 0.02 < used <= 0.02
    assert column.filled is not None
    assert not column.is_met


def test_one_full_tolerance_leaves_the_others_their_room() -> None:
    machine = machine_of()
    slot = Slot(width_tol_mm=0.1)
    tight = Outline(x_mm=100, y_mm=50, square_tol_mm=0.002)
    alone = {
        x.kind: x.value
        for x in limits_for(shared(Job(name="j", features=[slot]), machine, {})).limits
    }
    both = limits_for(shared(Job(name="j", features=[tight, slot]), machine, {})).limits
    values = {x.kind: x for x in both}
    assert values["travel_square"].value == pytest.approx(0.02, rel=0.06)
    # what the outline does not lean on goes on until the slot is full
    assert values["tool_runout"].value == pytest.approx(alone["tool_runout"], rel=0.06)
    assert values["tool_runout"].filled == (1, values["slide_play"].filled[1])  # type: ignore[index]
    assert values["travel_square"].filled[0] == 0  # type: ignore[index]


def test_what_is_beyond_mending_opens_no_other_limit() -> None:
    machine = machine_of()
    face = Job(name="j", features=[Face(flat_tol_mm=0.01)])
    told = {n: v for n, v in good(machine, flat=(0.2, 0.01)).items() if not n.startswith("lean")}
    found = limits_for(shared(face, machine, told))
    assert found.beyond
    for x in found.limits:
        assert x.value <= x.usual


def test_weights_give_one_check_more_room_at_the_price_of_the_others() -> None:
    machine = machine_of()
    job = Job(name="j", features=[Hole(depth_mm=40, upright_tol_mm=0.01)])
    fitted = shared(job, machine, {})
    even = {x.kind: x.value for x in limits_for(fitted).limits}
    wide = {x.kind: x.value for x in limits_for(fitted, {("table_travel", "slope"): 3}).limits}
    assert wide["table_travel"] > 1.5 * even["table_travel"]
    assert wide["travel_square"] < even["travel_square"]


def test_what_cannot_be_mended_may_take_it_all_and_that_is_said() -> None:
    machine = machine_of()
    found = limits_for(shared(clock_plate(), machine, good(machine, flat=(0.2, 0.01))))
    assert [(d.key, most) for _, d, most in found.beyond] == [("flat", pytest.approx(0.21))]


def test_machines_that_are_judged_true_by_the_limits_make_good_parts() -> None:
    """Errors near the limits, read with noise: of those that all checks call true, 97 in 100 at
    least make the part."""
    machine, job = machine_of(), clock_plate()
    fitted = shared(job, machine, {})
    found = limits_for(fitted)
    inside = _inside(machine, found, fitted)
    rng = np.random.default_rng(7)
    good_parts = all_true = 0
    while all_true < 400:
        errors = {}
        true = True
        for name, (bound, signed) in inside.items():
            value = float(rng.uniform(-1.15 if signed else 0, 1.15)) * bound
            expanded = 0.1 * bound
            seen = value + float(rng.normal(0, expanded / 2))
            # most that are beyond are found out: only those that pass count
            true = true and abs(seen) + expanded <= bound
            errors[name] = value
        if not true:
            continue
        all_true += 1
        real = {key: size for f in job.features for key, size in cut(f, machine, errors).items()}
        tolerances = {d.demand.key: d.demand.tolerance for _, d in fitted.asked}
        good_parts += all(real[k] <= t * (1 + 1e-3) for k, t in tolerances.items())
    assert good_parts >= 0.97 * all_true
