"""Databases of earlier versions, as `pg_dump` wrote them out: the demo of today is opened in place
over each, and the record in it is read on as it was judged."""

from __future__ import annotations

import lzma
import os
import re
import subprocess
import sys
from collections.abc import Iterator
from itertools import product
from pathlib import Path
from typing import Any
from uuid import uuid4

import psycopg
import pytest
from django.apps import apps as django_apps
from django.contrib.auth.models import User
from django.db import connection
from django.test import Client

from calmsquare.logbook.models import Check, Photo, Round
from calmsquare.workshop.models import Machine, Membership, Piece, Workshop
from tests.api.conftest import API, Person
from tests.api.test_walls import routes
from tests.pattern import ROOT, address
from truing import VERSION
from truing.registry import registry

DUMPS = sorted((ROOT / "tests/golden/databases").glob("*.sql.xz"))
"""Made by `pg_dump --no-owner --no-privileges` after the demo of that version had been opened once
by a visitor."""


def psql() -> str:
    return str(max(Path("/usr/lib/postgresql").glob("*/bin/psql"), default="psql"))


@pytest.fixture(params=DUMPS, ids=lambda p: p.name.removesuffix(".sql.xz"))
def earlier(request: Any, django_db_blocker: Any) -> Iterator[str]:
    """The name of a database as that version left it."""
    name = f"calmsquare_earlier_{uuid4().hex[:8]}"
    with psycopg.connect(address("postgres"), autocommit=True) as admin:
        admin.execute(f"CREATE DATABASE {name}")  # type: ignore[arg-type]
    try:
        subprocess.run(
            [psql(), "-q", "-v", "ON_ERROR_STOP=1", address(name)],
            input=lzma.decompress(request.param.read_bytes()),
            check=True,
            stdout=subprocess.DEVNULL,
        )
        yield name
    finally:
        with psycopg.connect(address("postgres"), autocommit=True) as admin:
            admin.execute(f"DROP DATABASE {name} WITH (FORCE)")  # type: ignore[arg-type]


@pytest.fixture
def within(earlier: str, django_db_blocker: Any) -> Iterator[Any]:
    """The application looks at that database, once it is called."""
    own = connection.settings_dict["NAME"]

    def look() -> None:
        connection.close()
        connection.settings_dict["NAME"] = earlier

    with django_db_blocker.unblock():
        yield look
        connection.close()
        connection.settings_dict["NAME"] = own


def brought_up(name: str) -> None:
    """As bin/demo does it."""
    env = {**os.environ, "DATABASE_URL": address(name), "DEMO": "1"}
    command = [sys.executable, "manage.py", "load_demo", "--migrate"]
    done = subprocess.run(command, cwd=ROOT, env=env, check=False, capture_output=True, text=True)
    assert done.returncode == 0, done.stderr[-2000:]


def test_the_demo_is_opened_in_place_and_the_record_read_on(
    earlier: str, within: Any, settings: Any
) -> None:
    with psycopg.connect(address(earlier), autocommit=True) as old:
        # the visitor of then is somebody who keeps a shed, and another comes to look
        old.execute("UPDATE auth_user SET username = 'own' WHERE username LIKE 'visitor-%'")
        old.execute("UPDATE workshop_workshop SET is_demo = false WHERE NOT is_pattern")
        kept = "workshop_id IN (SELECT id FROM workshop_workshop WHERE NOT is_demo)"
        told = old.execute(
            "SELECT r.id, r.verdict FROM logbook_round r JOIN logbook_check c"
            f" ON c.id = r.check_run_id JOIN workshop_machine m ON m.id = c.machine_id WHERE {kept}"
        )
        verdicts = {str(id): verdict for id, verdict in told}
    brought_up(earlier)
    # once more changes nothing, and neither does a database that is up already
    brought_up(earlier)
    within()
    assert [w.pattern_version for w in Workshop.objects.filter(is_pattern=True)] == [VERSION]
    own = User.objects.get(username="own")
    shed = Workshop.objects.get(memberships__user=own)
    me = Person(own, workshop=shed)
    answered = _everything(me, shed)
    assert answered > 100
    found = {str(r.pk): r for r in Round.objects.filter(check_run__machine__workshop=shed)}
    assert set(found) == set(verdicts)
    assert len(verdicts) > 10
    for check in Check.objects.filter(machine__workshop=shed):
        for round in me.get(f"/checks/{check.pk}")["rounds"]:
            was = verdicts[round["id"]]
            assert found[round["id"]].verdict == was
            assert round["brief"]["verdict"] == (was or None), round["id"]
    settings.DEMO = True
    stranger = Client()
    opened = stranger.post(f"{API}/demo/open", content_type="application/json")
    assert opened.status_code == 200
    names = {m["name"] for m in stranger.get(_shed(opened)).json()["machines"]}
    assert names == {"Avocet", "Curlew", "Dunlin"}


def _shed(opened: Any) -> str:
    return f"{API}/workshops/{opened.json()['workshops'][0]['id']}"


def _everything(me: Person, shed: Workshop) -> int:
    """Every call by which screens read, for every record of a shed; how many were answered."""
    of = {"machine__workshop": shed}
    ids: dict[str, list[Any]] = {
        "workshop_id": [shed.pk],
        "machine_id": _all(Machine, workshop=shed),
        "check_id": _all(Check, **of),
        "round_id": _all(Round, check_run__machine__workshop=shed),
        "photo_id": _all(Photo, **of),
        "piece_id": _all(Piece, workshop=shed),
        "kind": list(registry()),
        "symptom": ["ridges"],
    }
    for name in ("job", "making", "evening", "plan", "program"):
        listed = {"job": "jobs.Job", "making": "jobs.Making", "evening": "planning.Evening"}
        listed |= {"plan": "surfacing.SurfacingPlan", "program": "surfacing.Program"}
        model = django_apps.get_model(listed[name])
        path = str(model.WORKSHOP_PATH)
        ids[f"{name}_id"] = _all(model, **{path: shed})
    answered = 0
    for method, path, _ in routes():
        names = re.findall(r"\{(\w+)\}", path)
        if method != "get" or not names or {"format", "key"} & set(names):
            continue
        for values in product(*(ids[name] for name in names)):
            at = path.format(**dict(zip(names, values, strict=True)))
            if path.endswith("/sheet"):
                # on paper is a move that was advised, and of most rounds none was
                continue
            got = me.client.get(f"{API}{at}")
            assert got.status_code == 200, (at, got.status_code, got.content[:300])
            told = got.json() if "json" in got.headers["Content-Type"] else {}
            assert not (isinstance(told, dict) and told.get("faults")), (at, told["faults"])
            answered += 1
    assert Membership.objects.filter(user=me.user, workshop=shed).exists()
    return answered


def _all(model: Any, **where: Any) -> list[Any]:
    return list(model.objects.filter(**where).values_list("pk", flat=True))
