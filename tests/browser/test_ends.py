"""The demo ends whole, however it is ended, and goes on without a worker only for a moment."""

from __future__ import annotations

import os
import shutil
import signal
import socket
import subprocess
import time
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import suppress
from pathlib import Path

import pytest

from tests.pattern import ROOT

RUN = ROOT / ".run"
SECONDS = 120


@pytest.fixture(scope="module")
def folder() -> Iterator[Path]:
    """Where a demo of its own keeps what it makes; packages and pages are there already."""
    made = RUN / f"ends-{os.getpid()}"
    made.mkdir(parents=True)
    for stamp in RUN.glob("*.stamp"):
        shutil.copy(stamp, made)
    yield made
    shutil.rmtree(made, ignore_errors=True)


def free_port() -> int:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        return int(taken.getsockname()[1])


class Demo:
    """bin/demo in a session of its own, as a terminal begins it."""

    def __init__(self, folder: Path, port: int) -> None:
        env = {k: v for k, v in os.environ.items() if k not in ("DATABASE_URL", "SECRET_KEY")}
        env |= {"RUN_FOLDER": str(folder), "PORT": str(port)}
        self.told = folder / "told"
        self.folder, self.port = folder, port
        with self.told.open("w") as out:
            self.process = subprocess.Popen(
                ["bin/demo"], cwd=ROOT, env=env, stdout=out, stderr=out, start_new_session=True
            )
        self.until(lambda: "Calm Square is at" in self.told.read_text())

    def until(self, there: Callable[[], bool]) -> None:
        for _ in range(SECONDS * 10):
            if there():
                return
            time.sleep(0.1)
        raise AssertionError(self.told.read_text())

    def running(self) -> list[str]:
        """Command lines of all that it has started and that runs still."""
        found = []
        for process in Path("/proc").glob("[0-9]*"):
            with suppress(OSError):
                line = (process / "cmdline").read_bytes().replace(b"\0", b" ").decode()
                session = int((process / "stat").read_text().rpartition(")")[2].split()[3])
                if session == self.process.pid or str(self.folder) in line:
                    found.append(f"{process.name} {line}")
        return found

    def workers(self) -> list[int]:
        """The worker that was started for it, and no child of one."""
        lines = [line for line in self.running() if "procrastinate worker" in line]
        return [int(line.split()[0]) for line in lines]


WAYS = {
    "ctrl-c": lambda pid: os.killpg(pid, signal.SIGINT),
    "TERM to itself": lambda pid: os.kill(pid, signal.SIGTERM),
    "TERM to all": lambda pid: os.killpg(pid, signal.SIGTERM),
    "a closed terminal": lambda pid: os.killpg(pid, signal.SIGHUP),
}


def test_nothing_is_left_however_it_is_ended(folder: Path) -> None:
    for n, (way, end) in enumerate(WAYS.items()):
        demo = Demo(folder, free_port())
        try:
            assert any("postgres" in line for line in demo.running()), way
            if n == 0:
                [worker] = demo.workers()[:1]
                os.kill(worker, signal.SIGKILL)
                demo.until(lambda demo=demo: "is started anew" in demo.told.read_text())
                demo.until(lambda demo=demo, was=worker: set(demo.workers()) - {was} != set())
                with urllib.request.urlopen(f"http://127.0.0.1:{demo.port}/healthy") as answer:
                    assert answer.status == 200
            end(demo.process.pid)
            assert demo.process.wait(SECONDS) != 0
            demo.until(lambda demo=demo: not demo.running())
            assert not (folder / "postgres" / "data" / "postmaster.pid").exists(), way
        finally:
            for line in demo.running():
                with suppress(ProcessLookupError):
                    os.kill(int(line.split()[0]), signal.SIGKILL)
