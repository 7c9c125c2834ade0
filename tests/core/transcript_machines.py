"""What is told of machines that are not as machines usually are: their drawing, what each kind of
check proposes, draws and asks on them, and within what limits."""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator
from typing import Any

from pydantic import ValidationError

from tests.core.trees import sum_of
from truing.machine import FORM_TITLES, Machine, starting_point
from truing.machine.ghost import ghost
from truing.machine.mechanisms import described_by, mechanisms_of
from truing.measure.problem import Problem
from truing.registry import registry

SEEDS = 3
TRIES = 12
NOTHING = ": 0 letters, 0 numbers,"


def odd(value: Any, rng: random.Random) -> Any:
    """The same with every measure a bit off and every flag perhaps turned round."""
    if isinstance(value, dict):
        return {key: odd(item, rng) for key, item in value.items()}
    if isinstance(value, list):
        return [odd(item, rng) for item in value]
    if isinstance(value, bool):
        return value != (rng.random() < 0.3)
    return round(value * rng.uniform(0.85, 1.2), 3) if isinstance(value, float) else value


def an_odd_machine(form: Any, rng: random.Random) -> Machine | None:
    """None where none was found that can be described."""
    usual = starting_point(form).model_dump()
    for _ in range(TRIES):
        try:
            return Machine.model_validate(odd(usual, rng))
        except ValidationError:
            continue
    return None


def machines() -> str:
    """Every form, some of them as nobody has one."""
    lines: list[str] = []
    for form in FORM_TITLES:
        for seed in range(SEEDS):
            rng = random.Random(seed)
            machine = an_odd_machine(form, rng)
            if machine is None:
                lines.append(f"== {form} {seed}: none")
                continue
            lines += [f"== {form} {seed}", sum_of("machine", machine)]
            lean, nod = rng.uniform(-2, 2), rng.uniform(-2, 2)
            lines.append(sum_of("ghost", ghost(machine, {"lean_x": lean, "nod": nod})))
            lines.append(sum_of("untrue", ghost(machine, {"nod": nod}, stale={"nod"})))
            lines.append(sum_of("parts", list(described_by(machine, mechanisms_of(machine)))))
            for key, core in registry().items():
                if core.suits(machine):
                    told = (line for line in _asked(core, machine) if NOTHING not in line)
                    lines += [key, *told]
            lines.append("")
    return "\n".join(lines)


def _asked(core: Any, machine: Machine) -> Iterator[str]:
    limits = core.tolerances(machine)
    yield sum_of("  limits", core.limits(limits))
    yield sum_of("  costs", core.cost(machine, limits))
    yield sum_of("  form", core.form(machine))
    yield sum_of("  drawn", core.sketches(machine))
    proposed, example = core.propose(machine), core.example(machine)
    for setup in [s for s in (proposed, None if example == proposed else example) if s]:
        yield sum_of("  stated", setup)
        for name, told in (
            ("stations", lambda s=setup: [core.stations(s), core.order(s), core.passes(s)]),
            ("doubts", lambda s=setup: core.doubts(s, machine)),
            ("programs", lambda s=setup: core.programs(s, machine)),
            ("sketch", lambda s=setup: core.sketch(s, machine)),
        ):
            try:
                yield sum_of(f"    {name}", told())
            except Problem as refused:
                yield f"    {name}: {refused}"


OTHERS: dict[str, Callable[[], str]] = {"machines": machines}
