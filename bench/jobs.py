"""Whether a job of 40 features is good enough on ten machines: medians, queries, and beside them a
plain loop of the same length.

Usage: DATABASE_URL=… SECRET_KEY=… .venv/bin/python -m bench.jobs. Ten copies of the demo's machines
stand in the workshop; what it writes is rolled back.
"""

from __future__ import annotations

import os
import time
from collections.abc import Callable
from statistics import median
from typing import Any
from uuid import uuid4

import django

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "calmsquare.settings")
django.setup()

from django.contrib.auth.models import User  # noqa: E402
from django.db import connection, transaction  # noqa: E402
from django.test import Client  # noqa: E402

from calmsquare.demo.services import fresh_shed, load  # noqa: E402
from calmsquare.jobs.grounds import grounds  # noqa: E402
from calmsquare.logbook.models import Check, Round  # noqa: E402
from calmsquare.memory import settle  # noqa: E402
from calmsquare.workshop.models import Machine  # noqa: E402
from truing.jobs import FEATURE_TYPES, Job, fit  # noqa: E402
from truing.jobs.first import fix_first  # noqa: E402
from truing.jobs.limits import limits_for  # noqa: E402

MACHINES = 10
FEATURES = 40
CALLS = 20


def a_job() -> Job:
    """Every kind of feature in turn, small enough for every machine."""
    small = {"x_mm": 60, "y_mm": 40, "length_mm": 50, "held": "table"}
    features = []
    for i in range(FEATURES):
        kind, model = list(FEATURE_TYPES.items())[i % len(FEATURE_TYPES)]
        fields = {n: v for n, v in small.items() if n in model.model_fields}
        asked = [n for n in model.model_fields if n.endswith("_tol_mm") and n != "along_tol_mm"]
        features.append({"kind": kind, **fields, **dict.fromkeys(asked, 0.05)})
    return Job.model_validate({"name": "Forty", "features": features})


def more(shed: Any) -> list[Machine]:
    """Machines until there are ten, each with the record of one of the demo's."""
    patterns = list(Machine.objects.filter(workshop=shed))
    for n in range(MACHINES - len(patterns)):
        pattern = Machine.objects.get(pk=patterns[n % len(patterns)].pk)
        checks = list(Check.objects.filter(machine=pattern))
        pattern.pk, pattern.name = uuid4(), f"M{n}"
        pattern.save(force_insert=True)
        for check in checks:
            rounds = list(Round.objects.filter(check_run=check))
            check.pk, check.machine = uuid4(), pattern
            check.save(force_insert=True)
            for r in rounds:
                r.pk, r.check_run = uuid4(), check
            Round.objects.bulk_create(rounds)
    return list(Machine.objects.filter(workshop=shed).select_related("workshop"))


def ms(call: Callable[[], Any], times: int = CALLS) -> float:
    """Median of so many calls, in ms."""
    took = []
    for _ in range(times):
        start = time.perf_counter()
        call()
        took.append((time.perf_counter() - start) * 1000)
    return median(took)


def a_loop() -> int:
    """A million plain steps, to tell this machine by."""
    total = 0
    for i in range(1_000_000):
        total += i
    return total


def main() -> None:
    """Print what was measured."""
    with transaction.atomic():
        load()
        settle()
        user = User.objects.create_user("bench@example.org")
        shed = fresh_shed(user)
        machines = more(shed)
        job = a_job()
        client = Client(SERVER_NAME="localhost")
        client.force_login(user, "django.contrib.auth.backends.ModelBackend")
        body = {"id": str(uuid4()), "spec": job.model_dump(mode="json")}
        made = client.post(
            f"/api/v1/workshops/{shed.pk}/jobs", body, content_type="application/json"
        )
        assert made.status_code == 200, made.content[:300]
        at = f"/api/v1/jobs/{body['id']}"
        client.get(at)
        asked: list[str] = []
        with connection.execute_wrapper(lambda go, *sql: (asked.append(sql[0]), go(*sql))[1]):
            answer = client.get(at)

        def core() -> None:
            for ground in grounds_now.values():
                fit(job, ground.but({}))

        grounds_now = grounds(machines)
        first = fit(job, next(iter(grounds_now.values())))
        rows = {
            "plain loop, 1,000,000 steps": ms(a_loop),
            f"core: fit of {FEATURES} features on {len(machines)} machines": ms(core),
            "core: fix first, one machine": ms(lambda: fix_first(first)),
            "core: limits backwards, one machine": ms(lambda: limits_for(first)),
            "grounds of all machines, from the database": ms(lambda: grounds(machines)),
            "HTTP: the job on all machines, whole on one": ms(lambda: client.get(at)),
        }
        for what, took in rows.items():
            print(f"{took:8.1f} ms  {what}")
        print(f"{len(asked)} queries, {len(answer.content) / 1024:.0f} kB")
        transaction.set_rollback(True)


if __name__ == "__main__":
    main()
