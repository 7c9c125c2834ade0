"""Usage: DATABASE_URL=… SECRET_KEY=… .venv/bin/python -m bench.load [PEOPLE:SECONDS …]

Starts the application as bin/demo does, nginx in front, and lets so many people enter a reading
every so many seconds, with two previews each, for half a minute a line; everybody has a shed and an
address of their own. Without arguments: 50, 100, 200 and 400 people every 10 s, and 50 every 2 s.
The people share the cores with the server. Their sheds go when it ends.
"""

from __future__ import annotations

import asyncio
import os
import socket
import subprocess
import sys
import time
import urllib.request
from collections import Counter
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

import django

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "calmsquare.settings")
django.setup()

from django.conf import settings  # noqa: E402
from django.contrib.auth.models import User  # noqa: E402
from django.db import connection  # noqa: E402
from django.middleware.csrf import _get_new_csrf_string  # noqa: E402
from django.test import Client  # noqa: E402

from bench.load.person import Person, Waited  # noqa: E402
from bench.speed import TRAM, Table, opened, plain_loop  # noqa: E402
from calmsquare.demo.services import fresh_shed, load  # noqa: E402
from calmsquare.workshop.models import Workshop  # noqa: E402

ROOT = Path(__file__).parents[2]
SCENES = ((50, 10.0), (100, 10.0), (200, 10.0), (400, 10.0), (50, 2.0))
NAME = "visitor-load-"
LASTS = 30.0
BEFORE = 5.0
"""Seconds that are not counted: connections and caches are made."""


def free_port() -> int:
    """A port that nobody listens on."""
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        port: int = s.getsockname()[1]
        return port


@contextmanager
def server() -> Iterator[int]:
    """The application and nginx before it, as bin/demo starts them; the port to knock at."""
    port, inner = free_port(), free_port()
    env = {
        **os.environ,
        "PATH": f"{Path(sys.executable).parent}:{os.environ['PATH']}",
        "DJANGO_SETTINGS_MODULE": "bench.load.settings",
        "BEHIND_FRONT": "1",
        "DEMO": "1",
    }
    start = (
        f"source bin/lib.sh; start_application 127.0.0.1:{inner}; "
        f"start_front 127.0.0.1:{port} 127.0.0.1:{inner}; "
        'trap "kill $FRONT $SERVER" TERM; wait $FRONT || true; rm -rf "$FRONT_RUN"'
    )
    with subprocess.Popen(["bash", "-c", start], cwd=ROOT, env=env) as both:
        try:
            for _ in range(300):
                try:
                    urllib.request.urlopen(f"http://127.0.0.1:{port}/healthy", timeout=1).close()
                    break
                except OSError:
                    time.sleep(0.1)
            yield port
        finally:
            both.terminate()


def people(count: int) -> list[Person]:
    """So many, each with a shed and a tram set up."""
    made = []
    for n in range(count):
        user = User.objects.create_user(f"{NAME}{n}@saltmarsh.invalid")
        table = Table(user, quiet=True)
        shed: Workshop = fresh_shed(user)
        machine = shed.machines.get(name="Dunlin")
        dial = shed.instruments.get(name="Plunger dial 0.001")
        round = opened(table, machine, "spindle_tram", str(dial.pk), **TRAM)
        made.append(_person(table.client, round, n, str(shed.pk)))
    return made


def _person(client: Client, round: str, n: int, workshop: str) -> Person:
    token = _get_new_csrf_string()
    session = client.cookies[settings.SESSION_COOKIE_NAME].value
    cookies = f"{settings.SESSION_COOKIE_NAME}={session}; {settings.CSRF_COOKIE_NAME}={token}"
    return Person(round, cookies, token, f"127.7.{n // 250}.{1 + n % 250}", workshop)


async def scene(port: int, crowd: Sequence[Person], every: float) -> list[Waited]:
    """What everybody waited, once it runs."""
    loop = asyncio.get_running_loop()
    end = loop.time() + BEFORE + LASTS
    reading = [asyncio.create_task(p.reads(port, every, end)) for p in crowd]
    await asyncio.sleep(BEFORE)
    for person in crowd:
        person.waited.clear()
    await asyncio.gather(*reading)
    return [w for p in crowd for w in p.waited]


def share(values: Sequence[float], part: float) -> float:
    """The value that this part of them does not exceed."""
    return sorted(values)[min(len(values) - 1, int(part * len(values)))] if values else 0.0


HEAD = (
    f"{'people':>6}{'every':>7}  {'what':9}{'answers':>8}{'errors':>7}"
    f"{'p50':>8}{'p95':>8}{'p99':>8}{'waiting':>10}{'cpu':>7}{'database':>9}{'others':>8}"
)


def told(count: int, every: float, waited: Sequence[Waited]) -> None:
    """Two lines of the table."""
    for what in ("preview", "reading"):
        mine = [w for w in waited if w.what == what]
        good = [w for w in mine if w.status == 200]
        ms = [w.ms for w in mine]
        n = max(1, len(good))
        app, cpu, db = (sum(getattr(w, k) for w in good) / n for k in ("app", "cpu", "db"))
        before = sum(w.ms - w.app for w in good) / n
        wrong = Counter(w.status for w in mine if w.status != 200)
        print(
            f"{count:6}{every:5.0f} s  {what:9}{len(mine):8}{len(mine) - len(good):7}"
            f"{share(ms, 0.5):8.0f}{share(ms, 0.95):8.0f}{share(ms, 0.99):8.0f}"
            f"{before:10.1f}{cpu:7.1f}{db:9.1f}{max(0.0, app - cpu - db):8.1f}",
            dict(wrong) or "",
            flush=True,
        )


def main() -> None:
    """Seed, start, let them read, print, sweep."""
    asked = [a.split(":") for a in sys.argv[1:]]
    scenes = [(int(n), float(s)) for n, s in asked] or list(SCENES)
    load()
    swept()
    crowd = people(max(n for n, _ in scenes))
    with connection.cursor() as cursor:
        # what the database does by itself within minutes
        cursor.execute("VACUUM ANALYZE")
    try:
        print(f"plain loop: {plain_loop():.2f} s for ten million additions; ms below")
        print(f"{'':55}{'of an answer, on average:':>43}")
        print(HEAD)
        with server() as port:
            for count, every in scenes:
                told(count, every, asyncio.run(scene(port, crowd[:count], every)))
        print(f"plain loop: {plain_loop():.2f} s for ten million additions")
        print("waiting: before a thread took it, and on the way; others: the cores were busy")
    finally:
        swept()


def swept() -> None:
    """Their sheds, and they."""
    users = User.objects.filter(username__startswith=NAME)
    Workshop.objects.filter(memberships__user__in=users).delete()
    users.delete()


if __name__ == "__main__":
    main()
