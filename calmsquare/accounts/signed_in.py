"""Who may call: whoever is signed in, as the person for whom the page was drawn."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from ninja.security import SessionAuth

HEADER = "X-Signed-In-As"


class SignedIn(SessionAuth):
    """A session; refused when the page that calls was drawn for somebody else. Pages share one
    session: without this, what one person typed would go out under the next one's name."""

    def authenticate(self, request: HttpRequest, key: str | None) -> Any:
        user = super().authenticate(request, key)
        drawn_for = request.headers.get(HEADER)
        if user is None or (drawn_for and drawn_for != str(user.pk)):
            return None
        return user
