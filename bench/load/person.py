"""One person at a machine: types a reading every so often, with what the page asks meanwhile."""

from __future__ import annotations

import asyncio
import json
import random
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any
from uuid import uuid4

STATIONS = ("12", "3", "6", "9")
KEYS = ((-0.5, "+0.0"), (-0.2, "+0.01"))
"""When the typing pauses, in s before the reading is sent, and what stands in the field then."""


@dataclass(frozen=True)
class Waited:
    """One answer: for what, how long since it was due, in ms, and what the server told of it."""

    what: str
    ms: float
    status: int
    app: float = 0.0
    cpu: float = 0.0
    db: float = 0.0


@dataclass
class Person:
    """Somebody with a round open before them."""

    round: str
    cookies: str
    token: str
    address: str
    """Theirs alone, as the server in front counts by address."""
    workshop: str = ""
    waited: list[Waited] = field(default_factory=list)

    async def reads(self, port: int, every: float, until: float) -> None:
        """Readings every `every` seconds until a moment of the loop's clock, begun anywhen."""
        clock = asyncio.get_running_loop().time
        line = Line(port, self)
        due, n = clock() + random.random() * every + 0.5, 0
        while due < until:
            for before, text in KEYS:
                body = {"station": STATIONS[n % 4], "text": text, "unit": "mm"}
                await self._call(line, "preview", "POST", "preview", body, due + before)
            body["read_at"] = datetime.now(UTC).isoformat()
            await self._call(line, "reading", "PUT", f"readings/{uuid4()}", body, due)
            due, n = due + every, n + 1
        line.close()

    async def _call(
        self, line: Line, what: str, method: str, path: str, body: dict[str, Any], due: float
    ) -> None:
        clock = asyncio.get_running_loop().time
        await asyncio.sleep(max(0.0, due - clock()))
        # counted from when it was due: who waits for one answer is late with the next
        path = f"/api/v1/rounds/{self.round}/{path}"
        try:
            status, timing = await line.call(method, path, json.dumps(body).encode())
        except (OSError, asyncio.IncompleteReadError, TimeoutError):
            line.close()
            status, timing = 0, {}
        self.waited.append(Waited(what, 1000 * (clock() - due), status, **timing))


class Line:
    """A connection that is kept, as a browser keeps it."""

    def __init__(self, port: int, person: Person) -> None:
        self.port, self.person = port, person
        self.ends: tuple[asyncio.StreamReader, asyncio.StreamWriter] | None = None

    async def call(self, method: str, path: str, body: bytes) -> tuple[int, dict[str, float]]:
        """(status, what `Server-Timing` told)."""
        if self.ends is None or self.ends[1].is_closing():
            self.ends = await asyncio.open_connection(
                "127.0.0.1", self.port, local_addr=(self.person.address, 0)
            )
        reader, writer = self.ends
        head = {
            "Host": "localhost",
            "Cookie": self.person.cookies,
            "X-CSRFToken": self.person.token,
            "Content-Type": "application/json",
            "Content-Length": str(len(body)),
        }
        lines = [f"{method} {path} HTTP/1.1", *(f"{k}: {v}" for k, v in head.items()), "", ""]
        writer.write("\r\n".join(lines).encode() + body)
        async with asyncio.timeout(30):
            answer = (await reader.readuntil(b"\r\n\r\n")).decode("latin-1").split("\r\n")
            told = dict(line.lower().split(": ", 1) for line in answer[1:] if ": " in line)
            await reader.readexactly(int(told.get("content-length", 0)))
        if told.get("connection") == "close":
            self.close()
        parts = (part.split(";dur=") for part in told.get("server-timing", "").split(", ") if part)
        return int(answer[0].split()[1]), {name: float(ms) for name, ms in parts}

    def close(self) -> None:
        """Hang up."""
        if self.ends is not None:
            self.ends[1].close()
            self.ends = None
