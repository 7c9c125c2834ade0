"""Errors as problem details (RFC 9457): what was read, what is expected, at which field."""

from __future__ import annotations

import logging
from collections.abc import Callable
from typing import Any, TypeVar

from django.conf import settings
from django.core.exceptions import PermissionDenied, RequestDataTooBig
from django.db import IntegrityError, InterfaceError, OperationalError, connection, transaction
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, HttpError, ValidationError
from pydantic import BaseModel
from pydantic import ValidationError as ModelError

from calmsquare.noted import request_id
from truing.measure.problem import Problem
from truing.measure.words import stated

log = logging.getLogger(__name__)


class FieldError(BaseModel):
    """One field, and what it should be."""

    field: str
    message: str
    expected: str = ""


class ProblemDetails(BaseModel):
    """The body of every error."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    errors: list[FieldError] = []


def answers(model: Any) -> dict[Any, Any]:
    """Responses of a route: its own (None: 204, nothing to say), and the problems it may tell."""
    problems = frozenset({401, 403, 404, 409, 413, 422, 429, 503})
    return {204 if model is None else 200: model, problems: ProblemDetails}


class Conflict(Exception):
    """What was sent no longer fits what is there; nothing has been changed."""

    def __init__(self, detail: str, *, code: str = "conflict") -> None:
        super().__init__(detail)
        self.detail = detail
        self.code = code


T = TypeVar("T", bound=BaseModel)

_TITLES = {
    401: "Sign in first",
    403: "Not yours to change",
    400: "Cannot be used as it is",
    404: "Not here",
    405: "Not done that way",
    409: "Something newer is there",
    413: "Too large",
    422: "Cannot be used as it is",
    429: "Wait a little",
    500: "Something went wrong here",
    503: "Not just now",
}


def details(
    status: int, detail: str, errors: list[FieldError] | None = None, code: str = ""
) -> ProblemDetails:
    """A problem with the usual title for its status."""
    return ProblemDetails(
        type=f"urn:calm-square:{code}" if code else "about:blank",
        title=_TITLES[status],
        status=status,
        detail=detail,
        errors=errors or [],
    )


def in_inches(problem: ProblemDetails) -> ProblemDetails:
    """A problem as it is told to who reads in inches; what they typed stays as they typed it."""
    errors = [
        e.model_copy(
            update={"message": stated(e.message).inch, "expected": stated(e.expected).inch}
        )
        for e in problem.errors
    ]
    return problem.model_copy(update={"detail": stated(problem.detail).inch, "errors": errors})


_BOUNDS = {
    "greater_than": ("more than", "gt"),
    "greater_than_equal": ("at least", "ge"),
    "less_than": ("less than", "lt"),
    "less_than_equal": ("at most", "le"),
}


def field_errors(error: ModelError, prefix: str = "") -> list[FieldError]:
    """A model's errors, each at its dotted field."""
    found = []
    for item in error.errors(include_url=False):
        path = ".".join(
            str(p) for p in item["loc"] if not str(p).startswith(("function-", "tagged"))
        )
        context: dict[str, Any] = item.get("ctx") or {}
        message = item["msg"].removeprefix("Value error, ")
        if item["type"] == "missing":
            message = "This is needed."
        elif item["type"] in _BOUNDS:
            words, key = _BOUNDS[item["type"]]
            # every length of the core is in mm, and says so in its name
            unit = " mm" if path.endswith("_mm") or "_mm." in path else ""
            message = f"It has to be {words} {context[key]:g}{unit}."
        found.append(
            FieldError(
                field=".".join(p for p in (prefix, path) if p),
                message=message,
                expected=str(context.get("expected", "")),
            )
        )
    return found


class Invalid(Exception):
    """Input that a model refused, already told by field."""

    def __init__(self, errors: list[FieldError]) -> None:
        super().__init__("; ".join(f"{e.field}: {e.message}" for e in errors))
        self.errors = errors


def validated(model: type[T], data: Any, prefix: str = "") -> T:
    """`model.model_validate`, with errors named by field under `prefix`."""
    try:
        return model.model_validate(data)
    except ModelError as error:
        raise Invalid(field_errors(error, prefix)) from None


def locked_out(
    request: HttpRequest, response: HttpResponse, credentials: object, *args: object
) -> JsonResponse:
    """After too many wrong passwords."""
    told = "Too many tries. Wait a quarter of an hour, then try again."
    problem = details(429, told, [FieldError(field="password", message=told)])
    return JsonResponse(problem.model_dump(), status=429, content_type="application/problem+json")


