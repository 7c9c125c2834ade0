"""Every registered kind keeps the contract."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from typing import Any

import pytest

from tests.core.check_kind import ON_A_ROUND, check_answers, rounds_of
from truing.course.guide import guide
from truing.registry import registry

PROMISES = [
    pytest.param(key, check, id=f"{key}-{check.__name__}")
    for key in registry()
    for check in ON_A_ROUND
]


@cache
def rounds(key: str) -> list[Any]:
    return list(rounds_of(registry()[key]))


@pytest.mark.parametrize(("key", "check"), PROMISES)
def test_a_kind_keeps_its_promises(key: str, check: Callable[..., None]) -> None:
    core, played = registry()[key], rounds(key)
    assert played, "no starting machine suits it"
    for case in played:
        check(core, case)


@pytest.mark.parametrize("key", list(registry()))
def test_the_simulated_machine_answers_its_moves(key: str) -> None:
    check_answers(registry()[key])


@pytest.mark.parametrize("key", list(registry()))
def test_every_way_of_reading_has_a_name_and_steps_are_told_of_real_ways(key: str) -> None:
    core = registry()[key]
    ways = core.ways()
    assert set(ways) == set(core.takes_by_way()) - {""}
    assert all(name.strip() for name in ways.values())
    assert len(set(ways.values())) == len(ways)
    assert set(guide(key).by_way) <= set(ways)
