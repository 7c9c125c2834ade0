"""What the lists beside the tests name is there: tests that the fast run leaves out, and lines of
which a change is said to change nothing."""

from __future__ import annotations

import re
from pathlib import Path

from tests.equivalent import equivalent
from tests.slow import SLOW

ROOT = Path(__file__).parents[2]


def test_every_test_that_is_left_out_is_there() -> None:
    told = {name.partition("[")[0] for name in SLOW.read_text("utf-8").splitlines()}
    assert len(told) > 50
    for name in told:
        path, _, test = name.partition("::")
        found = (ROOT / path).is_file() and (ROOT / path).read_text("utf-8")
        assert found, f"{path} is gone: run python -m tests.slow"
        assert re.search(rf"^ *def {test}\(", found, re.M), f"{name} is gone: run it anew"


def test_every_change_that_is_said_to_change_nothing_is_of_a_line_that_stands() -> None:
    listed = equivalent()
    assert listed
    for (path, was, now), why in listed.items():
        lines = [line.strip() for line in (ROOT / path).read_text("utf-8").splitlines()]
        assert was in lines, f"{path} has no line “{was}” any more: take it off the list"
        assert was != now
        assert why
