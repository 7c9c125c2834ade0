"""What the server in front of the application says of a request."""

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
