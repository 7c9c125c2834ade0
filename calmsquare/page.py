"""The one page of the front end."""

from __future__ import annotations

from django.conf import settings
from django.db import connection
from django.http import HttpRequest, HttpResponse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_safe

WORKER_SILENT_S = 60
"""A worker says that it is there every ten seconds."""
NOT_BUILT = "The front end is not built yet: run bin/demo, or `npm run build` in web/."


@require_safe
@never_cache
def page(request: HttpRequest) -> HttpResponse:
    """The built index page with this response's nonce, for the styles the page adds itself."""
    index = settings.WEB_DIST / "index.html"
    if not index.is_file():
        return HttpResponse(NOT_BUILT, status=503, content_type="text/plain; charset=utf-8")
    nonce = str(request.csp_nonce)  # type: ignore[attr-defined]
    return HttpResponse(index.read_text("utf-8").replace("__CSP_NONCE__", nonce))


@require_safe
@never_cache
def healthy(request: HttpRequest) -> HttpResponse:
    """Whether the server answers and reaches its database, and whether anybody fetches jobs: pages
    are served without, and programs wait."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT EXISTS (SELECT FROM procrastinate_workers "
            "WHERE last_heartbeat > now() - make_interval(secs => %s))",
            [WORKER_SILENT_S],
        )
        (fetched,) = cursor.fetchone()
    told = "ok" if fetched else "ok, but nothing fetches jobs: no worker runs"
    return HttpResponse(told, content_type="text/plain")
