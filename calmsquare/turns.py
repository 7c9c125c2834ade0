"""Long work takes turns, so that a thread of every process is left for what takes no time."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from threading import BoundedSemaphore

from ninja.errors import HttpError

LONG = 3
"""Threads of a process that may be busy with long work, of four that it has."""
_long = BoundedSemaphore(LONG)


class Turns:
    """Long work of one sort: how many may do it at once, and how many wait for that."""

    def __init__(self, told: str, *, at_once: int = 1, waiting: int = 1) -> None:
        self._told = told
        self._door = BoundedSemaphore(at_once + waiting)
        self._working = BoundedSemaphore(at_once)

    @contextmanager
    def one(self) -> Iterator[None]:
        """A turn. HttpError 429 where there is a queue for it already."""
        if not self._door.acquire(blocking=False):
            raise HttpError(429, self._told)
        try:
            if not _long.acquire(blocking=False):
                raise HttpError(429, self._told)
            try:
                with self._working:
                    yield
            finally:
                _long.release()
        finally:
            self._door.release()
