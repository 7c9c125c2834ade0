"""Shared set-up: settings of hypothesis, and which tests are slow."""

import pytest
from hypothesis import settings

from tests.slow import SLOW

# examples are bounded by number, never by the clock of a busy machine
settings.register_profile("here", deadline=None, derandomize=True)
settings.load_profile("here")


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    slow = set(SLOW.read_text("utf-8").splitlines())
    for item in items:
        if item.nodeid.encode("unicode_escape").decode() in slow:
            item.add_marker(pytest.mark.slow)
