"""Routes of the demo workshop."""

from __future__ import annotations

from django.conf import settings
from django.http import Http404, HttpRequest
from ninja import Router

from calmsquare.accounts.api import Me, me_out
from calmsquare.accounts.signed_in import Anybody
from calmsquare.demo import services
from calmsquare.problems import answers

router = Router(tags=["demo"])


def _offered() -> None:
    if not settings.DEMO:
        raise Http404


@router.post("/open", response=answers(Me), auth=Anybody())
def open_demo(request: HttpRequest) -> Me:
    """Sign in to the demo workshop with one press."""
    _offered()
    services.open_demo(request)
    return me_out(request)


@router.post("/reset", response=answers(Me))
def reset_demo(request: HttpRequest) -> Me:
    """Put the visitor's own shed back to its start."""
    _offered()
    services.reset_demo(request)
    return me_out(request)
