"""What of an answer's time was work of the application, and what the database."""

from __future__ import annotations

import time
from collections.abc import Callable
from contextlib import contextmanager
from typing import Any

from django.db import connection
from django.http import HttpRequest, HttpResponse


class Clock:
    """Middleware: an answer tells in `Server-Timing`, in ms, how long the application held it
    (app), for how long of that a core worked on it (cpu) and the database was waited for (db)."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        began, worked = time.perf_counter(), time.thread_time()
        asked = Asked()
        with connection.execute_wrapper(asked):
            response = self.get_response(request)
        app, cpu = time.perf_counter() - began, time.thread_time() - worked
        response.headers["Server-Timing"] = (
            f"app;dur={1000 * app:.2f}, cpu;dur={1000 * cpu:.2f}, db;dur={1000 * asked.idle:.2f}"
        )
        return response


class Asked:
    """How long statements were out, in s, without what this thread itself worked meanwhile."""

    def __init__(self) -> None:
        self.idle = 0.0

    def __call__(self, execute: Callable[..., Any], *args: Any) -> Any:
        with self._counting():
            return execute(*args)

    @contextmanager
    def _counting(self) -> Any:
        began, worked = time.perf_counter(), time.thread_time()
        try:
            yield
        finally:
            self.idle += time.perf_counter() - began - (time.thread_time() - worked)