class DatabaseAway:
    """Middleware: a database that is being restarted is nobody's mistake. Whoever sent something
    may send it again in a moment, and is told so."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.get_response(request)

    def process_exception(self, request: HttpRequest, error: Exception) -> HttpResponse | None:
        if not isinstance(error, OperationalError | InterfaceError):
            return None
        log.warning("the database is away: %s", error)
        problem = details(503, "The record cannot be reached just now. Try again in a moment.")
        return JsonResponse(
            problem.model_dump(),
            status=503,
            content_type="application/problem+json",
            headers={"Retry-After": "5"},
        )


_PLAIN = {
    400: "The request cannot be used as it is.",
    403: "This page does not fit its session any more. Load it anew.",
    404: "There is nothing here that you can see.",
    405: "This cannot be done in that way.",
    413: "That is more than can be taken at once.",
    500: "Something went wrong here, and is in the server's log. Nothing has been changed.",
}


class AlwaysTold:
    """Middleware: what no route of the API has refused itself, an address that is none or a method
    that it does not know, is told as every other problem is."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        status = response.status_code
        if (
            status < 400
            or not request.path.startswith("/api/")
            or "json" in response.headers.get("Content-Type", "")
        ):
            return response
        status = status if status in _PLAIN else 500 if status >= 500 else 400
        said = _PLAIN[status]
        if status == 500 and request_id():
            said += f" Its number there is {request_id()}."
        problem = details(status, said)
        told = JsonResponse(
            problem.model_dump(), status=status, content_type="application/problem+json"
        )
        for name in ("Allow", "Retry-After"):
            if name in response.headers:
                told.headers[name] = response.headers[name]
        return told


class OnceMore:
    """Middleware: of two that send the same at once, the one that came second is refused by the
    database. It is asked once more, finds what the first has written, and is told the same."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        if getattr(response, "taken", False) and request.content_type == "application/json":
            response = self.get_response(request)
        return response


def install(api: NinjaAPI) -> None:
    """Answer every expected error of this API with problem details."""

    def answer(request: HttpRequest, problem: ProblemDetails) -> HttpResponse:
        if request.headers.get("X-Reads") == "inch":
            problem = in_inches(problem)
        # the answer is no exception any more, so that nothing else would undo what was written
        if connection.in_atomic_block and not getattr(request, "keeps_what_it_wrote", False):
            transaction.set_rollback(True)
            # nor is a session kept that was begun on the way
            request.session.modified = False
        response = api.create_response(request, problem.model_dump(), status=problem.status)
        response["Content-Type"] = "application/problem+json"
        return response

    def on_problem(request: HttpRequest, error: Problem) -> HttpResponse:
        at = FieldError(field=error.field, message=error.message, expected=error.expected)
        return answer(request, details(422, str(error), [at]))

    def on_invalid(request: HttpRequest, error: Invalid) -> HttpResponse:
        first = error.errors[0]
        return answer(request, details(422, first.message, error.errors))

    def on_schema(request: HttpRequest, error: ValidationError) -> HttpResponse:
        errors = []
        for item in error.errors:
            loc = [str(p) for p in item["loc"]][1:]
            where = ".".join(loc[1:] if len(loc) > 1 else loc)
            errors.append(FieldError(field=where, message=str(item["msg"])))
        return answer(request, details(422, "The request cannot be read.", errors))

    def on_conflict(request: HttpRequest, error: Conflict) -> HttpResponse:
        return answer(request, details(409, error.detail, code=error.code))

    def on_taken(request: HttpRequest, error: IntegrityError) -> HttpResponse:
        # ids are made by browsers: one that is taken already is another record's
        log.warning("refused by the database: %s", error)
        told = "Another record has this id, or this name. Load the page anew and try again."
        response = answer(request, details(409, told, code="duplicate"))
        response.taken = True  # type: ignore[attr-defined]
        return response

    def on_http(request: HttpRequest, error: HttpError) -> HttpResponse:
        # what the door refused while the body was being read
        if isinstance(error.__cause__ or error.__context__, Invalid):
            return on_invalid(request, error.__cause__ or error.__context__)  # type: ignore[arg-type]
        if error.status_code in _TITLES and error.status_code != 400:
            return answer(request, details(error.status_code, str(error)))
        return answer(request, details(422, "The request cannot be read: it is no JSON."))

    def on_large(request: HttpRequest, error: RequestDataTooBig) -> HttpResponse:
        most = settings.DATA_UPLOAD_MAX_MEMORY_SIZE // 1024**2
        told = f"That is more than can be taken at once: up to {most} MB. Send less of it."
        return answer(request, details(413, told))

    api.exception_handler(RequestDataTooBig)(on_large)
    api.exception_handler(HttpError)(on_http)
    api.exception_handler(IntegrityError)(on_taken)
    api.exception_handler(Problem)(on_problem)
    api.exception_handler(Invalid)(on_invalid)
    api.exception_handler(ValidationError)(on_schema)
    api.exception_handler(Conflict)(on_conflict)
    api.exception_handler(Http404)(
        lambda r, e: answer(r, details(404, "There is nothing here that you can see."))
    )
    api.exception_handler(PermissionDenied)(lambda r, e: answer(r, details(403, str(e))))
    api.exception_handler(AuthenticationError)(
        lambda r, e: answer(r, details(401, "Sign in to go on; what you typed is kept."))
    )
