"""A database of an earlier version is brought up, and everything in it is read."""

from __future__ import annotations

import json
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from uuid import uuid4

import pytest
from django.contrib.auth.models import User
from django.db import connection
from django.db.migrations.executor import MigrationExecutor
from django.test import Client

from calmsquare.surfacing.models import Program
from tests.api.conftest import API

GOLDEN = Path(__file__).parents[1] / "golden" / "records_1"
BEFORE = [("logbook", "0003_parts_and_grades"), ("workshop", "0002_course")]


def migrated(to: list[tuple[str, str]]) -> Any:
    executor = MigrationExecutor(connection)
    executor.migrate(to)
    return MigrationExecutor(connection).loader.project_state(to).apps


def latest() -> None:
    executor = MigrationExecutor(connection)
    executor.migrate(executor.loader.graph.leaf_nodes())


def sittings() -> dict[str, Any]:
    files = sorted(f for f in GOLDEN.glob("*.json"))
    found = {f.stem: json.loads(f.read_text("utf-8")) for f in files}
    return {name: kept for name, kept in found.items() if "rounds" in kept}


def inserted(apps: Any, shed: Any, name: str, kept: Any) -> Any:
    """A sitting as the program of that time kept it; its check."""
    start = datetime(2026, 3, 1, 19, tzinfo=UTC)
    instrument = apps.get_model("workshop", "Instrument").objects.create(
        workshop=shed, name=name, spec=kept["rounds"][0]["instrument_spec"]
    )
    machine = apps.get_model("workshop", "Machine").objects.create(
        workshop=shed, name=name, spec=kept["rounds"][-1]["snapshot"]["machine"]
    )
    check = apps.get_model("logbook", "Check").objects.create(
        machine=machine, kind=kept["kind"], opened_at=start
    )
    for number, r in enumerate(kept["rounds"], 1):
        at = start + timedelta(minutes=20 * number)
        last = number == len(kept["rounds"])
        setup = r["setup"]
        round = apps.get_model("logbook", "Round").objects.create(
            check_run=check,
            number=number,
            part=setup.get("slide", setup.get("stage", "")),
            setup=setup,
            instrument=instrument,
            instrument_spec=r["instrument_spec"],
            opened_at=at,
            settled_at=None if last else at,
            verdict=r["verdict"],
            outcome=r["outcome"],
            predicted=r["predicted"],
            snapshot=None if last else r["snapshot"],
            core_version="0.1.0",
        )
        for i, reading in enumerate(r["readings"]):
            apps.get_model("logbook", "Reading").objects.create(
                round=round,
                station=reading["station"],
                reads=reading["kind"],
                grade=reading.get("grade", ""),
                note=reading.get("text", ""),
                sent={},
                text=str(reading.get("shown_mm", "")),
                unit="mm",
                shown_mm=reading.get("shown_mm", reading.get("where_mm")),
                read_at=at + timedelta(seconds=i),
            )
        if r["advised"] and not last:
            apps.get_model("logbook", "Move").objects.create(
                round=round,
                advised=r["advised"],
                made=r["made"],
                nipped="+1 div",
                tight="+2 div",
                made_at=at + timedelta(minutes=9),
            )
    return check


@pytest.mark.django_db(transaction=True)
def test_records_of_format_1_are_shown_judged_and_gone_on_with() -> None:
    user = User.objects.create_user("merrin@example.org", first_name="Merrin")
    try:
        apps = migrated(BEFORE)
        shed = apps.get_model("workshop", "Workshop").objects.create(name="Shed")
        apps.get_model("workshop", "Membership").objects.create(
            workshop=shed, user_id=user.pk, role="owner"
        )
        checks = {name: inserted(apps, shed, name, kept) for name, kept in sittings().items()}
    finally:
        latest()
    client = Client()
    client.force_login(user, "django.contrib.auth.backends.ModelBackend")

    def get(path: str) -> Any:
        got = client.get(f"{API}{path}")
        assert got.status_code == 200, (path, got.content[:400])
        return got.json()

    machines = {m["name"]: m for m in get(f"/workshops/{shed.pk}")["machines"]}
    assert set(machines) == set(checks)
    for name, kept in sittings().items():
        told = get(f"/checks/{checks[name].pk}")
        first = told["rounds"][0]
        assert first["brief"]["verdict"] == (
            kept["rounds"][0]["verdict"] if kept["rounds"][0]["outcome"]["ready"] else None
        )
        finding = get(f"/rounds/{first['id']}/finding")
        for q, was in zip(
            finding["finding"]["quantities"],
            kept["rounds"][0]["outcome"]["finding"]["quantities"],
            strict=True,
        ):
            assert q["estimate"]["value"] == was["estimate"]["value"]
        machine = get(f"/machines/{machines[name]['id']}")
        standing = next(c for c in machine["checks"] if c["kind"] == kept["kind"])
        read = [standing, *standing["parts"]]
        assert any(s["status"] != "unmeasured" for s in read), (name, standing)
        assert standing["values"] or kept["kind"] in ("inspection", "drive_proof")
        if len(kept["rounds"]) > 1 and first["move"]:
            assert [n["text"] for n in first["move"]["needle"]] == ["+1 div", "+2 div"]
            # taken back by the rules of today: its stacks come out again
            body = {"taken_back": True}
            path = f"{API}/records/moves/{first['move']['id']}/taken-back"
            got = client.put(path, body, content_type="application/json")
            assert got.status_code == 200, (name, got.content[:300])
        grades = [r for r in told["rounds"][0]["readings"] if r["reads"] == "grade"]
        assert all(r["shown_mm"] is None for r in grades)
    assert len(get(f"/workshops/{shed.pk}/logbook")["entries"]) > 0
    # and it is gone on with: another round of an old sitting is read with what was learnt then
    tram = get(f"/checks/{checks['spindle_tram_swing'].pk}")
    last = tram["rounds"][-1]
    body = {"station": "12", "text": "0.01", "unit": "mm", "read_at": "2026-03-02T19:00:00Z"}
    got = client.put(
        f"{API}/rounds/{last['id']}/readings/{uuid4()}", body, content_type="application/json"
    )
    assert got.status_code == 200, got.content[:300]


@pytest.mark.django_db(transaction=True)
def test_programs_of_an_earlier_version_are_the_same_in_pieces() -> None:
    whole = bytes(range(256)) * (40 * 1024)
    try:
        apps = migrated([("surfacing", "0002_stamped")])
        shed = apps.get_model("workshop", "Workshop").objects.create(name="Shed")
        machine = apps.get_model("workshop", "Machine").objects.create(
            workshop=shed, name="Curlew", spec={}
        )
        for name, data in (("large", whole), ("small", b"M30"), ("none", b"")):
            apps.get_model("surfacing", "Program").objects.create(
                machine=machine,
                made_at=datetime(2026, 3, 1, tzinfo=UTC),
                name=name,
                data=data,
                size=len(data),
                stated={},
                ground={},
            )
    finally:
        latest()
    kept = {p.name: b"".join(p.pieces()) for p in Program.objects.all()}
    assert kept == {"large": whole, "small": b"M30", "none": b""}
