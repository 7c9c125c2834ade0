"""Shared set-up: settings of hypothesis, what databases begin as, and which tests are slow."""

import pytest
from django.db import connection
from hypothesis import settings

from tests.pattern import empty_pattern
from tests.slow import SLOW

# examples are bounded by number, never by the clock of a busy machine
settings.register_profile("here", deadline=None, derandomize=True)
settings.load_profile("here")


@pytest.fixture(scope="session")
def django_db_modify_db_settings(
    django_db_modify_db_settings_parallel_suffix: None,
    django_db_keepdb: bool,
    request: pytest.FixtureRequest,
) -> None:
    """Where several processes share a run, each begins with a copy of one database, and makes no
    tables of its own."""
    shared = getattr(request.config, "workerinput", None)
    if shared and not django_db_keepdb:
        connection.settings_dict["TEST"]["TEMPLATE"] = empty_pattern(shared["testrunuid"])


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    slow = set(SLOW.read_text("utf-8").splitlines())
    for item in items:
        if item.nodeid.encode("unicode_escape").decode() in slow:
            item.add_marker(pytest.mark.slow)
