"""The server in front: what a slow, a heavy or a guessing stranger can hold up."""

from __future__ import annotations

import http.client
import json
import os
import socket
import subprocess
import time
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor

import pytest

from tests.browser.conftest import ROOT, Server

SIGN_IN = "/api/v1/auth/sign-in"
SOCKETS = 16
GUESSERS = 24


@pytest.fixture
def front(server: Server) -> Iterator[int]:
    """Port of nginx before the application, started as bin/demo starts it, on a user's own path."""
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        port = s.getsockname()[1]
    start = (
        f"source bin/lib.sh; start_front 127.0.0.1:{port} 127.0.0.1:{server.port}; "
        'trap "kill $FRONT" TERM; wait $FRONT || true; rm -rf "$FRONT_RUN"'
    )
    process = subprocess.Popen(
        ["setpriv", "--pdeathsig", "TERM", "bash", "-c", start],
        cwd=ROOT,
        env={**os.environ, "PATH": "/usr/local/bin:/usr/bin:/bin"},
    )
    for _ in range(100):
        try:
            if asked(port, "GET", "/healthy")[0] == 200:
                break
        except OSError:
            pass
        time.sleep(0.1)
    yield port
    process.terminate()
    process.wait(timeout=20)


def asked(port: int, method: str, path: str, body: bytes | None = None) -> tuple[int, bytes]:
    """Status and body; OSError when nothing comes for ten seconds."""
    calling = http.client.HTTPConnection("127.0.0.1", port, timeout=10)
    try:
        headers = {"Content-Type": "application/json"} if body is not None else {}
        calling.request(method, path, body, headers)
        answer = calling.getresponse()
        return answer.status, answer.read()
    finally:
        calling.close()


def always_healthy(port: int) -> None:
    assert [asked(port, "GET", "/healthy")[0] for _ in range(9)] == [200] * 9


def test_bodies_that_never_end_hold_up_nobody(front: int) -> None:
    strangers = [socket.create_connection(("127.0.0.1", front)) for _ in range(SOCKETS)]
    head = f"POST {SIGN_IN} HTTP/1.1\r\nHost: localhost\r\nContent-Length: 1000\r\n\r\n{{"
    for stranger in strangers:
        stranger.sendall(head.encode())
    time.sleep(0.5)
    always_healthy(front)
    for stranger in strangers:
        stranger.close()


def test_guessing_passwords_holds_up_nobody(front: int) -> None:
    def guess(n: int) -> int:
        tried = {"email": f"somebody{n % 7}@example.org", "password": f"a guess, the {n}th"}
        return asked(front, "POST", SIGN_IN, json.dumps(tried).encode())[0]

    with ThreadPoolExecutor(GUESSERS) as pool:
        guesses = [pool.submit(guess, n) for n in range(GUESSERS)]
        always_healthy(front)
        told = Counter(g.result() for g in guesses)
    # refused as wrong, as forged, or for coming too fast; never an error
    assert set(told) <= {403, 422, 429}, told
    assert told[429] >= GUESSERS - 12, told


def test_what_is_too_large_is_told_its_bound(front: int) -> None:
    status, told = asked(front, "POST", "/api/v1/rounds/x/preview", b" " * 5_000_000)
    assert status == 413
    problem = json.loads(told)
    assert problem["status"] == 413
    assert "4 MB" in problem["detail"]


def test_an_application_that_is_away_is_told_as_that(server: Server, front: int) -> None:
    server.stop()
    try:
        status, told = asked(front, "GET", "/api/v1/auth/me")
    finally:
        server.start()
    assert status == 503
    assert "Try again" in json.loads(told)["detail"]
    always_healthy(front)
