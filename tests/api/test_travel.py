"""Definitions are written once and travel: what follows from them is what was committed."""

from __future__ import annotations

from json import dumps, loads

import pytest
from django.core.management import call_command

from calmsquare.api import api
from tests.api.test_walls import schema


@pytest.mark.django_db
def test_every_change_of_a_model_has_its_migration(capsys: pytest.CaptureFixture[str]) -> None:
    try:
        call_command("makemigrations", check=True, dry_run=True)
    except SystemExit:
        pytest.fail(f"python manage.py makemigrations\n{capsys.readouterr().out}")


def test_the_front_end_knows_the_api_as_it_is() -> None:
    told = loads(dumps(api.get_openapi_schema(), default=str))
    assert told == schema(), "The API changed: run bin/types and commit what it writes."
