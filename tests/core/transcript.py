"""What people are told, as plain text: what a change of the rules does to words, figures, moves and
sheets shows in a difference that can be read. `python -m tests.core.transcript` writes it anew.
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from pathlib import Path
from types import ModuleType
from typing import Any

import numpy as np
from pydantic import BaseModel, TypeAdapter

import truing.kit.instruments
import truing.kit.shims
import truing.kit.tooling
import truing.machine.board
import truing.machine.parts
import truing.surfacing.done
import truing.surfacing.wish
from tests.core import (
    transcript_machines,
    transcript_moves,
    transcript_programs,
    transcript_work,
)
from tests.core.cases import CASES, Case
from tests.core.trees import inline, number, tree
from truing.contract.trends import trends
from truing.jobs import features, made
from truing.jobs.features import Job
from truing.kit.instruments import INSTRUMENT_TITLES, Instrument, needle_at
from truing.kit.tooling import Piece
from truing.machine import FORM_TITLES, Machine, starting_point
from truing.machine.board import Board
from truing.machine.ghost import ghost
from truing.measure.fields import form_schema
from truing.measure.lenient import read_back
from truing.measure.problem import Problem
from truing.moves.sheet import move_sheet
from truing.registry import kind, registry
from truing.standin.apply import apply
from truing.standin.evening import moved, one_round
from truing.standin.truth import (
    FaceTruth,
    GantryTruth,
    RailsTruth,
    SlideTruth,
    StandTruth,
    Truth,
)
from truing.surfacing import foreign
from truing.surfacing.done import Done
from truing.surfacing.wish import Wish
from truing.symptoms import drawn, symptoms

TOLD = Path(__file__).parents[1] / "golden" / "told"
SEED = 5


def sitting(case: Case) -> Iterator[str]:
    """Two rounds of a case, with the first move that can be made between them."""
    core, rng = kind(case.kind), np.random.default_rng(SEED)
    stated = case.case()
    truth = case.truth(rng, stated.machine, stated.setup)
    yield from tree("stated", stated.setup)
    yield from tree("limits", core.limits(stated.tolerances))
    yield from tree("costs", core.cost(stated.machine, stated.tolerances))
    try:
        yield from tree("expected", core.expect(stated))
    except Problem as problem:
        yield from tree("expected", str(problem))
    poor = stated.instrument.model_copy(
        update={"repeatability_mm": 20 * stated.instrument.repeatability_mm + 0.05}
    )
    try:
        yield from tree("expected of a poor one", core.expect(stated.but(instrument=poor)))
    except Problem as problem:
        yield from tree("expected of a poor one", str(problem))
    predicted: list[Any] = []
    for count in (1, 2):
        yield f"round {count}"
        yield from tree("stations", core.stations(stated.setup), 1)
        readings = one_round(core, stated.setup, truth, stated.instrument, rng)
        for reading in readings:
            shown = reading.model_dump(exclude={"id", "read_at", "type", "zeroed_on"})
            told = (f"{k} {inline(v)}" for k, v in shown.items() if v not in (None, ""))
            yield "  read: " + ", ".join(told)[:160]
        known = core.weigh(stated.but(readings=readings))
        yield from tree("finding", known.finding, 1)
        yield from tree("judgement", known.judgement, 1)
        yield from tree("trends", trends(known, predicted), 1)
        yield from tree("figures", core.figures(known), 1)
        yield from tree("drawing", core.drawing(known), 1)
        advice = core.advise(known)
        yield from tree("advice", advice, 1)
        if count == 1 and any(m.stacks or m.needs for m in advice.moves):
            yield from tree("with an empty tin", without_shims(core, known), 1)
        move = next((m for m in advice.moves if m.needs is None), None)
        if move is None:
            return
        yield from tree("sheet", texts(move_sheet(move, "Avocet", "metric")), 1)
        truth = apply(core.key, move, truth, stated.machine, rng)
        stated, predicted = moved(core, known, move), move.predicted


def without_shims(core: Any, known: Any) -> Any:
    """The advice where there is not a single shim; or why there is none."""
    try:
        return core.advise(known.but(stock=[]))
    except Problem as problem:
        return str(problem)


def texts(sheet: Any) -> list[str]:
    """What is written on a sheet, with where it stands."""
    written = [s for s in sheet.shapes if hasattr(s, "text")]
    return [f"{number(s.x_mm)} {number(s.y_mm)} {s.text}" for s in written]


def told_of(key: str) -> str:
    """What is told of every case of a kind."""
    lines: list[str] = []
    for case in (c for c in CASES if c.kind == key):
        lines += [f"== {case.name}", *sitting(case), ""]
    return "\n".join(lines)


def ghosts() -> str:
    """The drawing of every form, erring."""
    lines: list[str] = []
    for form in FORM_TITLES:
        drawn = ghost(starting_point(form), {"lean_x": 0.4, "nod": -0.2}, stale={"nod"})
        lines += [f"== {form}", *tree("ghost", drawn), ""]
    return "\n".join(lines)


def forms() -> str:
    """Every form that is filled in: what it asks, what stands there to begin with, and within what
    bounds it is taken."""
    lines: list[str] = []
    models = {key: core.setup_type for key, core in registry().items()}
    bed = {"board": Board, "wish": Wish, "foreign program": foreign.Stated, "cut": Done}
    for name, model in {"machine": Machine, **bed, **models}.items():
        schema = form_schema(model)
        lines += [f"== {name}", *tree("asks", schema.get("properties", {}))]
        lines += [*tree("parts", schema.get("$defs", {})), ""]
    others = TypeAdapter[Any](Instrument | Piece | Job).json_schema()
    lines += ["== kit and jobs", *tree("parts", others["$defs"]), "", "== bounds"]
    for model in (*bounded(), *models.values()):
        for name, info in model.model_fields.items():
            within = [str(m) for m in info.metadata if str(m).startswith(BOUNDS)]
            if within:
                lines.append(f"{model.__name__}.{name}: {', '.join(within)}")
    lines += ["", "== to begin with"]
    for name, model in models.items():
        given = {
            field: info.get_default(call_default_factory=True)
            for field, info in model.model_fields.items()
            if not info.is_required()
        }
        lines += tree(name, given)
    lines += tree("truth", Truth().model_dump())
    for part in (SlideTruth, RailsTruth, FaceTruth, GantryTruth, StandTruth):
        lines += tree(part.__name__, part().model_dump())
    return "\n".join(lines)


BOUNDS = ("Gt", "Ge", "Lt", "Le", "Min", "Max")


def bounded() -> list[type[BaseModel]]:
    """Machines, instruments, pieces, jobs and programs, with all that they are made of."""
    rooms = (
        *(truing.machine.board, truing.machine.parts),
        *(truing.kit.instruments, truing.kit.tooling, truing.kit.shims),
        *(features, made, truing.surfacing.wish, foreign, truing.surfacing.done),
    )
    found = {
        m
        for room in rooms
        for m in vars(room).values()
        if isinstance(m, type) and issubclass(m, BaseModel) and m.__module__ in own(room)
    }
    return sorted(found | {Machine}, key=lambda m: (m.__name__, m.__module__))


def own(room: ModuleType) -> tuple[str, ...]:
    """The modules of a room: what it only borrows is told where it belongs."""
    return (room.__name__, *(m for m in sys.modules if m.startswith(f"{room.__name__}.")))


TYPED = ("0", "0.42", "+0.42", "-0.0037", "12 div", "1/2 div", "0.5 thou", "400 mm")


def instruments() -> str:
    """What each instrument makes of what is typed, with an instrument of every type."""
    lines: list[str] = []
    for type_ in INSTRUMENT_TITLES:
        known = read_back(Instrument, {"type": type_, "sensitivity_mm_per_m": 0.02})
        facts = {
            "units": known.units,
            "can be zeroed": known.can_zero,
            "plus means": known.plus_means,
            "reads": known.reads_words,
            "repeats": known.repeatability_words,
            "step": known.step_mm,
            "reaches": known.travel_mm,
            "one turn": known.turn_mm,
        }
        lines += [f"== {type_}", *tree("it", facts)]
        for text in TYPED:
            try:
                read = known.read(text)
            except Problem as problem:
                lines.append(f"{text}: {problem}")
                continue
            said = {
                "mm": read.mm,
                "words": known.reading_words(read.mm),
                "size": known.reading_words(read.mm, signed=False),
                "as read": known.as_read(read.mm),
                "needle": needle_at(known, read.mm),
                "question": known.question(read),
            }
            lines += tree(text, said)
        lines.append("")
    return "\n".join(lines)


def sketches() -> str:
    """How each kind is set up, in every way, on the first machine that it suits."""
    lines: list[str] = []
    for key, core in registry().items():
        machine = next(m for m in map(starting_point, FORM_TITLES) if core.suits(m))
        lines += [f"== {key}, {machine.form}"]
        for figure in core.sketches(machine):
            lines += tree("sketch", figure)
        lines.append("")
    return "\n".join(lines)


def seen() -> str:
    """Every symptom, as it is drawn."""
    lines: list[str] = []
    for s in symptoms():
        lines += [f"== {s.key}", *tree("drawn", drawn(s.key)), ""]
    return "\n".join(lines)


OTHERS: dict[str, Callable[[], str]] = {
    "ghosts": ghosts,
    "sketches": sketches,
    "symptoms": seen,
    "forms": forms,
    "instruments": instruments,
    **transcript_machines.OTHERS,
    **transcript_moves.OTHERS,
    **transcript_work.OTHERS,
    **transcript_programs.OTHERS,
}
"""What is told beside the kinds of check."""


def everything() -> Iterator[tuple[str, str]]:
    """File name → what it should hold."""
    for key in registry():
        yield f"{key}.txt", told_of(key)
    for name, text in OTHERS.items():
        yield f"{name}.txt", text()


if __name__ == "__main__":
    TOLD.mkdir(exist_ok=True)
    for name, text in everything():
        (TOLD / name).write_text(text, "utf-8")
