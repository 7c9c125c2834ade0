"""What people wait for, in one table: medians, queries and sizes, with a plain loop's time beside.

Usage: DATABASE_URL=… SECRET_KEY=… .venv/bin/python -m bench.speed. Ten machines with a year of log
each stand in the workshop; what it writes is rolled back. Memory is kept as the server keeps it.
"""

from __future__ import annotations

import json
import os
import time
from collections.abc import Callable
from datetime import timedelta
from statistics import median
from typing import Any
from uuid import uuid4

import django

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "calmsquare.settings")
django.setup()

from django.contrib.auth.models import User  # noqa: E402
from django.db import connection, transaction  # noqa: E402
from django.test import Client  # noqa: E402
from django.test.utils import CaptureQueriesContext  # noqa: E402
from django.utils import timezone  # noqa: E402

from bench.loop import plain_loop  # noqa: E402
from calmsquare.demo.services import fresh_shed, load  # noqa: E402
from calmsquare.logbook.models import Check, Event, Move, Reading, Round  # noqa: E402
from calmsquare.memory import settle  # noqa: E402
from calmsquare.workshop.models import Machine, Workshop  # noqa: E402
from truing.contract.logs import read_log  # noqa: E402

MACHINES = 10
SITTINGS = 52
ROUNDS = 3
EVENTS = 100
CALLS = 30
TRAM = {"radius_mm": 100, "passes": 9, "positions": "12, 3, 6, 9", "along_beam_mm": ""}
API = "/api/v1"


def a_year(machine: Machine, pattern: Round) -> None:
    """A sitting of three rounds a week, two moves in each, and an event every few days."""
    readings = list(pattern.readings.all())
    for week in range(SITTINGS):
        at = timezone.now() - timedelta(weeks=week + 1)
        check = Check.objects.create(
            machine=machine, kind="spindle_tram", opened_at=at, closed_at=at
        )
        for number in range(1, ROUNDS + 1):
            began = at + timedelta(minutes=15 * number)
            pattern.pk, pattern.check_run, pattern.number = uuid4(), check, number
            pattern.opened_at = pattern.settled_at = began
            pattern.save(force_insert=True)
            for reading in readings:
                reading.pk, reading.round, reading.read_at = uuid4(), pattern, began
            Reading.objects.bulk_create(readings)
            if number < ROUNDS:
                made = {"key": "k", "mechanism": "head_pivot", "aimed": {}, "format": 2}
                Move.objects.create(round=pattern, said="Tapped", made=made, made_at=began)
    for n in range(EVENTS):
        at = timezone.now() - timedelta(days=3.5 * (n + 1))
        Event.objects.create(machine=machine, kind="crash", mechanisms=["head_pivot"], at=at)


class Table:
    """Calls, timed one after the other, a line each."""

    def __init__(self, user: User, *, quiet: bool = False) -> None:
        self.client = Client(SERVER_NAME="127.0.0.1")
        self.client.force_login(user, "django.contrib.auth.backends.ModelBackend")
        if not quiet:
            print(f"{'what':44}{'median':>10}{'queries':>9}{'answer':>11}")

    def call(self, method: str, path: str, body: Any = None) -> Any:
        got = self.client.generic(
            method,
            f"{API}{path}",
            b"" if body is None else json.dumps(body).encode(),
            content_type="application/json",
        )
        assert got.status_code == 200, got.content[:500]
        return got

    def line(
        self,
        name: str,
        work: Callable[[int], Any],
        calls: int = CALLS,
        before: Callable[[], Any] = lambda: None,
    ) -> None:
        """Time so many calls of `work`, which is told which of them it is; `before` each of them
        is not timed."""
        work(-1)
        before()
        with CaptureQueriesContext(connection) as seen:
            answer = work(-2)
            queries = len(seen)
        times = []
        for i in range(calls):
            before()
            began = time.perf_counter()
            work(i)
            times.append((time.perf_counter() - began) * 1000)
        size = f"{len(answer.content) / 1000:8.1f} kB" if hasattr(answer, "content") else ""
        print(f"{name:44}{median(times):7.1f} ms{queries:9}{size:>11}")


