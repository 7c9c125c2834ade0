"""What becomes of verdicts when something is amiss with the readings: surfaces at their limit, with
bumps that no repeat shows, a zero that creeps, works with play, one reading that slips."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from tests.core.bodies import BODIES, DIAL, Body, played
from truing.kit.instruments import Instrument

PASSES = (1, 2, 3)
STEP = DIAL.graduation_mm
SLIPS = {"½": 0.5, "1": 1, "2": 2, "5": 5, "20": 20, "half a turn": 100, "a turn": 200}
"""In divisions of the dial."""
UNSTATED = DIAL.model_copy(update={"hysteresis_mm": None})


@dataclass(frozen=True)
class Amiss:
    """What is amiss (mm), as `played` takes it, and the dial that reads it."""

    name: str
    how: dict[str, float] = field(default_factory=dict)
    dial: Instrument = field(default_factory=lambda: DIAL)


ALL = [
    Amiss("nothing"),
    *(Amiss(f"bumps of {mm * 1000:g} µm", {"bumps": mm}) for mm in (0.0015, 0.004)),
    *(Amiss(f"creeps by {mm * 1000:g} µm", {"creep": mm}) for mm in (0.0003, 0.0007)),
    Amiss("knocked by 20 divisions", {"knock": 20 * STEP}),
    *(
        Amiss(
            f"play of {mm * 1000:g} µm, stated",
            {"works": mm},
            DIAL.model_copy(update={"hysteresis_mm": mm}),
        )
        for mm in (0.001, 0.003)
    ),
    Amiss("play as usual, unstated", {"works": UNSTATED.usual_hysteresis_mm}, UNSTATED),
    *(Amiss(f"slips by {name}", {"slip": n * STEP}) for name, n in SLIPS.items()),
]


def rates(body: Body, amiss: Amiss, passes: int, runs: int) -> tuple[float, float, float]:
    """(coverage of ±U, verdicts that are true at the limit, rounds in which a reading is doubted),
    as shares of so many rounds."""
    rng = np.random.default_rng(40_000 + passes)
    inside = true = doubted = 0
    for _ in range(runs):
        case, _ = played(body, rng, passes, amiss.dial, **amiss.how)
        found = case.get(body.quantity).estimate
        inside += found.least - 1e-9 <= body.tolerance <= found.most + 1e-9
        true += body.verdict(case) == "true"
        doubted += case.finding.pointed_out is not None
    return inside / runs, true / runs, doubted / runs


def report(runs: int) -> None:
    """A line for each surface and each thing amiss, by passes."""
    heads = "".join(f"  {p} pass{'es' if p > 1 else '  '}: U holds  true doubted" for p in PASSES)
    print(f"{'surface at its limit':15} {'amiss':25}{heads}")
    for key, body in BODIES.items():
        for amiss in ALL:
            told = ""
            for passes in PASSES:
                inside, true, doubted = rates(body, amiss, passes, runs)
                told += f"{inside:18.1%} {true:5.1%} {doubted:7.1%}"
            print(f"{key:15} {amiss.name:25}{told}", flush=True)
