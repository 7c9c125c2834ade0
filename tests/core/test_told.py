"""What people are told changes only on purpose: two rounds of every case against the text that was
read and approved. After a change that is meant: `python -m tests.core.transcript`, and read the
difference before it is committed."""

from __future__ import annotations

from difflib import unified_diff

import pytest

from tests.core.transcript import OTHERS, TOLD, told_of
from truing.registry import registry


@pytest.mark.parametrize("name", [*OTHERS, *registry()])
def test_what_is_told_is_what_was_approved(name: str) -> None:
    approved = (TOLD / f"{name}.txt").read_text("utf-8").splitlines()
    told = (OTHERS[name]() if name in OTHERS else told_of(name)).splitlines()
    differences = list(unified_diff(approved, told, "approved", "told", lineterm="", n=2))
    assert not differences, "\n".join(differences[:60])


def test_nothing_is_approved_that_is_told_no_more() -> None:
    assert {p.stem for p in TOLD.iterdir()} == {*OTHERS, *registry()}
