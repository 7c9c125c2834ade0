"""How honest the verdicts are: coverage of ±U, false "true" at the limit, decisions at half of it.

Usage: .venv/bin/python -m bench.rates [RUNS]
"""

from __future__ import annotations

import sys

import numpy as np

from truing.check import History, kind
from truing.instruments import PlungerDial
from truing.standin.evening import one_round
from truing.standin.truth import Truth
from truing.verdict import verdict

LIMIT = 0.1


def main() -> None:
    runs = int(sys.argv[1]) if len(sys.argv) > 1 else 4000
    tram = kind("spindle_tram")
    setup = tram.setup_type(radius_mm=100, radius_u_mm=0)
    for repeatability in (0.0012, 0.0018, 0.0024):
        dial = PlungerDial(graduation_mm=0.0005, range_mm=2, repeatability_mm=repeatability)
        told = tram.expect(setup, dial, {"lean_x": LIMIT, "nod": LIMIT})

        def play(at: float, seed: int, dial: PlungerDial = dial) -> tuple[bool, str]:
            rng = np.random.default_rng(seed)
            readings = one_round(tram, setup, Truth(head_about_y_mrad=at), dial, rng)
            lean = tram.evaluate(setup, readings, dial, History()).quantities[0].estimate
            return abs(lean.value - at) <= lean.expanded, verdict(lean, LIMIT)

        limit = [play(LIMIT, seed) for seed in range(runs)]
        edge = [play(LIMIT / 2, runs + seed) for seed in range(runs)]
        leans = np.random.default_rng(7).uniform(-LIMIT / 2, LIMIT / 2, runs)
        within = [play(float(x), 2 * runs + seed) for seed, x in enumerate(leans)]
        covered = sum(inside for inside, _ in limit + edge + within) / (3 * runs)
        false_true = sum(v == "true" for _, v in limit) / runs
        decided = sum(v == "true" for _, v in within) / runs
        decided_edge = sum(v == "true" for _, v in edge) / runs
        print(
            f"expected U = T/{LIMIT / told.expanded:.1f}: coverage {covered:.1%}, "
            f"false true at T {false_true:.1%}, decided for |x| up to T/2 {decided:.1%} "
            f"(at T/2 itself {decided_edge:.1%})"
        )


if __name__ == "__main__":
    main()
