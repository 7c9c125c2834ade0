"""What the server in front of the application says of a request, and what may be kept of an
answer on its way back."""

from __future__ import annotations

from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse


class KnockedFrom:
    """Middleware: behind the server in front every request comes from its address; whoever knocked
    there is told in a header that it alone can set. Without one in front the header is anybody's
    and is not looked at."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        told = request.META.get("HTTP_X_REAL_IP", "")
        if settings.BEHIND_FRONT and told:
            request.META["REMOTE_ADDR"] = told
        return self.get_response(request)


class KeptByNobody:
    """Middleware: answers of the API are for whoever asked, and stay in no cache on the way or in
    the browser, unless they say otherwise."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        if request.path.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response
