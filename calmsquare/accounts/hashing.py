"""Passwords are slow to try on purpose: a few at a time, so that the rest of the shed goes on."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from threading import BoundedSemaphore, Lock

from ninja.errors import HttpError

AT_THE_DOOR = 2
"""Threads of a process that may be busy with passwords: one that tries, one that waits for it. The
server has more, and those are for everybody else."""
_door = BoundedSemaphore(AT_THE_DOOR)
_one_at_a_time = Lock()


@contextmanager
def a_turn() -> Iterator[None]:
    """While a password is tried or made. HttpError 429 when there is a queue for that already."""
    if not _door.acquire(blocking=False):
        raise HttpError(429, "Many are signing in just now. Wait a few seconds, then try again.")
    try:
        with _one_at_a_time:
            yield
    finally:
        _door.release()
