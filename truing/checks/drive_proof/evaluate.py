"""From the rungs of a ladder to what is proven, what fails, and what to use.

A run of length L reaches feed v at acceleration a only if v²/a ≤ L: half of that to speed up, half
to slow down. A rung that was never reached proves nothing.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

from pydantic import BaseModel

from truing.checks.drive_proof.setup import DriveProofSetup, stations, unit
from truing.contract.case import Case
from truing.contract.finding import Finding, Note, Quantity, quantity
from truing.contract.gather import Gathered, gather
from truing.contract.readings import GradeReading, LengthReading
from truing.drawing.figures import LadderFigure, Rung
from truing.measure.estimate import Estimate
from truing.measure.problem import Problem
from truing.measure.verdict import verdict
from truing.measure.words import Measure, Words, plain, say, show

NEAR_END = 0.15
"""Share of the run at each end within which a stall points to the ends of the screw."""


LEAST_RAMP_S = 0.01
"""An acceleration that is over sooner moves hardly more than the belts and couplings give."""


Result = Literal["clean", "rattles", "stalls", "lost", "not_reached"]


FAILED: tuple[Result, ...] = ("rattles", "stalls", "lost")


class RungResult(BaseModel):
    """One rung: how it went, where, what it missed zero by (mm), and whether it was reached."""

    value: float
    driven: float
    """What the slide really came up to on this rung."""
    result: Result
    where_mm: float | None
    missed_mm: float | None


class DriveProofFinding(Finding):
    """The ladder as far as it was climbed; values in mm/min for feeds, mm/s² for accelerations."""

    kind: Literal["drive_proof"] = "drive_proof"
    rungs: list[RungResult]
    proven: float | None
    """Highest that ran clean, was reached and came back to zero."""
    fails: float | None
    recommended: float | None
    cause: Literal["ends", "anywhere", ""]


def measure_of(setup: DriveProofSetup) -> Measure:
    """What its rungs are measured in."""
    return "feed" if setup.ladder == "feed" else "accel"


def speeds(setup: DriveProofSetup, value: float) -> tuple[float, float]:
    """(feed in mm/s, acceleration in mm/s²) of a rung."""
    feed, accel = (value, setup.fixed) if setup.ladder == "feed" else (setup.fixed, value)
    return feed / 60, accel


def felt(setup: DriveProofSetup, value: float) -> bool:
    """Whether a rung's acceleration lasts long enough for a drive to feel it."""
    feed, accel = speeds(setup, value)
    return setup.ladder == "feed" or feed / accel >= LEAST_RAMP_S


def reached(setup: DriveProofSetup, value: float) -> bool:
    """Whether the slide comes up to speed within one run."""
    feed, accel = speeds(setup, value)
    return feed**2 / accel <= setup.travel_mm


def cannot_prove(case: Case[DriveProofSetup, DriveProofFinding]) -> None:
    """Problem for accelerations that are raised at a feed which the slide is up to at once, or
    never comes up to: the feed that is proven is to be held meanwhile."""
    setup = case.setup
    if setup.ladder == "feed":
        return
    found = [p.values["proven"] for p in case.history.past if "proven" in p.values]
    least = next((e.value for e in reversed(found) if e.measure == "feed"), 0.0)
    if setup.fixed < least * 0.99:
        raise Problem(
            f"{setup.fixed:g} mm/min is less than the {least:g} mm/min that is proven.",
            expected="Hold the proven feed meanwhile: at less the drive pulls more than it will.",
            field="fixed",
        )
    if not felt(setup, setup.top):
        feed, accel = speeds(setup, setup.top)
        raise Problem(
            f"At {setup.fixed:g} mm/min it is up to speed within {feed**2 / accel / 2:.2g} mm: no "
            f"drive feels {setup.top:g} mm/s² for so short.",
            expected="Hold the feed that is proven, "
            f"{60 * LEAST_RAMP_S * setup.top:g} mm/min or more; or stop at less.",
            field="fixed",
        )
    if not reached(setup, setup.start):
        feed, accel = speeds(setup, setup.start)
        raise Problem(
            f"At {setup.start:g} mm/s² it takes {feed**2 / accel:.0f} mm to come up to "
            f"{setup.fixed:g} mm/min and stop again; the run is {setup.travel_mm:g} mm.",
            expected="Run further, or begin with more.",
            field="start",
        )


