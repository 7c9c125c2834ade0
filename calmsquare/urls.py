"""Addresses: the API, and one page for everything else."""

from __future__ import annotations

from django.urls import path, re_path

from calmsquare.api import api, openapi
from calmsquare.page import healthy, page

urlpatterns = [
    path("api/v1/openapi.json", openapi),
    path("api/v1/", api.urls),
    path("healthy", healthy),
    re_path(r"^(?!api/|assets/).*$", page),
]
