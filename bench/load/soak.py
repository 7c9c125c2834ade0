"""Usage: DATABASE_URL=… SECRET_KEY=… .venv/bin/python -m bench.load.soak [MINUTES [PEOPLE]]

Starts the application as bin/demo does and lets people read, plan, and look at every screen for so
many minutes (30, 20 people): prints a line a minute with the memory that its processes hold (MB,
shared pages by share), answers, errors, and the slowest look at /healthy. At the end, how much the
memory of the second half grew over that of the first.
"""

from __future__ import annotations

import asyncio
import sys
import time
import urllib.request
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from statistics import median

from bench.load.__main__ import people, server, swept
from bench.load.person import Person
from calmsquare.demo.services import load

EVERY = 10.0
LOOKS = ("kit", "jobs", "logbook", "members", "calendar", "")


def held() -> float:
    """MB that the application's processes hold."""
    total = 0
    for process in Path("/proc").glob("[0-9]*"):
        try:
            ours = b"bench.load.settings" in (process / "environ").read_bytes()
            if ours and b"calmsquare.wsgi" in (process / "cmdline").read_bytes():
                rollup = (process / "smaps_rollup").read_text()
                total += int(rollup.split("Pss:")[1].split()[0])
        except (OSError, IndexError):
            continue
    return total / 1024


def healthy(port: int) -> float:
    """How long it takes to say so, in ms."""
    began = time.perf_counter()
    urllib.request.urlopen(f"http://127.0.0.1:{port}/healthy", timeout=60).read()
    return 1000 * (time.perf_counter() - began)


def looked(port: int, person: Person, path: str) -> int:
    """A screen, as that person's browser asks for it; its status."""
    asked = urllib.request.Request(
        f"http://127.0.0.1:{port}/api/v1/workshops/{person.workshop}/{path}".rstrip("/"),
        headers={"Cookie": person.cookies, "Host": "localhost"},
    )
    with urllib.request.urlopen(asked, timeout=60) as answer:
        answer.read()
        return int(answer.status)


async def soak(port: int, crowd: Sequence[Person], minutes: int) -> list[float]:
    """Memory at the end of each minute."""
    loop = asyncio.get_running_loop()
    reading = [asyncio.create_task(p.reads(port, EVERY, loop.time() + 60 * minutes)) for p in crowd]
    memory = []
    print(f"{'minute':>6}{'MB':>8}{'answers':>9}{'errors':>8}{'healthy':>9}")
    with ThreadPoolExecutor(4) as pool:
        for minute in range(1, minutes + 1):
            ends, slowest, seen = loop.time() + 60, 0.0, []
            while loop.time() < ends:
                person = crowd[len(seen) % len(crowd)]
                path = LOOKS[len(seen) % len(LOOKS)]
                seen.append(await loop.run_in_executor(pool, looked, port, person, path))
                slowest = max(slowest, await loop.run_in_executor(pool, healthy, port))
                await asyncio.sleep(0.5)
            waited = [w for p in crowd for w in p.waited]
            wrong = sum(w.status != 200 for w in waited) + sum(status != 200 for status in seen)
            for p in crowd:
                p.waited.clear()
            memory.append(held())
            count = len(waited) + len(seen)
            print(f"{minute:6}{memory[-1]:8.0f}{count:9}{wrong:8}{slowest:6.0f} ms", flush=True)
    for task in reading:
        task.cancel()
    return memory


def main() -> None:
    """Seed, start, soak, sweep."""
    given = [int(a) for a in sys.argv[1:]]
    minutes, count = [*given, *(30, 20)[len(given) :]]
    load()
    swept()
    crowd = people(count)
    try:
        with server() as port:
            memory = asyncio.run(soak(port, crowd, minutes))
        half = len(memory) // 2
        if half:
            first, second = median(memory[:half]), median(memory[half:])
            print(f"second half over first: {second - first:+.0f} MB of {first:.0f}")
    finally:
        swept()


if __name__ == "__main__":
    main()
