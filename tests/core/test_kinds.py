"""Every registered kind keeps the contract."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from typing import Any

import pytest

from tests.core.check_kind import ON_A_ROUND, check_answers, rounds_of
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
