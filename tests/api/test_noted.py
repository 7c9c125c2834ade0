"""What an operator finds in the log: a line for each request, a trace for what went wrong, and
nothing that is nobody's business."""

from __future__ import annotations

import json
import logging
from typing import Any
from uuid import uuid4

import pytest

from calmsquare.noted import AsJson, AsText
from tests.api.conftest import API, Person


class Kept(logging.Handler):
    """Everything that is told, in both forms, as it would stand in a file."""

    def __init__(self) -> None:
        super().__init__()
        self.text: list[str] = []
        self.json: list[dict[str, Any]] = []

    def emit(self, record: logging.LogRecord) -> None:
        self.text.append(AsText().format(record))
        self.json.append(json.loads(AsJson().format(record)))


@pytest.fixture
def kept() -> Any:
    handler = Kept()
    names = ("calmsquare.requests", "django.request")
    for name in names:
        logging.getLogger(name).addHandler(handler)
    yield handler
    for name in names:
        logging.getLogger(name).removeHandler(handler)


def test_a_line_for_each_request_and_nothing_secret_in_it(owner: Person, kept: Kept) -> None:
    assert owner.workshop
    id, secret = owner.workshop.pk, "s3cret-of-this-shed-" + "k" * 20
    owner.get(f"/workshops/{id}")
    owner.workshop.calendar_key = secret
    owner.workshop.save()
    owner.client.get(f"{API}/calendar/{secret}.ics?token={secret}")
    sign_in = {"email": "x@example.org", "password": secret}
    owner.client.post(f"{API}/auth/sign-in", sign_in, content_type="application/json")
    owner.get(f"/machines/{uuid4()}", expect=404)
    first, calendar, _, missing = kept.json[-4:]
    assert (first["method"], first["status"]) == ("GET", 200)
    assert first["route"] == "/api/v1/workshops/<workshop_id>"
    assert first["account"] == owner.user.pk
    assert first["ms"] >= 0
    assert calendar["route"].startswith("/api/v1/calendar/<")
    assert (missing["status"], missing["route"]) == (404, "/api/v1/machines/<machine_id>")
    assert len({line["request"] for line in kept.json}) == len(kept.json)
    told = "\n".join(kept.text) + json.dumps(kept.json)
    assert secret not in told
    assert "example.org" not in told
    assert str(id) not in told
    assert " GET /api/v1/workshops/<workshop_id> 200 " in kept.text[-4]


def test_what_went_wrong_is_found_by_the_number_that_was_told(
    owner: Person, kept: Kept, monkeypatch: pytest.MonkeyPatch
) -> None:
    def broken(*_: Any) -> None:
        raise RuntimeError("the belt slipped")

    monkeypatch.setattr("calmsquare.screens.api.workshop_out", broken, raising=False)
    monkeypatch.setattr("calmsquare.workshop.scope.Scope.get", broken)
    owner.client.raise_request_exception = False
    assert owner.workshop
    got = owner.client.get(f"{API}/workshops/{owner.workshop.pk}")
    assert got.status_code == 500
    number = got.headers["X-Request-ID"]
    assert number in got.json()["detail"]
    trace = next(line for line in kept.json if "trace" in line)
    assert trace["request"] == number
    assert "the belt slipped" in trace["trace"]
    line = next(line for line in kept.json if line.get("status") == 500)
    assert line["request"] == number
    assert any(number in text and "the belt slipped" in text for text in kept.text)
