"""The real application in a real browser: gunicorn on loopback, Debian's Chromium."""

from __future__ import annotations

import os
import re
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from typing import Any

import psycopg
import pytest
from playwright.sync_api import Browser, BrowserContext, Locator, Page, expect, sync_playwright

from tests.pattern import ROOT, address, demo_pattern

PATIENCE_MS = 15_000
"""How long anything may take to appear, on a machine that others keep busy."""
expect.set_options(timeout=PATIENCE_MS)
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-dev-shm-usage",
]


DATABASES: dict[str, str] = {}
"""Of each server's address, where its record is."""


class Server:
    """The application as bin/demo runs it, on its own database; can be stopped and started."""

    def __init__(self, database: str) -> None:
        with socket.socket() as s:
            s.bind(("127.0.0.1", 0))
            self.port = s.getsockname()[1]
        self.url = f"http://127.0.0.1:{self.port}"
        self.database = database
        self.env = {
            **os.environ,
            "DATABASE_URL": database,
            "DEMO": "1",
            "SECRET_KEY": "browser",
            "DJANGO_SETTINGS_MODULE": "tests.browser.settings",
        }
        DATABASES[self.url] = database
        self.process: subprocess.Popen[bytes] | None = None
        self.worker: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        self.process = subprocess.Popen(
            # the kernel stops it when the tests end, however they do
            [
                "setpriv",
                "--pdeathsig",
                "TERM",
                "gunicorn",
                "calmsquare.wsgi",
                "--bind",
                f"127.0.0.1:{self.port}",
                "--threads",
                "4",
                "--no-control-socket",
                "--log-level",
                "critical",
                "--graceful-timeout",
                "1",
            ],
            cwd=ROOT,
            env=self.env,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        for _ in range(200):
            try:
                urllib.request.urlopen(f"{self.url}/healthy", timeout=1)
                return
            except OSError:
                time.sleep(0.1)
        raise AssertionError("the server did not start")

    def work(self) -> None:
        """Start a worker that makes and checks programs, as bin/demo does; there is one at most."""
        self.worker = self.worker or subprocess.Popen(
            [
                *("setpriv", "--pdeathsig", "TERM", sys.executable, "manage.py"),
                *("procrastinate", "worker", "--queues", "programs"),
            ],
            cwd=ROOT,
            env=self.env,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )

    def stop(self) -> None:
        assert self.process
        self.process.send_signal(signal.SIGTERM)
        self.process.wait(timeout=20)


@pytest.fixture(scope="session")
def server(worker_id: str, testrun_uid: str) -> Iterator[Server]:
    name, pattern = f"calmsquare_browser_{worker_id}", demo_pattern(testrun_uid)
    with psycopg.connect(address("postgres"), autocommit=True) as admin:
        admin.execute(f"DROP DATABASE IF EXISTS {name} WITH (FORCE)")
        admin.execute(f"CREATE DATABASE {name} TEMPLATE {pattern}")
    running = Server(address(name))
    running.start()
    yield running
    if running.worker:
        running.worker.terminate()
        running.worker.wait(timeout=30)
    running.stop()
    with psycopg.connect(address("postgres"), autocommit=True) as admin:
        admin.execute(f"DROP DATABASE IF EXISTS {name} WITH (FORCE)")


@pytest.fixture
def worker(server: Server) -> None:
    """For those who wait for a program."""
    server.work()


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        launched = playwright.chromium.launch(
            executable_path="/usr/bin/chromium-headless-shell", args=FLAGS
        )
        yield launched
        launched.close()


class Shed:
    """A visitor on the demo, freshly put back to its start, and what a test asks of it."""

    def __init__(self, server: Server, context: BrowserContext) -> None:
        self.server, self.context = server, context
        self.page = context.new_page()
        self.errors: list[str] = []
        self.page.on("pageerror", lambda e: self.errors.append(str(e)))
        self.page.goto(server.url)

    def api(self, method: str, path: str, body: Any = None) -> Any:
        """Call the API with the page's own session."""
        token = next(c["value"] for c in self.context.cookies() if c["name"] == "csrftoken")
        got = self.context.request.fetch(
            f"{self.server.url}/api/v1{path}",
            method=method,
            data=body,
            headers={"X-CSRFToken": token, "Referer": self.server.url},
            # the server hangs up a line that lay idle, which may be as the next call takes it
            max_retries=3,
        )
        assert got.ok, (path, got.status, got.text()[:300])
        return got.json()

    def at_the_door(self) -> None:
        """Seen from outside; whoever opens the demo has a shed of their own."""
        self.page.get_by_role("button", name="Open the demo workshop").wait_for()

    def finding(self) -> Any:
        """The finding of the round in hand."""
        return self.api("GET", f"/rounds/{self.check()['rounds'][-1]['id']}/finding")

    @property
    def check_id(self) -> str:
        return self.page.url.rpartition("/")[2]

    def check(self) -> Any:
        return self.api("GET", f"/checks/{self.check_id}")

    def dial(self, station: str) -> str:
        """What the simulated dial shows, in its own unit."""
        with psycopg.connect(self.server.database) as record:
            round_id = last_round(record, self.check_id)
        return str(self.api("POST", f"/rounds/{round_id}/standin", {"station": station})["text"])


def shed_for(server: Server, browser: Browser, **options: Any) -> Iterator[Shed]:
    context = browser.new_context(
        **{"viewport": {"width": 1280, "height": 800}, "reduced_motion": "reduce", **options}
    )
    context.set_default_timeout(PATIENCE_MS)
    shed = Shed(server, context)
    shed.at_the_door()
    yield shed
    errors = shed.errors
    context.close()
    assert errors == []


@pytest.fixture
def shed(server: Server, browser: Browser) -> Iterator[Shed]:
    yield from shed_for(server, browser)


@pytest.fixture
def phone(server: Server, browser: Browser) -> Iterator[Shed]:
    yield from shed_for(
        server, browser, viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True
    )


def last_round(record: psycopg.Connection[Any], check_id: str) -> str:
    """Id of a check's round in hand, as it stands in the record."""
    rounds = "SELECT id FROM logbook_round WHERE check_run_id = %s ORDER BY number DESC LIMIT 1"
    row = record.execute(rounds, [check_id]).fetchone()
    assert row
    return str(row[0])


COUNTED = """
SELECT count(*) FROM logbook_reading r WHERE round_id = %s AND NOT withdrawn
AND NOT EXISTS (SELECT FROM logbook_reading WHERE supersedes_id = r.id)
"""


def wait_for_readings(page: Page, n: int) -> None:
    """Until the record has the n-th reading of the round; it is looked at where it is kept, so
    that nothing else is asked of the server meanwhile."""
    base, _, check_id = page.url.partition("/checks/")
    with psycopg.connect(DATABASES[base], autocommit=True) as record:
        for _ in range(700):
            round_id = last_round(record, check_id)
            kept = record.execute(COUNTED, [round_id]).fetchone()[0]  # type: ignore[index]
            if kept >= n:
                return
            page.wait_for_timeout(20)
    raise AssertionError(f"the record has {kept} readings, not {n}")


def open_check(page: Page, machine: str, stage: str, title: str) -> None:
    """From the workshop to a check of a machine, by its plumb line; told once what it rests on."""
    page.get_by_role("link", name=machine, exact=True).click()
    line = page.get_by_role("navigation", name="Stages of the work")
    line.get_by_role("link", name=stage).click()
    section = page.locator("section").filter(
        has=page.get_by_role("heading", name=title, exact=True)
    )
    start = section.get_by_role("button", name=re.compile("^(Measure|Go on)"))
    start.click()
    page.locator("text=/Set up|all the same/").first.wait_for()
    again = section.get_by_role("button", name="Measure it all the same")
    if again.count():
        again.click()


def tab_to(page: Page, target: Locator) -> None:
    """Press Tab until the target has the focus, as somebody without a mouse would."""
    # looked for once, and again only if the screen has drawn it anew since
    found = target.first.element_handle()
    for _ in range(120):
        focused = found.evaluate("e => e.isConnected ? e === document.activeElement : null")
        if focused is None:
            found = target.first.element_handle()
            focused = found.evaluate("e => e === document.activeElement")
        if focused:
            return
        page.keyboard.press("Tab")
    raise AssertionError(f"{target} cannot be reached with Tab")


def press(page: Page, target: Locator, key: str = "Enter") -> None:
    tab_to(page, target)
    page.keyboard.press(key)
