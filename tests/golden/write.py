"""Write golden records of the format of today: python -m tests.golden.write

Done once for each format, when it has settled. Records of earlier formats are never written again:
they are what machines out there have.
"""

from __future__ import annotations

import json
import random
import re
from pathlib import Path
from typing import Any

import numpy as np

from tests.core.cases import CASES, IDS, Case
from tests.core.test_surfacing import a_board, a_wish
from truing import VERSION
from truing.contract.trends import trends
from truing.contract.upgrade import FORMAT
from truing.jobs import FEATURE_TYPES as KINDS
from truing.jobs import Job, fit, ground
from truing.jobs.made import CameOut, made
from truing.jobs.made import Outcome as Made
from truing.kit.instruments import INSTRUMENT_TITLES, Instrument
from truing.kit.tooling import PIECE_TITLES, Piece
from truing.machine import FORM_TITLES, BoltedBase, Column, Head, starting_point
from truing.measure.lenient import read_back
from truing.moves.changes import move_made
from truing.programs import read
from truing.programs.check import check
from truing.programs.picture import picture
from truing.record import Lesson, Outcome, Snapshot, dump, dump_list
from truing.registry import kind
from truing.standin.apply import apply
from truing.standin.evening import moved, one_round
from truing.surfacing.done import Done
from truing.surfacing.foreign import Stated, ground_for
from truing.surfacing.plan import make

HERE = Path(__file__).parent


def plans() -> dict[str, Any]:
    """A plan that was kept and done, and a program that was checked."""
    rng = random.Random(7)
    facts = a_board(rng)
    wish = a_wish(rng, facts)
    plan = make(wish, facts)
    stated = Stated(diameter_mm=6.0, x_mm=-40.0, y_mm=-30.0, thickness_mm=6.0)
    ground = ground_for(stated, facts)
    program = read(plan.program.encode())
    return {
        "wish": dump("wish", wish),
        "surfacing": dump("surfacing", plan),
        "done": dump("done", Done(marks_gone=False, where="front left", thickness_mm=17.2)),
        "stated": dump("stated", stated),
        "ground": dump("ground", ground),
        "report": dump("report", check(program, ground)),
        "picture": dump("picture", picture(program.motions, ground)),
    }


def jobs() -> dict[str, Any]:
    """A job with every kind of feature, made on a machine that nothing is known of."""
    tolerances = {t: [n for n in c.model_fields if n.endswith("_tol_mm")] for t, c in KINDS.items()}
    features = [{"kind": t, **dict.fromkeys(names, 0.1)} for t, names in tolerances.items()]
    job = Job.model_validate({"name": "All of it", "material": "brass", "features": features})
    machine = starting_point("column_mill")
    told = made(fit(job, ground(machine, [])), "Avocet")
    came = [CameOut(feature=0, key="flat", off=0.02)]
    return {
        "job": dump("job", job),
        "making": dump("making", told),
        "came_out": dump("came_out", Made(came_out=came, note="on the plate")),
    }


def sitting(case: Case) -> dict[str, Any]:
    """Two rounds of a case with the advised move between them, as they are kept."""
    core, rng = kind(case.kind), np.random.default_rng(11)
    stated = case.case()
    truth = case.truth(rng, stated.machine, stated.setup)
    rounds: list[dict[str, Any]] = []
    predicted: list[Any] = []
    for _ in range(2):
        readings = one_round(core, stated.setup, truth, stated.instrument, rng)
        known = core.weigh(stated.but(readings=readings))
        ready = core.ready(known.setup, readings)
        advice = core.advise(known) if known.judgement.verdict != "true" and ready else None
        move = next((m for m in (advice.moves if advice else []) if m.needs is None), None)
        outcome = Outcome(
            finding=known.finding,
            judgement=known.judgement,
            trends=trends(known, predicted),
            ready=ready,
            complete=core.next_station(known.setup, readings) is None,
        )
        lesson = Lesson(
            way=known.way,
            values={q.key: q.estimate for q in known.finding.quantities},
            spreads=known.finding.spreads,
        )
        rounds.append(
            {
                "setup": dump("setup", known.setup),
                "instrument": dump("instrument", known.instrument),
                "readings": [r.model_dump(mode="json") for r in readings],
                "outcome": dump("outcome", outcome),
                "lesson": dump("lesson", lesson),
                "predicted": dump_list("prediction", predicted),
                "snapshot": dump("snapshot", Snapshot.of(known)),
                "advice": dump("advice", advice) if advice else None,
                "move": dump("move", move) if move else None,
                "made": dump("made", move_made(move, known.finding.quantities)) if move else None,
                "verdict": known.judgement.verdict,
            }
        )
        if move is None:
            break
        predicted = move.predicted
        truth = apply(core.key, move, truth, known.machine, rng)
        stated = moved(core, known, move)
    return {"kind": case.kind, "core": VERSION, "rounds": rounds}


def main() -> None:
    folder = HERE / f"records_{FORMAT}"
    folder.mkdir(exist_ok=True)

    def write(name: str, data: Any) -> None:
        slug = re.sub(r"[^a-z0-9]+", "_", name.lower()).strip("_")
        text = json.dumps(data, ensure_ascii=False, sort_keys=True, separators=(",", ":"))
        (folder / f"{slug}.json").write_text(text + "\n", "utf-8")

    for case, name in zip(CASES, IDS, strict=True):
        write(name, sitting(case))
    machines = {form: starting_point(form) for form in FORM_TITLES}
    every_part = {"column": Column(), "head": Head(nods=True), "base": BoltedBase()}
    machines["everything"] = starting_point("gantry_router").model_copy(update=every_part)  # type: ignore[index]
    write("machines", {name: dump("machine", m) for name, m in machines.items()})
    instruments = {t: read_back(Instrument, {"type": t}) for t in INSTRUMENT_TITLES}
    write("instruments", {t: dump("instrument", i) for t, i in instruments.items()})
    pieces = {t: read_back(Piece, {"type": t}) for t in PIECE_TITLES}
    write("plans", plans())
    write("jobs", jobs())
    write("pieces", {t: dump("piece", p) for t, p in pieces.items()})


if __name__ == "__main__":
    main()
