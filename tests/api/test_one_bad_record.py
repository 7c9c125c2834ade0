"""A record that cannot be read takes nothing else along: pages show the rest and name it."""

from __future__ import annotations

from datetime import UTC, datetime
from importlib import import_module
from typing import Any
from uuid import uuid4

import pytest
from django.apps import apps
from django.db import OperationalError
from django.http import HttpRequest

from calmsquare.logbook.models import Decision, Event, Photo, Round
from calmsquare.workshop.models import Machine
from calmsquare.workshop.schemas import NewMachineIn
from calmsquare.workshop.scope import Scope
from calmsquare.workshop.services import save_machine
from tests.api.conftest import Bench, a_photo, send_photo, somebody
from truing.machine import starting_point
from truing.measure.problem import Problem
from truing.registry import kind

AT = "2026-03-01T19:00:00Z"


@pytest.fixture
def logged(bench: Bench) -> Bench:
    """A tram that was read, an event, a decision and a photo; nothing raises into the test."""
    bench.set_up()
    bench.swing(0.4, 0.1, passes=1)
    by, at = bench.by, f"/machines/{bench.machine}"
    by.client.raise_request_exception = False
    by.post(f"{at}/events", {"id": uuid4(), "kind": "hours", "hours": 2, "at": AT})
    by.post(f"{at}/decisions", {"id": uuid4(), "kind": "spindle_tram", "reason": "So", "at": AT})
    send_photo(bench, a_photo())
    return bench


def log(bench: Bench) -> Any:
    assert bench.by.workshop
    return bench.by.get(f"/workshops/{bench.by.workshop.pk}/logbook")


def titles(page: Any) -> set[str]:
    shown = [e["sitting"] or e["record"] for e in page["entries"]]
    return {s["title"] for s in shown}


@pytest.mark.parametrize(
    ("model", "broken", "named"),
    [
        (Decision, {"figures": [{"label": 3}]}, "decision"),
        (Event, {"gate": {"title": "x"}}, "event"),
    ],
)
def test_a_line_of_the_logbook_that_is_broken_is_named(
    logged: Bench, model: Any, broken: dict[str, Any], named: str
) -> None:
    before = titles(log(logged))
    model.objects.update(**broken)
    page = log(logged)
    assert len(page["entries"]) == len(before) - 1
    assert titles(page) < before
    assert [f["what"] for f in page["faults"]] == [f"The {named} of 2026-03-01 on Avocet"]
    machine = logged.by.get(f"/machines/{logged.machine}")
    assert len(machine["faults"]) == 1
    assert machine["checks"][0]["status"]


def test_a_round_whose_result_is_broken_says_so_where_it_stands(logged: Bench) -> None:
    Round.objects.update(summary={"shape": "summary", "format": 1, "values": "?"})
    [entry] = [e["sitting"] for e in log(logged)["entries"] if e["sitting"]]
    assert "cannot be read" in entry["rounds"][0]["sentence"]["metric"]
    machine = logged.by.get(f"/machines/{logged.machine}")
    assert any(c["status"] != "unmeasured" for c in machine["checks"])


def test_a_machine_that_cannot_be_read_leaves_the_others_standing(logged: Bench) -> None:
    workshop = logged.by.workshop
    assert workshop
    save_machine(
        Scope(logged.by.user),
        workshop_id=workshop.pk,
        form=NewMachineIn(
            name="Second", spec=starting_point("micro_mill").model_dump(mode="json"), intervals={}
        ),
    )
    Machine.objects.filter(pk=logged.machine).update(
        spec={"shape": "machine", "format": 3, "slides": "?"}
    )
    told = logged.by.get(f"/workshops/{workshop.pk}")
    assert [m["name"] for m in told["machines"]] == ["Second"]
    assert [f["what"] for f in told["faults"]] == ["Avocet"]
    assert "cannot be shown" in told["faults"][0]["text"]
    # the logbook tells of it all the same
    assert {"Tram", "Photo"} <= titles(log(logged))


