"""What is told of the work around the checks: what a machine and a kit begin with, the course and
what happens to it, jobs, surfacing, and how a set-up is drawn for each of its choices.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from datetime import UTC, datetime, timedelta
from typing import Any

import numpy as np

from tests.core.cases import CASES, Case
from tests.core.jobbing import good, machine_of, poor, read
from tests.core.trees import number, sum_of, tree
from truing.contract.known import Known
from truing.course import KINDS
from truing.course.events import EVENTS, event_said, events_for, touched_by
from truing.course.gates import gates, open_items, proof
from truing.course.plan import AIMS, Plan, plan
from truing.course.standing import Decision, Log, Result, Standing, Touch, standings
from truing.course.step import detour, next_step, overall
from truing.jobs import Job, JobFit, fit, ground
from truing.jobs.decides import deciding
from truing.jobs.features import AnyFeature, Face, Hole, Outline, Slot, Thickness, TwoSides, Wall
from truing.jobs.first import fix_first
from truing.jobs.limits import JobLimit, limits_for
from truing.jobs.made import CameOut, Outcome, compare, made
from truing.jobs.starts import starting_jobs
from truing.jobs.told import told_feature, told_first, told_limits
from truing.jobs.words import cost_of, sentence
from truing.kit.instruments import Instrument
from truing.kit.usual import System, usual
from truing.machine import FORM_TITLES, Machine, starting_point
from truing.measure.fields import form_schema
from truing.measure.problem import Problem
from truing.registry import kind, registry
from truing.standin.evening import one_round

SEED = 5
SYSTEMS: tuple[System, ...] = ("metric", "inch")
DAY = datetime(2026, 3, 1, 9, tzinfo=UTC)


def beginnings() -> str:
    """A usual machine of each form, the usual instruments, and the jobs to begin with."""
    lines: list[str] = []
    for form in FORM_TITLES:
        lines += [f"== {form}", *tree("machine", starting_point(form)), ""]
    for system in SYSTEMS:
        lines += [f"== instruments, {system}", *tree("kit", list(usual(system))), ""]
    for job in starting_jobs():
        lines += [f"== {job.name}", *tree("job", job), ""]
    return "\n".join(lines)


def choices() -> str:
    """How a set-up is drawn for every choice of its form: what that changes in the drawing."""
    lines: list[str] = []
    for key, core in registry().items():
        told: set[str] = set()
        for machine in (m for m in map(starting_point, FORM_TITLES) if core.suits(m)):
            stated = core.propose(machine) or core.example(machine)
            if stated is None:
                continue
            for name, setup in _others(core, stated):
                try:
                    drawn = list(tree("sketch", core.sketch(setup, machine)))
                except Problem as problem:
                    drawn = [f"refused: {problem}"]
                new = [line for line in drawn if line not in told]
                told.update(new)
                if new:
                    lines += [f"== {key}, {machine.form}, {name}", *new, ""]
    return "\n".join(lines)


def _others(core: Any, stated: Any) -> Iterator[tuple[str, Any]]:
    """The set-up as it is, and with every other answer to each question that offers some."""
    yield "as proposed", stated
    for field, asked in form_schema(core.setup_type)["properties"].items():
        offers = asked.get("enum") or ([True, False] if asked.get("type") == "boolean" else [])
        for answer in offers:
            if answer == getattr(stated, field):
                continue
            try:
                yield (
                    f"{field} {answer}",
                    core.setup_type.model_validate({**stated.model_dump(), field: answer}),
                )
            except ValueError:
                continue


MORE_SEEDS = (6, 7)


def readings() -> str:
    """What is found, judged and advised for every choice of a set-up, with every usual instrument
    that will do, on other machines, and when only half of it is read; briefly."""
    lines: list[str] = []
    first = {case.kind: case for case in reversed(CASES)}
    for key, case in sorted(first.items()):
        core, stated = kind(key), case.case()
        kit = [one.spec for one in usual("metric") if one.spec.type in core.takes(stated.setup)]
        for name, setup in _others(core, stated.setup):
            lines += [f"== {key}, {name}", *_briefly(core, case, stated.but(setup=setup)), ""]
        for i in kit:
            lines += [f"== {key}, with {i.type}"]
            lines += [*_briefly(core, case, stated.but(instrument=i)), ""]
        lines += [f"== {key}, half read", *_briefly(core, case, stated, whole=False), ""]
    for case in CASES:
        for seed in MORE_SEEDS:
            lines += [f"== {case.kind}, {case.name}, at random {seed}"]
            lines += [*_briefly(kind(case.kind), case, case.case(), seed=seed), ""]
    return "\n".join(lines)


TIGHT = 0.3


def together() -> str:
    """What is found, judged and advised, within tight limits, where all other kinds have found
    something: lately, or before something was touched."""
    lines: list[str] = []
    found = _found_by({case.kind: case for case in reversed(CASES)}.values())
    for case in CASES:
        stated = case.case()
        limits = {key: limit * TIGHT for key, limit in stated.tolerances.items()}
        for name, fresh in (("lately", True), ("before", False)):
            others = [k.model_copy(update={"fresh": fresh}) for k in found if k.kind != case.kind]
            it = stated.but(known=[*others, *stated.known], tolerances=limits)
            lines += [f"== {case.kind}, {case.name}, others read {name}"]
            lines += [*_briefly(kind(case.kind), case, it), ""]
    return "\n".join(lines)


def _found_by(cases: Iterable[Case]) -> list[Known]:
    """What all other kinds have found, as if it were about one machine."""
    found: list[Known] = []
    for case in cases:
        core, stated, rng = kind(case.kind), case.case(), np.random.default_rng(SEED)
        truth = case.truth(rng, stated.machine, stated.setup)
        read = one_round(core, stated.setup, truth, stated.instrument, rng)
        it = core.weigh(stated.but(readings=read))
        found.append(
            Known(
                kind=case.kind,
                subject=stated.setup.subject.text,
                at=DAY,
                fresh=True,
                verdict=it.judgement.verdict,
                values={q.key: q.estimate for q in it.finding.quantities},
                limits={j.quantity: j.tolerance for j in it.judgement.judged},
            )
        )
    return found


def _briefly(
    core: Any, case: Case, stated: Any, *, whole: bool = True, seed: int = SEED
) -> Iterator[str]:
    rng = np.random.default_rng(seed)
    try:
        truth = case.truth(rng, stated.machine, stated.setup)
        read = one_round(core, stated.setup, truth, stated.instrument, rng)
        known = core.weigh(stated.but(readings=read if whole else read[: len(read) // 2]))
        advice = core.advise(known)
    except (Problem, AttributeError, KeyError) as refused:
        yield f"refused: {refused}"
        return
    for q in known.finding.quantities:
        e = q.estimate
        told = " ".join("—" if v is None else number(v) for v in (e.value, e.expanded, e.dof))
        yield f"{q.key} {told}: {q.words.metric}"
    for judged in known.judgement.judged:
        yield f"{judged.quantity} {judged.verdict} within {number(judged.tolerance)}"
    yield known.judgement.sentence.metric
    yield from (f"{note.tone}: {note.text.metric}" for note in known.finding.notes)
    yield sum_of("finding", known.finding)
    yield sum_of("drawn", [*core.figures(known), core.drawing(known)])
    for move in advice.moves:
        yield f"move: {move.title.metric}"
        yield sum_of("  drawn", [move.sketch, *move.figures])
        yield sum_of("  in all", move.model_copy(update={"sketch": None, "figures": []}))
        yield from (f"  takes {t.quantity} {number(t.amount)}" for t in move.takes)
        yield from (f"  step: {step.metric}" for step in move.steps)
        yield from (f"  note: {note.metric}" for note in move.notes)
    yield from tree("leave", advice.leave)


def course() -> str:
    """The course of every form: with nothing read, with a year behind it, and after each thing
    that can happen to a machine."""
    lines: list[str] = []
    for form in FORM_TITLES:
        machine = starting_point(form)
        lines += [f"== {form}, new", *_course(machine, Log())]
        lines += ["", f"== {form}, read", *_course(machine, _year(machine))]
        lines += ["", f"== {form}, what happens"]
        for event in events_for(machine, tilted=False):
            lines += tree("event", event)
            lines.append(f"  said: {event_said(event.key, 'the vice fell', ['head_pivot'], 30.0)}")
            lines += tree("stale after it", _stale_after(machine, event.key), 1)
        lines.append("")
    return "\n".join(lines)


def _course(machine: Machine, log: Log) -> Iterator[str]:
    found = _standings(machine, log)
    for s in found:
        why = f": {s.why.metric}" if s.why else ""
        yield f"{s.kind} {s.status}{why}{' (due)' if s.is_due else ''}"
        yield from tree("costs first", detour(s.kind, found), 1)
    yield from tree("next", next_step(found))
    yield from tree("overall", list(overall(found)))
    yield from tree("gates", gates(machine, found))
    yield from tree("proof", proof(found))
    yield from tree("open", open_items(found))
    for aim in AIMS:
        for minutes in (40, 240):
            yield from _planned(f"{aim.key} in {minutes}", plan(machine, found, minutes, aim.key))
    whole = plan(machine, found, 240)
    yield from tree("kit", whole.kit)
    yield from tree("cautions", whole.cautions)
    others: dict[str, dict[str, Any]] = {
        "laid out already": {"laid_out": True},
        "without its first": {"skip": [s.kind for s in whole.steps[:1]]},
        "for a job": {"only": {"tool_runout", "spindle_tram", "table_travel"}},
        "for a search": {"sought": {"tool_runout": ["machine"], "lost_motion": ["left_right"]}},
    }
    for name, how in others.items():
        yield from _planned(name, plan(machine, found, 100, **how))


def _planned(name: str, found: Plan) -> Iterator[str]:
    steps = ", ".join(f"{s.kind} {s.minutes} {s.rounds} {s.starts}" for s in found.steps)
    yield f"{name}: {found.sentence.metric} [{steps}]"
    yield from (f"  left: {x.kind} {x.minutes} {x.reason.metric}" for x in found.left)


def _standings(machine: Machine, log: Log) -> list[Standing]:
    built = tuple(k.key for k in KINDS)
    return standings(machine, log, built=built, now=DAY + timedelta(days=200))


def _results(machine: Machine) -> list[Result]:
    """Everything read and true, one kind after another."""
    return [
        Result(kind=k.key, subject=subject, at=DAY + timedelta(hours=i), verdict="true")
        for i, k in enumerate(KINDS)
        for subject, _ in (k.subjects_of(machine) or [("machine", "")])
    ]


def _year(machine: Machine) -> Log:
    """Every third kind out and some left open, one of them left as it is; and a crash."""
    read = _results(machine)
    verdicts = ("true", "out", "too_close", "true", "true")
    results = [
        r.model_copy(update={"verdict": verdicts[i % 5], "times_limit": 0.4 + i % 5})
        for i, r in enumerate(read)
    ]
    at = DAY + timedelta(days=3)
    out = next(r.kind for r in results if r.verdict == "out")
    left = [Decision(id="d", kind=out, at=at, reason="No part shows it.")]
    late = Touch(
        id="t",
        at=DAY + timedelta(days=5),
        mechanisms=["table", "gibs"],
        said="it was taken apart",
    )
    return Log(results=results, touches=[late], decisions=left)


def _stale_after(machine: Machine, event: str) -> list[str]:
    """What has to be read again after something happened to a machine that was true."""
    e = next(e for e in EVENTS if e.key == event)
    touch = Touch(
        id="t",
        at=DAY + timedelta(days=2),
        mechanisms=touched_by(event, []),
        said=e.said,
        calls_for=e.calls_for,
        first=e.first,
    )
    found = _standings(machine, Log(results=_results(machine), touches=[touch]))
    return [s.kind for s in found if s.status == "stale"]


MORE: list[AnyFeature] = [
    Wall(length_mm=70, depth_mm=12, upright_tol_mm=0.02, along_tol_mm=0.03, held="vice"),
    Wall(length_mm=70, depth_mm=12, runs="y", upright_tol_mm=0.03, held="table"),
    TwoSides(length_mm=60, depth_mm=10, match_tol_mm=0.05),
    Slot(length_mm=50, width_tol_mm=0.02),
    Hole(depth_mm=20, by="quill", upright_tol_mm=0.02, place_tol_mm=0.05, size_tol_mm=0.03),
    Thickness(x_mm=60, y_mm=40, thick_tol_mm=0.05),
]


LONG = 5000.0
TOO_LARGE: list[AnyFeature] = [
    Wall(length_mm=LONG, depth_mm=400, upright_tol_mm=0.02, flute_mm=20),
    Wall(length_mm=LONG, runs="y", upright_tol_mm=0.02, held="fence"),
    TwoSides(length_mm=LONG, runs="y", match_tol_mm=0.05),
    Slot(length_mm=LONG, width_tol_mm=0.02),
    Slot(length_mm=LONG, runs="y", width_tol_mm=0.02),
    Hole(depth_mm=400, upright_tol_mm=0.02),
    Hole(depth_mm=20, by="knee", upright_tol_mm=0.02),
    Thickness(x_mm=LONG, y_mm=40, thick_tol_mm=0.05),
    Face(x_mm=40, y_mm=LONG, flat_tol_mm=0.05),
    Outline(x_mm=LONG, y_mm=LONG, square_tol_mm=0.02),
]


def jobs() -> str:
    """What is told of jobs on machines in good order and in poor, known and half known."""
    lines: list[str] = []
    more = {"Brackets": MORE, "Too large": TOO_LARGE}
    every = [*starting_jobs(), *(Job(name=n, features=f) for n, f in more.items())]
    for form in ("column_mill", "gantry_router", "round_column"):
        machine = machine_of(form)
        half = dict(list(good(machine).items())[::2])
        grounds = {"good": good(machine), "poor": poor(machine), "half": half, "unknown": {}}
        for named, told in grounds.items():
            here = ground(machine, read(machine, told))
            for job in every:
                lines += [f"== {job.name}, {form}, {named}"]
                lines += _job(machine, fit(job, here), told=named in ("poor", "half"))
                lines.append("")
    return "\n".join(lines)


def _job(machine: Machine, found: JobFit, *, told: bool) -> Iterator[str]:
    yield from tree("sentence", sentence(found))
    if not told:
        return
    yield from tree("features", [told_feature(f, found.ground) for f in found.features])
    yield from tree("first", told_first(found, fix_first(found)))
    kit = [(one.name, one.spec) for one in usual("metric")]
    weights = {("spindle_tram", "lean"): 2.0}
    limits = limits_for(found, weights)
    yield from tree("limits", told_limits(found, limits, _decides(machine, kit), weights))
    for key in registry():
        cost = cost_of(key, found)
        if cost is not None:
            yield from tree(f"{key} takes {cost.ratio:.3g}", cost.text)
    job = made(found, "Avocet")
    yield from tree("foretold", [f.model_copy(update={"shares": []}) for f in job.foretold])
    came = [
        CameOut(feature=f.feature, key=f.key, off=off * (f.most or f.tolerance))
        for f, off in zip(job.foretold, (0.3, 1.5, 4.0) * len(job.foretold), strict=False)
    ]
    yield from tree("compared", compare(job, Outcome(came_out=came)))


def _decides(
    machine: Machine, kit: list[tuple[str, Instrument]]
) -> Callable[[JobLimit], list[str] | None]:
    def found(limit: JobLimit) -> list[str] | None:
        return deciding(
            machine,
            kit,
            kind=limit.kind,
            subject=limit.sources[0].subject or "machine",
            tolerance=limit.tolerance,
            limit=limit.value,
        )

    return found


OTHERS: dict[str, Callable[[], str]] = {
    "beginnings": beginnings,
    "choices": choices,
    "readings": readings,
    "together": together,
    "course": course,
    "jobs": jobs,
}
