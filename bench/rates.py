"""How honest the verdicts are: coverage of ±U, false "true" at the limit, decisions within half;
the same where something is amiss with the readings; and for every kind and way whether what is
found and what is promised holds.

Usage: .venv/bin/python -m bench.rates [RUNS]
"""

from __future__ import annotations

import sys
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from bench import disturbed
from tests.core.cases import CASES, Case
from tests.core.helpers import evaluate, expect
from truing.contract.history import History
from truing.kit.instruments import Instrument, Level, PlungerDial
from truing.machine import starting_point
from truing.measure.verdict import verdict
from truing.registry import kind
from truing.standin.apply import apply
from truing.standin.evening import moved, one_round
from truing.standin.truth import FootTruth, RailsTruth, SlideTruth, StandTruth, Truth

MILL, ROUTER = starting_point("column_mill"), starting_point("gantry_router")


@dataclass(frozen=True)
class Series:
    """One quantity of one kind, on a machine that has so much of it."""

    kind: str
    quantity: str
    setup: dict[str, Any]
    machine: Any
    instrument: Instrument
    truth: Callable[[float], Truth]


def dial(repeatability: float) -> PlungerDial:
    """A dial fine enough that its scatter is what counts."""
    return PlungerDial(graduation_mm=0.0005, range_mm=2, repeatability_mm=repeatability)


def twisted_stand(twist: float) -> Truth:
    """Feet screwed out across one diagonal so that the base is twisted by so much (mm/m per m)."""
    assert MILL.feet
    out = twist * 0.42 * 0.38 / 2
    feet = [
        FootTruth(name=f.name, x_mm=f.x_mm, y_mm=f.y_mm, out_mm=out if f.x_mm * f.y_mm > 0 else 0.0)
        for f in MILL.feet.places
    ]
    return Truth(stand=StandTruth(feet=feet, give=1.0))


def twisted_rails(w: float) -> Truth:
    """The second rail high in front and low at the rear, so that its diagonal stands w high."""
    return Truth(
        rails=RailsTruth(
            at_mm=[0, 1100],
            side_mm=[0, 0],
            second_mm=[0, 0],
            first_up_mm=[0, 0],
            second_up_mm=[w, -w],
        )
    )


SERIES = [
    *(
        Series(
            "spindle_tram",
            "lean_x",
            {"radius_mm": 100, "radius_u_mm": 0},
            MILL,
            dial(r),
            lambda lean: Truth(head_about_y_mrad=lean),
        )
        for r in (0.0012, 0.0018, 0.0024)
    ),
    Series(
        "base_level",
        "twist",
        {"passes": 2},
        MILL,
        Level(sensitivity_mm_per_m=0.01, read_fraction=0.2, repeatability_mm=0.0006),
        twisted_stand,
    ),
    Series(
        "rail_twist",
        "twist",
        {"stage": "fine", "length_mm": 1100},
        ROUTER,
        dial(0.007),
        twisted_rails,
    ),
    Series(
        "lost_motion",
        "lost",
        {"slide": "left_right", "places_mm": [0]},
        MILL,
        dial(0.002),
        lambda lost: Truth(slides={"left_right": SlideTruth(links_mm={"nut": lost})}),
    ),
]


def report(series: Series, runs: int) -> str:
    """Rates over so many rounds at the limit, at half of it, and anywhere within half."""
    core = kind(series.kind)
    proposed = core.propose(series.machine)
    stated = {**(proposed.model_dump() if proposed else {}), **series.setup}
    setup = core.setup_type.model_validate(stated)
    limits = core.tolerances(series.machine)
    told = expect(core, setup, series.instrument, limits)
    assert told
    limit = told.tolerance

    def play(at: float, seed: int) -> tuple[bool, str]:
        rng = np.random.default_rng(seed)
        read = one_round(core, setup, series.truth(at), series.instrument, rng)
        finding = evaluate(core, setup, read, series.instrument, History())
        q = next(q for q in finding.quantities if q.key == series.quantity)
        inside = abs(q.estimate.value - at) <= q.estimate.expanded
        return inside, verdict(q.estimate, limit)

    at_limit = [play(limit, seed) for seed in range(runs)]
    at_half = [play(limit / 2, runs + seed) for seed in range(runs)]
    spread = np.random.default_rng(7).uniform(limit / 10, limit / 2, runs)
    within = [play(float(x), 2 * runs + seed) for seed, x in enumerate(spread)]
    covered = sum(inside for inside, _ in at_limit + at_half + within) / (3 * runs)

    def true(played: list[tuple[bool, str]]) -> float:
        return sum(v == "true" for _, v in played) / runs

    return (
        f"{series.kind}, expected U = T/{limit / told.expanded:.1f}: coverage {covered:.1%}, "
        f"false true at T {true(at_limit):.1%}, decided up to T/2 {true(within):.1%} "
        f"(at T/2 itself {true(at_half):.1%})"
    )


def every_way(case: Case, runs: int) -> str:
    """Coverage of what a kind's truth fixes, read in one way on random machines, and how often what
    was promised of the first move is read afterwards."""
    core = kind(case.kind)
    inside: list[bool] = []
    held: list[bool] = []
    for seed in range(runs):
        rng = np.random.default_rng(50_000 + seed)
        stated = case.case()
        truth = case.truth(rng, stated.machine, stated.setup)
        read = one_round(core, stated.setup, truth, stated.instrument, rng)
        known = core.weigh(stated.but(readings=read))
        for key, value in case.known(truth, stated.setup).items():
            q = known.get(key)
            if q is not None:
                # readings are linearised: a part in a thousand
                doubt = 1e-3 * abs(value) + 1e-4
                near = q.estimate.least - doubt <= abs(value) <= q.estimate.most + doubt
                same = q.estimate.limits is not None or (
                    abs(q.estimate.value - value) <= q.estimate.expanded + doubt
                )
                inside.append(near and same)
        move = next((m for m in core.advise(known).moves if m.needs is None), None)
        if move is None or known.judgement.verdict == "true":
            continue
        truth = apply(core.key, move, truth, known.machine, rng)
        after = moved(core, known, move)
        again = one_round(core, after.setup, truth, after.instrument, rng)
        then = core.weigh(after.but(readings=again))
        for p in move.predicted:
            q = then.get(p.quantity)
            if q is not None:
                held.append(abs(q.estimate.value - p.after.value) <= p.after.expanded)
    told = f"{np.mean(held):7.1%} of {len(held)}" if held else "      –"
    return f"{case.kind:14} {case.name:26} {np.mean(inside):9.1%} {told}"


def main() -> None:
    runs = int(sys.argv[1]) if len(sys.argv) > 1 else 2000
    for series in SERIES:
        print(report(series, runs), flush=True)
    print()
    disturbed.report(max(40, runs // 4))
    print(f"\n{'kind':14} {'way':26} {'coverage':>9} predictions held")
    for case in CASES:
        print(every_way(case, max(40, runs // 20)), flush=True)


if __name__ == "__main__":
    main()