def test_a_settled_round_that_is_broken_keeps_its_verdict_and_the_next_begins_anew(
    logged: Bench,
) -> None:
    logged.by.post(f"/rounds/{logged.round_id}/settle")
    judged = Round.objects.get().verdict
    assert judged == "out"
    Round.objects.update(
        outcome={"shape": "outcome", "format": 1, "finding": "?"},
        lesson={"shape": "lesson", "format": 1, "values": "?"},
        setup={"shape": "setup", "format": 1, "radius_mm": "?"},
    )
    old = logged.look()["rounds"][0]
    assert [r["text"] for r in old["readings"]] == ["+0.0100", "+0.0400", "-0.0100", "-0.0400"]
    found = logged.by.get(f"/rounds/{old['id']}/finding")
    assert f"“{judged}”" in str(found)
    assert "details cannot be read" in str(found)
    assert logged.by.get(f"/machines/{logged.machine}")["checks"]
    # the next one is set up anew, and goes on to a verdict of its own
    again = logged.by.post(f"/checks/{logged.check['id']}/rounds", {"id": uuid4()})
    assert again["rounds"][-1]["setup"] is None
    logged.check = again
    logged.set_up()
    logged.swing(0.0, 0.0)
    assert logged.found["judgement"]["verdict"] == "true"


@pytest.mark.parametrize(
    ("failure", "says"),
    [
        (ZeroDivisionError(), "What to do about it could not be worked out here"),
        (Problem("No bolt can be reached.", expected="Turn it.", field="x"), "No bolt can be"),
    ],
)
def test_advice_that_fails_is_a_remark_and_is_asked_for_again(
    logged: Bench, monkeypatch: pytest.MonkeyPatch, failure: Exception, says: str
) -> None:
    def fails(*_: Any) -> None:
        raise failure

    with monkeypatch.context() as patched:
        patched.setattr(type(kind("spindle_tram")), "advise", fails)
        logged.swing(0.4, 0.1, passes=1)
        found = logged.found
    assert found["judgement"]["verdict"] == "out"
    assert found["advice"]["moves"] == []
    assert says in found["advice"]["remarks"][0]["metric"]
    # what failed once is not kept
    assert logged.found["advice"]["moves"]


def test_times_that_no_clock_has_shown_are_mended_on_the_way_up(logged: Bench) -> None:
    """As rows that were kept before times were bounded: these cannot even be read back."""
    from django.db import connection

    with connection.cursor() as cursor:
        cursor.execute("UPDATE logbook_event SET at = '0044-03-15 12:00:00+00 BC'")
        cursor.execute("UPDATE logbook_photo SET at = '0001-01-01 00:00:00+14'")
    with pytest.raises(Exception, match="too small"):
        list(Event.objects.all())
    mended = import_module("calmsquare.logbook.migrations.0007_times_that_can_be")
    mended.mend(apps, None)
    earliest = datetime(2000, 1, 1, tzinfo=UTC)
    assert Event.objects.get().at == Photo.objects.get().at == earliest
    assert len(log(logged)["entries"]) == 4


def test_what_is_sent_while_the_database_is_away_may_be_sent_again(
    logged: Bench, monkeypatch: pytest.MonkeyPatch
) -> None:
    def away(*args: Any, **more: Any) -> None:
        raise OperationalError("the server closed the connection unexpectedly")

    with monkeypatch.context() as patched:
        patched.setattr("calmsquare.logbook.readings.put_reading", away)
        told = logged.read("12", "1 div", expect=503)
    assert told["title"] == "Not just now"
    logged.read("12", "1 div")


def test_a_page_that_was_drawn_for_somebody_else_sends_nothing(logged: Bench) -> None:
    """Two pages share a session: somebody signs in on one, the other still holds their readings."""
    here = logged.by.client
    path = f"/api/v1/rounds/{logged.round['id']}/notes"
    note = {"id": str(uuid4()), "text": "Mine", "written_at": AT}
    told = here.post(
        path,
        note,
        content_type="application/json",
        headers={"X-Signed-In-As": str(somebody("jory").user.pk)},
    )
    assert told.status_code == 401
    mine = str(logged.by.user.pk)
    assert logged.by.get("/auth/me")["id"] == mine
    told = here.post(path, note, content_type="application/json", headers={"X-Signed-In-As": mine})
    assert told.status_code == 200
    assert isinstance(told.wsgi_request, HttpRequest)
