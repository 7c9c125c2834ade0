"""What an operator reads: a line for each request, and for what went wrong its trace, under the
same id as the person was told. No bodies, no secrets: of an address its route alone, and an account
by its number.
"""

from __future__ import annotations

import json
import logging
import re
import secrets
import time
from collections.abc import Callable
from contextvars import ContextVar
from datetime import UTC, datetime
from typing import Any

from django.http import HttpRequest, HttpResponse

log = logging.getLogger("calmsquare.requests")
_here: ContextVar[str] = ContextVar("request", default="")
_SORT = re.compile(r"<\w+:")
FIELDS = ("method", "route", "status", "ms", "account")


def request_id() -> str:
    """Of the request that is being answered; "" outside of one."""
    return _here.get()


class Noted:
    """Middleware, outermost: every answer has an id, and its line in the log."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        token = _here.set(secrets.token_hex(5))
        began = time.perf_counter()
        try:
            response = self.get_response(request)
            response.headers["X-Request-ID"] = request_id()
            found = request.resolver_match
            # what was looked up anyway: nobody is asked for only to be noted
            person = getattr(request, "_cached_user", None)
            log.info(
                "request",
                extra={
                    "method": request.method,
                    # a route holds no ids, and no key of a calendar
                    "route": f"/{_SORT.sub('<', found.route)}" if found else "(a file, or nothing)",
                    "status": response.status_code,
                    "ms": round((time.perf_counter() - began) * 1000),
                    "account": getattr(person, "pk", None),
                },
            )
            return response
        finally:
            _here.reset(token)


class _Line(logging.Formatter):
    """What all lines have: when, how grave, what, and of which request."""

    def told(self, record: logging.LogRecord) -> dict[str, Any]:
        found: dict[str, Any] = {
            "at": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname.lower(),
            "request": request_id() or None,
        }
        if hasattr(record, "route"):
            return found | {name: getattr(record, name) for name in FIELDS}
        found |= {"logger": record.name, "text": record.getMessage()}
        if record.exc_info:
            found["trace"] = self.formatException(record.exc_info)
        return found


class AsText(_Line):
    """A line to be read; a trace on lines of its own."""

    def format(self, record: logging.LogRecord) -> str:
        told = self.told(record)
        trace = told.pop("trace", None)
        words = [f"{key}={told[key]}" for key in ("request", "account") if told.get(key)]
        if "route" in told:
            said = f"{told['method']} {told['route']} {told['status']} {told['ms']} ms"
        else:
            said = f"{told['level'].upper()} {told['logger']}: {told['text']}"
        line = " ".join([told["at"], said, *words])
        return f"{line}\n{trace}" if trace else line


class AsJson(_Line):
    """A line for a program."""

    def format(self, record: logging.LogRecord) -> str:
        return json.dumps(self.told(record))
