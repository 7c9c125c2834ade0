"""Median time of the machine screen's one call, with a year of log on ten machines.

Usage: DATABASE_URL=… SECRET_KEY=… .venv/bin/python -m bench.course. What it writes is rolled back.
"""

from __future__ import annotations

import os
import time
from datetime import timedelta
from statistics import median
from uuid import uuid4

import django

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "calmsquare.settings")
django.setup()

from django.contrib.auth.models import User  # noqa: E402
from django.db import connection, transaction  # noqa: E402
from django.test import Client  # noqa: E402
from django.test.utils import CaptureQueriesContext  # noqa: E402
from django.utils import timezone  # noqa: E402

from calmsquare.demo.services import load  # noqa: E402
from calmsquare.logbook.models import Check, Event, Move, Reading, Round  # noqa: E402
from calmsquare.workshop.models import Machine, Membership  # noqa: E402

MACHINES = 10
SITTINGS = 52
ROUNDS = 3
EVENTS = 100
CALLS = 30


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
                Move.objects.create(
                    round=pattern, said="Tapped", made={"mechanism": "head_pivot"}, made_at=began
                )
    for n in range(EVENTS):
        at = timezone.now() - timedelta(days=3.5 * (n + 1))
        Event.objects.create(machine=machine, kind="crash", mechanisms=["head_pivot"], at=at)


@transaction.atomic
def main() -> None:
    """Seed, time, print, roll back."""
    workshop = load()
    user = User.objects.create_user("bench@example.org")
    Membership.objects.create(workshop=workshop, user=user, role="owner")
    trams = Round.objects.filter(check_run__kind="spindle_tram", verdict="true")
    pattern = trams.exclude(snapshot=None).first()
    model = workshop.machines.first()
    assert pattern
    assert model
    machines = list(workshop.machines.all())
    while len(machines) < MACHINES:
        machines.append(Machine.objects.create(workshop=workshop, name="Bench", spec=model.spec))
    began = pattern.pk
    for machine in machines:
        a_year(machine, Round.objects.get(pk=began))
    with connection.cursor() as cursor:
        # what the database does by itself within minutes
        cursor.execute("ANALYZE")
    client = Client(SERVER_NAME="127.0.0.1")
    client.force_login(user, "django.contrib.auth.backends.ModelBackend")
    for name, path in (
        ("machine", f"/api/v1/machines/{machines[-1].pk}"),
        ("workshop", f"/api/v1/workshops/{workshop.pk}"),
    ):
        times = []
        with CaptureQueriesContext(connection) as seen:
            assert client.get(path).status_code == 200
            queries = len(seen)
        for _ in range(CALLS):
            start = time.perf_counter()
            client.get(path)
            times.append((time.perf_counter() - start) * 1000)
        print(f"{name}: median of {CALLS}: {median(times):.1f} ms, {queries} queries")
    transaction.set_rollback(True)


if __name__ == "__main__":
    main()
