"""Small makers for core tests."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from datetime import UTC, datetime, timedelta
from typing import Any

from truing.contract.case import Case
from truing.contract.history import History
from truing.contract.known import Known
from truing.contract.readings import GradeReading, LengthReading, ObservationReading, Place
from truing.kit.instruments import PlungerDial
from truing.kit.shims import Shim
from truing.kit.tooling import Piece
from truing.machine import FORM_TITLES, Machine, starting_point
from truing.measure.estimate import Estimate
from truing.registry import kind

TRAM = kind("spindle_tram")
FINE = PlungerDial(graduation_mm=0.0002, range_mm=10, repeatability_mm=0.0001, hysteresis_mm=0)
START = datetime(2026, 3, 1, tzinfo=UTC)
NOTHING = History()


def setup(**more: Any) -> Any:
    return TRAM.setup_type(**{"radius_mm": 100.0, "radius_u_mm": 0.0, **more})


def readings(values: Iterable[tuple[str, float]], **more: Any) -> list[LengthReading]:
    return [
        LengthReading(
            id=f"r{i}", station=s, shown_mm=v, read_at=START + timedelta(seconds=i), **more
        )
        for i, (s, v) in enumerate(values)
    ]


def leans(finding: Any) -> dict[str, float]:
    return {q.key: q.estimate.value for q in finding.quantities}


def answers(values: Iterable[tuple[str, str]], where_mm: float | None = None) -> list[GradeReading]:
    return [
        GradeReading(
            id=f"g{i}",
            station=s,
            grade=v,
            read_at=START + timedelta(hours=1, seconds=i),
            place=None if where_mm is None else Place(x_mm=where_mm),
        )
        for i, (s, v) in enumerate(values)
    ]


def about(
    value: float, expanded: float = 0.001, measure: Any = "slope", dof: float | None = None
) -> Estimate:
    """A value known to ±expanded."""
    return Estimate(measure=measure, value=value, u=expanded / 2, expanded=expanded, dof=dof)


def answered(core: Any, setup: Any, said: Mapping[str, float | str]) -> list[Any]:
    """Readings of lengths (mm) and answers, by station, as that station takes them."""
    plan = {s.key: s for s in core.stations(setup)}
    made: list[Any] = []
    for i, (key, value) in enumerate(said.items()):
        common: dict[str, Any] = {"id": f"r{i}", "station": key, "read_at": START}
        if isinstance(value, float):
            made.append(LengthReading(**common, shown_mm=value))
        elif plan[key].reads == "observation":
            made.append(ObservationReading(**common, grade=value))
        else:
            made.append(GradeReading(**common, grade=value))
    return made


def known(
    kind_key: str, *, subject: str = "machine", fresh: bool = True, **values: Estimate
) -> Known:
    """What another kind found, last week."""
    return Known(
        kind=kind_key,
        subject=subject,
        at=START - timedelta(days=7),
        fresh=fresh,
        verdict="true",
        values=values,
        limits={},
    )


def some_machine(core: Any) -> Machine:
    """A machine that this kind of check suits."""
    forms = ("column_mill", "gantry_router", *FORM_TITLES)
    return next(m for m in map(starting_point, forms) if core.suits(m))


def case_of(
    core: Any,
    how: Any,
    read: Sequence[Any] = (),
    dial: Any = FINE,
    history: History = NOTHING,
    *,
    limits: dict[str, float] | None = None,
    machine: Machine | None = None,
    stock: Sequence[Shim] = (),
    found: Any = None,
    known: Sequence[Known] = (),
    pieces: Mapping[str, Piece] = {},
) -> Case[Any, Any]:
    machine = machine or some_machine(core)
    return Case(
        setup=how,
        instrument=dial,
        machine=machine,
        tolerances=core.tolerances(machine) if limits is None else limits,
        readings=read,
        history=history,
        stock=stock,
        found=found,
        known=known,
        pieces=pieces,
    )


def evaluate(core: Any, how: Any, read: Sequence[Any], dial: Any, history: History) -> Any:
    return core.evaluate(case_of(core, how, read, dial, history))


def judge(core: Any, how: Any, finding: Any, limits: dict[str, float]) -> Any:
    return core.judge(case_of(core, how, limits=limits, found=finding))


def advise(
    core: Any,
    how: Any,
    finding: Any,
    limits: dict[str, float],
    machine: Machine,
    dial: Any,
    stock: Sequence[Shim],
    history: History,
) -> Any:
    stated = case_of(core, how, (), dial, history, limits=limits, machine=machine, stock=stock)
    return core.advise(stated.but(found=finding))


def expect(core: Any, how: Any, dial: Any, limits: dict[str, float]) -> Any:
    return core.expect(case_of(core, how, dial=dial, limits=limits))


def figures(
    core: Any, how: Any, finding: Any, history: History = NOTHING, **limits: float
) -> list[Any]:
    stated = case_of(core, how, history=history, found=finding)
    return list(core.figures(stated.but(tolerances={**stated.tolerances, **limits})))
