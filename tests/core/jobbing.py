"""A machine whose errors are told, and a job to be held against it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from hypothesis import strategies as st

from tests.core.erring import Erring, measured
from tests.core.helpers import about, known
from truing.jobs import FEATURE_TYPES, Ground, Job, JobFit, fit, ground
from truing.jobs.features import (
    Engraving,
    Face,
    Hole,
    Outline,
    Slot,
    SmallCutter,
    Thickness,
    TwoSides,
    Wall,
)
from truing.jobs.witnesses import called, witnesses
from truing.machine import Machine, starting_point
from truing.machine.parts import Thing
from truing.registry import registry

THINGS = [
    Thing(key="v1", name="the vice", sort="vice", runs="left_right"),
    Thing(key="f1", name="the fence", sort="fence", runs="left_right"),
]
FORMS = ("column_mill", "knee_mill", "round_column", "gantry_router")
Errors = Mapping[str, float]


def machine_of(form: Any = "column_mill") -> Machine:
    return starting_point(form).model_copy(update={"things": THINGS})


def read(machine: Machine, told: Mapping[str, tuple[float, float]], *, fresh: bool = True) -> Any:
    """Rounds that found these errors with their U, by the check that is made for each."""
    found: dict[tuple[str, str], dict[str, Any]] = {}
    for name, (value, expanded) in told.items():
        for w in [w for w in witnesses(name, machine) if registry()[w.kind].suits(machine)][:1]:
            about_it = found.setdefault((w.kind, w.subject or "machine"), {})
            about_it[w.quantity] = about(value, expanded, called(name, machine)[1])
    return [known(kind, subject=s, fresh=fresh, **v) for (kind, s), v in found.items()]


def names_of(machine: Machine) -> list[str]:
    """Every error that this machine can have."""
    rises = [f"rise_{r}_{a}" for r in machine.lifts for a in "xy"]
    pairs = [f"{s}_{a}" for s in ("lean", "slope", "scale", "lost", "play") for a in "xy"]
    others = ["flat", "square", "jaw_vice", "jaw_fence", "tir", "shake", "bed"]
    here: Ground = ground(machine, [])
    return [n for n in [*pairs, *rises, *others] if here.source(n) is not None]


def shared(job: Job, machine: Machine, told: Mapping[str, tuple[float, float]]) -> JobFit:
    return fit(job, ground(machine, read(machine, told)))


def states(found: JobFit) -> dict[str, str]:
    """Every source that a job leans on, by name, with its state."""
    return {s.name: s.state for _, d in found.asked for h in d.shares for s in h.sources}


def one(feature: Any, machine: Machine, errors: Errors, u: float = 0.0) -> dict[str, Any]:
    """The demands of one feature on a machine whose errors are read with this U."""
    told = {n: (errors.get(n, 0.0), u) for n in names_of(machine)}
    found = shared(Job(name="one", features=[feature]), machine, told)
    return {d.demand.key: d for d in found.features[0].demands}


def cut(feature: Any, machine: Machine, errors: Errors) -> dict[str, float]:
    board = machine.board is not None
    return measured(Erring(errors), feature, machine.lifts[0], board)


def clock_plate() -> Job:
    return Job(
        name="Clock plate",
        material="brass",
        features=[
            Face(name="its face", x_mm=90, y_mm=60, flat_tol_mm=0.05),
            Outline(name="pivots", x_mm=60, y_mm=40, square_tol_mm=0.05, size_tol_mm=0.1),
            Hole(name="bushes", depth_mm=4, upright_tol_mm=0.01, place_tol_mm=0.06),
        ],
    )


GOOD = {"lean": 0.05, "slope": 0.02, "rise": 0.05, "square": 0.05, "scale": 0.1, "jaw": 0.05}


def good(machine: Machine, **but: tuple[float, float]) -> dict[str, tuple[float, float]]:
    """A machine in good order."""
    usual = {n: (GOOD.get(n.partition("_")[0], 0.006), 0.002) for n in names_of(machine)}
    return {**usual, **but}


def poor(machine: Machine) -> dict[str, tuple[float, float]]:
    return good(
        machine,
        lean_y=(3.0, 0.05),
        square=(1.5, 0.02),
        lost_x=(0.12, 0.004),
        rise_head_y=(4.0, 0.05),
    )


@st.composite
def features(draw: Any) -> Any:
    """One feature with odd sizes; tolerances are set by who asks."""
    size = st.floats(20, 90)
    tol = st.floats(0.02, 0.4)
    kind = draw(st.sampled_from(sorted(FEATURE_TYPES)))
    axis = draw(st.sampled_from(["x", "y"]))
    sided = {
        "depth_mm": draw(st.floats(3, 30)),
        "level_mm": draw(st.floats(1, 8)),
        "flute_mm": draw(st.floats(8, 40)),
        "runs": axis,
        "length_mm": draw(size),
        "held": draw(st.sampled_from(["vice", "fence"])),
    }
    faced = {
        "x_mm": draw(size),
        "y_mm": draw(size),
        "cutter_mm": draw(st.floats(25, 60)),
        "stepover_mm": draw(st.floats(10, 25)),
        "feed": axis,
    }
    made: dict[str, Any] = {
        "face": lambda: Face(**faced, flat_tol_mm=draw(tol)),
        "thickness": lambda: Thickness(**faced, thick_tol_mm=draw(tol)),
        "wall": lambda: Wall(**sided, upright_tol_mm=draw(tol), along_tol_mm=draw(tol)),
        "hole": lambda: Hole(
            depth_mm=draw(st.floats(5, 50)),
            cutter=draw(st.sampled_from(["drill", "fluted"])),
            approach=draw(st.sampled_from(["one", "both"])),
            upright_tol_mm=draw(tol),
            place_tol_mm=draw(tol),
            size_tol_mm=draw(tol),
        ),
        "slot": lambda: Slot(
            runs=axis, ways=draw(st.sampled_from(["once", "both"])), width_tol_mm=draw(tol)
        ),
        "outline": lambda: Outline(
            x_mm=draw(size), y_mm=draw(size), square_tol_mm=draw(tol), size_tol_mm=draw(tol)
        ),
        "engraving": lambda: Engraving(
            x_mm=draw(size), y_mm=draw(size), depth_mm=draw(tol), line_tol_mm=draw(tol)
        ),
        "small_cutter": lambda: SmallCutter(
            teeth=draw(st.integers(1, 4)), chip_mm=draw(st.floats(0.01, 0.05))
        ),
        "two_sides": lambda: TwoSides(**sided, match_tol_mm=draw(tol)),
    }
    return made[kind]()


def some_errors(machine: Machine, rng: Any, most: float = 0.5) -> dict[str, float]:
    """Random errors: slopes to so many mm per m, lengths to a tenth of that in mm."""
    found = {}
    for name in names_of(machine):
        if called(name, machine)[1] == "slope":
            found[name] = float(rng.uniform(-most, most))
        else:
            found[name] = float(rng.uniform(0, most / 10))
    return found
