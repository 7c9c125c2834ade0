"""Who may call: whoever is signed in, as the person for whom the page was drawn; and for what is
anybody's, whoever has a page of ours open."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from ninja.errors import HttpError
from ninja.security import APIKeyCookie, SessionAuth
from ninja.utils import check_csrf

HEADER = "X-Signed-In-As"


def from_our_page(request: HttpRequest) -> None:
    """HttpError 403 for a request that changes something and was begun on another site's page."""
    if check_csrf(request):
        raise HttpError(403, "This page does not fit its session any more. Load it anew.")


class Anybody(APIKeyCookie):
    """Nobody has to be signed in, and yet nothing is done for another site: who signs somebody in
    as somebody else gets to read what they type."""

    param_name = "csrftoken"

    def _get_key(self, request: HttpRequest) -> str | None:
        from_our_page(request)
        return None

    def authenticate(self, request: HttpRequest, key: str | None) -> Any:
        return "anybody"


class SignedIn(SessionAuth):
    """A session; refused when the page that calls was drawn for somebody else. Pages share one
    session: without this, what one person typed would go out under the next one's name."""

    def _get_key(self, request: HttpRequest) -> str | None:
        from_our_page(request)
        return request.COOKIES.get(self.param_name)

    def authenticate(self, request: HttpRequest, key: str | None) -> Any:
        user = super().authenticate(request, key)
        drawn_for = request.headers.get(HEADER)
        if user is None or (drawn_for and drawn_for != str(user.pk)):
            return None
        return user