def evaluate(case: Case[DriveProofSetup, DriveProofFinding]) -> DriveProofFinding:
    """See `Check.evaluate`."""
    setup, readings = case.setup, case.readings
    grades = {r.station: r for r in readings if isinstance(r, GradeReading)}
    if not grades:
        raise Problem("No step has been run yet.", expected="Run the first one.", field="readings")
    got = None
    if any(isinstance(r, LengthReading) for r in readings):
        got = gather(case, stations(setup, readings))
    limit = case.tolerances["return"]
    rungs = [
        _rung(setup, v, grades[f"{v:g}"], got, limit) for v in setup.rungs if f"{v:g}" in grades
    ]
    clean = [r for r in rungs if r.result == "clean" and r.missed_mm is not None]
    returned = [r for r in rungs if r.result in ("clean", "lost") and r.missed_mm is not None]
    failed = [r for r in rungs if r.result in FAILED]
    fails = min((r.driven for r in failed), default=None)
    # a rung that failed makes a faster one that did not a matter of luck
    held = [r.value for r in clean if _held(r, got, limit) and (fails is None or r.value < fails)]
    proven = max(held, default=None)
    recommended = _recommended(proven, fails)
    return DriveProofFinding(
        quantities=_quantities(returned, got, proven, recommended, measure_of(setup)),
        stations=got.station_means() if got else [],
        notes=_notes(setup, rungs, got),
        spreads=got.spreads if got else {},
        s_mm=got.s_mm if got else 0.0,
        step_mm=case.instrument.step_mm,
        zero_mm=got.zero_mm if got else 0.0,
        lines=_lines(proven, fails, recommended, measure_of(setup)),
        rungs=rungs,
        proven=proven,
        fails=fails,
        recommended=recommended,
        cause=_cause(setup, failed),
    )


def _missed(value: float, got: Gathered | None) -> Estimate | None:
    home = f"{value:g}:home"
    return got.combine({home: 1.0})[0] if got and got.has(home) else None


def _held(rung: RungResult, got: Gathered | None, limit: float) -> bool:
    """Whether it came back to zero for certain."""
    missed = _missed(rung.value, got)
    return missed is not None and verdict(missed, limit) == "true"


def driven(setup: DriveProofSetup, value: float) -> float:
    """What a rung really asks of the drive: within one run a slide comes up to no more than
    √(acceleration × run). An acceleration is felt however short the run is."""
    if setup.ladder == "accel":
        return value
    return min(value, 60 * math.sqrt(setup.fixed * setup.travel_mm))


def _rung(
    setup: DriveProofSetup,
    value: float,
    grade: GradeReading,
    got: Gathered | None,
    limit: float,
) -> RungResult:
    found = _missed(value, got)
    missed = found.value if found else None
    result: Result = grade.grade  # type: ignore[assignment]
    if grade.grade == "clean" and found and verdict(found, limit) == "out":
        # smooth is not the same as accurate: steps were lost without a sound
        result = "lost"
    elif grade.grade == "clean" and not (reached(setup, value) and felt(setup, value)):
        result = "not_reached"
    return RungResult(
        value=value,
        driven=driven(setup, value),
        result=result,
        where_mm=grade.place.x_mm if grade.place else None,
        missed_mm=missed,
    )


def _recommended(proven: float | None, fails: float | None) -> float | None:
    """At most half of the first that failed, never above what is proven; while nothing has failed,
    half of what is proven, since the first failure lies somewhere above it."""
    if proven is None:
        return None
    return min(proven, fails / 2) if fails is not None else proven / 2


def _cause(setup: DriveProofSetup, failed: Sequence[RungResult]) -> Literal["ends", "anywhere", ""]:
    places = [r.where_mm for r in failed if r.where_mm is not None]
    if not failed:
        return ""
    near = setup.travel_mm / 2 * (1 - 2 * NEAR_END)
    return "ends" if places and all(abs(p) >= near for p in places) else "anywhere"