def opened(table: Table, machine: Machine, kind: str, instrument: str, **setup: Any) -> str:
    """A round of a check, set up; its id."""
    check = table.call("POST", f"/machines/{machine.pk}/checks", {"id": str(uuid4()), "kind": kind})
    round = check.json()["rounds"][-1]
    stated = {**(round["suggested"] or {}), **setup}
    body = {"version": round["version"], "instrument_id": instrument, "setup": stated}
    table.call("PUT", f"/rounds/{round['id']}/setup", body)
    return str(round["id"])


def reading(station: str, text: str) -> dict[str, Any]:
    """A reading as a page sends it."""
    return {"station": station, "text": text, "unit": "mm", "read_at": timezone.now().isoformat()}


def seeded(visitor: User) -> tuple[Workshop, list[Machine]]:
    """A shed with ten machines and a year of log on each."""
    shed = fresh_shed(visitor)
    trams = Round.objects.filter(check_run__machine__workshop=shed, check_run__kind="spindle_tram")
    pattern = trams.filter(verdict="true").exclude(snapshot=None).first()
    assert pattern
    machines = list(shed.machines.all())
    while len(machines) < MACHINES:
        machines.append(
            Machine.objects.create(
                workshop=shed, name="Bench", spec=machines[len(machines) % 3].spec
            )
        )
    began = pattern.pk
    for machine in machines:
        a_year(machine, Round.objects.get(pk=began))
    with connection.cursor() as cursor:
        # what the database does by itself within minutes
        cursor.execute("ANALYZE")
    return shed, machines


@transaction.atomic
def main() -> None:
    """Seed, time, print, roll back."""
    print(f"plain loop: {plain_loop():.2f} s for ten million additions")
    load()
    visitor = User.objects.create_user("visitor-bench@saltmarsh.invalid")
    shed, machines = seeded(visitor)
    table, machine = Table(visitor), machines[-1]
    settle()
    dial = str(shed.instruments.get(name="Plunger dial 0.001").pk)
    table.line("machine screen", lambda i: table.call("GET", f"/machines/{machine.pk}"))
    table.line("workshop screen", lambda i: table.call("GET", f"/workshops/{shed.pk}"))
    tram = opened(table, machine, "spindle_tram", dial, **TRAM)
    stations = ("12", "3", "6", "9")
    typed = {"station": "12", "text": "+0.01", "unit": "mm"}
    table.line("preview", lambda i: table.call("POST", f"/rounds/{tram}/preview", typed))
    table.line(
        "reading kept",
        lambda i: table.call(
            "PUT", f"/rounds/{tram}/readings/{uuid4()}", reading(stations[i % 4], f"0.0{i % 9}")
        ),
    )
    table.line("finding, asked for again", lambda i: table.call("GET", f"/rounds/{tram}/finding"))
    rails = next(m for m in machines if m.name == "Bench" and m.spec["rails"])
    many = [round(10.0 + 55 * i, 1) for i in range(20)]
    grid = opened(table, rails, "rail_twist", dial, way="stations", places_mm=many, passes=10)
    keys = [f"{which}:{x:g}" for which in ("first", "second") for x in many]

    def batch(i: int) -> Any:
        items = [
            {"id": str(uuid4()), "reading": reading(keys[n % len(keys)], f"0.0{n % 7}")}
            for n in range(500)
        ]
        return table.call("POST", f"/rounds/{grid}/batch", {"readings": items})

    def empty() -> None:
        Reading.objects.filter(round=grid).delete()

    table.line("a batch of 500 readings", batch, calls=5, before=empty)
    table.line(
        "reading kept in a round of 500",
        lambda i: table.call("PUT", f"/rounds/{grid}/readings/{uuid4()}", reading(keys[0], "0.01")),
        calls=5,
    )
    lines = "x,y,z\n" + "\n".join(f"{i},{i % 7},{i / 1e6:.6f}" for i in range(100_000))
    table.line("a log of 100 000 points, read", lambda i: read_log(lines), calls=5)
    table.line("a shed copied for a visitor", lambda i: fresh_shed(visitor), calls=5)
    print(f"plain loop: {plain_loop():.2f} s for ten million additions")
    transaction.set_rollback(True)


if __name__ == "__main__":
    main()
