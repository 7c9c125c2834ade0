"""Shared set-up: settings of hypothesis, and which tests are slow."""

from pathlib import Path

import pytest
from hypothesis import settings

# examples are bounded by number, never by the clock of a busy machine
settings.register_profile("here", deadline=None, derandomize=True)
settings.load_profile("here")

SLOW = Path(__file__).with_name("slow.txt")
"""Tests that `bin/test --fast` leaves out, as `python -m tests.slow` has timed them."""


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    slow = set(SLOW.read_text("utf-8").splitlines())
    for item in items:
        if item.nodeid.encode("unicode_escape").decode() in slow:
            item.add_marker(pytest.mark.slow)