def _quantities(
    returned: Sequence[RungResult],
    got: Gathered | None,
    proven: float | None,
    recommended: float | None,
    measure: Measure,
) -> list[Quantity]:
    found = []
    if returned and got:
        worst = max(returned, key=lambda r: abs(r.missed_mm or 0.0))
        estimate = got.combine({f"{worst.value:g}:home": 1.0})[0]
        found.append(
            quantity(
                "return",
                "Missed zero by",
                estimate,
                say(
                    "After {v} it came back {d} off zero.",
                    v=show(worst.value, 1, measure),
                    d=show(abs(estimate.value), 0.001),
                ),
                gain=1.0,
                tolerance_key="return",
            )
        )
    for key, label, value in (
        ("proven", "Highest proven", proven),
        ("recommended", "Recommended", recommended),
    ):
        if value is not None:
            exact = Estimate.exact(measure, value)
            q = quantity(
                key,
                label,
                exact,
                None,
                gain=0.0,
                tolerance_key=None,
                signed=False,
            )
            found.append(q.model_copy(update={"words": show(value, 1, measure)}))
    return found


def _notes(setup: DriveProofSetup, rungs: Sequence[RungResult], got: Gathered | None) -> list[Note]:
    notes = []
    for r in rungs:
        if r.result == "lost":
            lost = say(
                "{v} ran clean and came back {d} off zero: steps were lost without a sound. It "
                "counts as failed.",
                v=f"{r.value:g} {unit(setup.ladder)}",
                d=show(abs(r.missed_mm or 0.0), 0.001),
            )
            notes.append(Note(tone="look", station=f"{r.value:g}:home", text=lost))
        if r.result != "not_reached":
            continue
        feed, accel = speeds(setup, r.value)
        need = feed**2 / accel
        if not felt(setup, r.value):
            text = say(
                "At {v} it is up to speed within {d}: too short for the drive to feel it. It "
                "proves nothing; hold the proven feed meanwhile.",
                v=f"{r.value:g} {unit(setup.ladder)}",
                d=show(need / 2, max(need / 20, 1e-4)),
            )
            notes.append(Note(tone="look", station=f"{r.value:g}", text=text))
            continue
        notes.append(
            Note(
                tone="look",
                station=f"{r.value:g}",
                text=say(
                    "{v} was never reached: it takes {need} to come up to it and stop again, and "
                    "the run is {run}. It proves nothing; run further, or accelerate faster.",
                    v=f"{r.value:g} {unit(setup.ladder)}",
                    need=show(need, 1),
                    run=show(setup.travel_mm, 1),
                ),
            )
        )
    if got:
        notes += [n for n in got.notes() if n.tone != "look" or "left out" not in n.text.metric]
    return notes


def _lines(
    proven: float | None,
    fails: float | None,
    recommended: float | None,
    measure: Measure,
) -> list[Words]:
    lines: list[Words] = []
    if proven is not None and recommended is not None:
        lines.append(
            say(
                "Proven up to {p}. Use {r} at most, which leaves a margin of {m}.",
                p=show(proven, 1, measure),
                r=show(recommended, 1, measure),
                m=f"{(fails or proven) / recommended:.1f}",
            )
        )
    if fails is None:
        lines.append(plain("It did not fail as far as it was driven: there may be more in it."))
    lines.append(
        plain(
            "Put back what was raised for the test: extreme settings that stay saved are the "
            "next crash."
        )
    )
    return lines


def ladder(setup: DriveProofSetup, finding: DriveProofFinding) -> LadderFigure:
    """The ladder with how each rung went."""
    recommended, measure = finding.recommended, measure_of(setup)
    done = {r.value: r for r in finding.rungs}
    found = []
    for value in setup.rungs:
        r = done.get(value)
        missed = (
            say("{d} off zero", d=show(abs(r.missed_mm), 0.001))
            if r and r.missed_mm is not None
            else None
        )
        found.append(
            Rung(
                label=show(value, 1, measure),
                value=value,
                result=r.result if r else "ahead",
                words=missed,
            )
        )
    return LadderFigure(
        title=plain("The ladder, as far as it was climbed"),
        rungs=found,
        recommended=recommended,
        recommended_words=show(recommended, 1, measure) if recommended else None,
    )
