"""Two workshops cannot see each other's anything, over every route; viewers only look."""

from __future__ import annotations

import re
from functools import cache
from json import loads
from typing import Any
from uuid import uuid4

import pytest

from calmsquare.api import api
from calmsquare.jobs.models import Job, Making
from calmsquare.logbook.models import Event, Photo
from calmsquare.planning.models import Evening
from calmsquare.surfacing.models import Program, SurfacingPlan
from calmsquare.workshop.models import Invitation, Membership, Piece, Role, Wanted
from tests.api.conftest import (
    Bench,
    Person,
    a_photo,
    bench_for,
    send_photo,
    send_program,
    somebody,
)
from tests.pattern import ROOT

NOW = "2026-03-01T19:00:00Z"
WISH = {
    "heights": "range",
    "range_mm": 0.2,
    "diameter_mm": 40,
    "reach_left_mm": -300,
    "reach_right_mm": 300,
}
JOB = {"name": "Bracket", "features": [{"kind": "hole", "upright_tol_mm": 0.1}]}
BODIES: dict[str, Any] = {
    "NewJobIn": {"id": str(uuid4()), "spec": JOB},
    "JobIn": {"spec": {**JOB, "name": "Mine now"}},
    "JobPreviewIn": {"spec": JOB},
    "CopyIn": {"id": str(uuid4())},
    "JobLimitsIn": {"machine_id": str(uuid4())},
    "MakingIn": {"id": str(uuid4()), "machine_id": str(uuid4())},
    "CameOutIn": {"measured": [], "note": "Mine now", "was": "x"},
    "WorkshopIn": {"name": "Shed"},
    "InviteIn": {"role": "viewer"},
    "SecretIn": {"secret": "a guess"},
    "RoleIn": {"role": "viewer"},
    "MachineIn": {"name": "Mine now", "spec": {}},
    "InstrumentIn": {"name": "Mine now", "spec": {"type": "digital"}},
    "ShimIn": {"thickness_mm": "0.1", "count": 1},
    "CheckIn": {"id": str(uuid4()), "kind": "spindle_tram"},
    "NewRound": {"id": str(uuid4())},
    "StationIn": {"station": "3"},
    "SetupIn": {"version": 1, "instrument_id": str(uuid4()), "setup": {}},
    "ReadingIn": {"station": "3", "text": "1", "unit": "mm", "read_at": NOW},
    "PreviewIn": {"station": "3", "text": "1", "unit": "mm"},
    "PasteIn": {"text": "0.1", "unit": "mm"},
    "LogIn": {"station": "3", "text": "1 2", "read_at": NOW},
    "BatchIn": {
        "readings": [
            {
                "id": str(uuid4()),
                "reading": {"station": "3", "text": "1", "unit": "mm", "read_at": NOW},
            }
        ]
    },
    "MoveIn": {"id": str(uuid4()), "next_round_id": str(uuid4()), "said": "x", "made_at": NOW},
    "SpecIn": {"spec": {}},
    "PieceIn": {"name": "Mine now", "spec": {"type": "collet"}},
    "ArchivedIn": {"archived": True},
    "SetupTyped": {"setup": {"radius_mm": 100}},
    "EventIn": {"id": str(uuid4()), "kind": "moved", "at": NOW},
    "GateIn": {"id": str(uuid4()), "gate": "old_shims", "said": "x", "at": NOW},
    "DecisionIn": {"id": str(uuid4()), "kind": "spindle_tram", "reason": "x", "at": NOW},
    "AcceptIn": {"id": str(uuid4()), "at": NOW},
    "TakenBackIn": {"taken_back": True},
    "PlanIn": {"minutes": 60},
    "EveningIn": {"id": str(uuid4()), "minutes": 60},
    "ResumeIn": {"minutes": 60},
    "TickIn": {"text": "a lamp", "done": True},
    "SkipIn": {"kind": "spindle_tram", "skip": True},
    "WishIn": {"wish": WISH},
    "KeepPlanIn": {"id": str(uuid4()), "wish": WISH},
    "BoardIn": {"board": {"thickness_mm": "17 mm"}, "was": {}},
    "DoneIn": {"done": {"marks_gone": True}, "at": NOW},
    "WantedIn": {"id": str(uuid4()), "what": "Thin shims", "why": "x"},
    "GotIn": {"got": True},
    "NoteIn": {"id": str(uuid4()), "text": "x", "written_at": NOW},
}
BODIES["WorkshopChange"] = {"name": "Mine now", "was": "Shed"}
BODIES["NewMachineIn"] = BODIES["MachineIn"]
BODIES |= {
    f"{of}Change": {**BODIES[f"{of}In"], "was": BODIES[f"{of}In"]}
    for of in ("Machine", "Instrument", "Piece", "Shim", "Job")
}


@cache
def schema() -> dict[str, Any]:
    """What the API says of itself; `bin/test` holds the file to it."""
    found: dict[str, Any] = loads((ROOT / "web/src/api/schema.json").read_text("utf-8"))
    return found


@cache
def routes() -> list[tuple[str, str, str]]:
    """(method, path, name of the body's model) of every route with an id in its path."""
    found = []
    for path, methods in schema()["paths"].items():
        for method, spec in methods.items():
            body = spec.get("requestBody", {}).get("content", {}).get("application/json", {})
            model = body.get("schema", {}).get("$ref", "").rpartition("/")[2]
            found.append((method, path.removeprefix("/api/v1"), model))
    return found


WITH_ID = [r for r in routes() if "{" in r[1]]


def theirs_only(model: Any) -> Any:
    return model.objects.get().pk


def filled(path: str, bench: Bench) -> str:
    member = Membership.objects.get(workshop=bench.by.workshop, user=bench.by.user)
    assert bench.by.workshop
    kit = bench.by.get(f"/workshops/{bench.by.workshop.pk}/kit")
    ids = {
        "workshop_id": bench.by.workshop.pk,
        "machine_id": bench.machine,
        "instrument_id": bench.instrument,
        "shim_id": kit["shims"][0]["id"],
        "check_id": bench.check["id"],
        "round_id": bench.round["id"],
        "reading_id": uuid4(),
        "kind": "spindle_tram",
        "member_id": member.pk,
        "invitation_id": theirs_only(Invitation),
        "piece_id": theirs_only(Piece),
        "photo_id": theirs_only(Photo),
        "evening_id": theirs_only(Evening),
        "job_id": theirs_only(Job),
        "making_id": theirs_only(Making),
        "plan_id": theirs_only(SurfacingPlan),
        "program_id": theirs_only(Program),
        "format": "svg",
        "key": "patches",
        "symptom": "ridges",
        "wanted_id": theirs_only(Wanted),
        "record_type": "events",
        "record_id": theirs_only(Event),
    }
    return re.sub(r"\{(\w+)\}", lambda m: str(ids[m[1]]), path)


def test_every_route_is_known_here(client: Any, db: None) -> None:
    assert client.get("/api/v1/openapi.json").json()["info"]["title"] == "Calm Square"
    assert len(WITH_ID) >= 48
    assert {model for *_, model in WITH_ID if model} <= set(BODIES)


@pytest.fixture
def theirs(owner: Person) -> Bench:
    bench = bench_for(owner)
    bench.set_up()
    bench.swing(0.4, 0.1, passes=1)
    assert owner.workshop
    owner.post(f"/workshops/{owner.workshop.pk}/pieces", {"name": "C", "spec": {"type": "collet"}})
    owner.post(
        f"/machines/{bench.machine}/events", {"id": uuid4(), "kind": "hours", "hours": 2, "at": NOW}
    )
    owner.post(f"/machines/{bench.machine}/evenings", {"id": uuid4(), "minutes": 60})
    send_photo(bench, a_photo())
    owner.change(f"/machines/{bench.machine}/board", {"board": {}})
    keep = {"id": uuid4(), "wish": WISH}
    owner.post(f"/machines/{bench.machine}/surfacing-plans", keep)
    send_program(bench, b"G21\nG0 Z5\n")
    job = owner.post(f"/workshops/{owner.workshop.pk}/jobs", {"id": uuid4(), "spec": JOB})
    made = {"id": uuid4(), "machine_id": bench.machine}
    owner.post(f"/jobs/{job['id']}/makings", made)
    owner.post(f"/workshops/{owner.workshop.pk}/invitations", BODIES["InviteIn"])
    owner.post(f"/workshops/{owner.workshop.pk}/wanted", BODIES["WantedIn"])
    return bench


def everything(bench: Bench) -> Any:
    assert bench.by.workshop
    at = f"/workshops/{bench.by.workshop.pk}"
    return [
        bench.by.get(p)
        for p in (
            *(
                f"{at}{more}"
                for more in ("", "/members", "/invitations", "/kit", "/wanted", "/logbook", "/jobs")
            ),
            f"/checks/{bench.check['id']}",
        )
    ]


def test_a_guessed_address_shows_and_changes_nothing(theirs: Bench) -> None:
    stranger = somebody("stranger")
    before = everything(theirs)
    for method, path, model in WITH_ID:
        if path.endswith("/photos"):
            told = send_photo(theirs, a_photo(), by=stranger, expect=404)
        elif path.endswith("/programs") and method == "post":
            told = send_program(theirs, b"G0", by=stranger, expect=404)
        else:
            told = stranger.call(method, filled(path, theirs), BODIES.get(model), expect=404)
        assert "Avocet" not in str(told)
    assert everything(theirs) == before


def test_nobody_signed_in_gets_nothing(theirs: Bench) -> None:
    nobody = Person(theirs.by.user)
    nobody.client.logout()
    for method, path, model in WITH_ID:
        if path.endswith("/photos"):
            send_photo(theirs, a_photo(), by=nobody, expect=401)
        elif path.endswith("/programs") and method == "post":
            send_program(theirs, b"G0", by=nobody, expect=401)
        else:
            nobody.call(method, filled(path, theirs), BODIES.get(model), expect=401)


def test_a_viewer_reads_everything_and_writes_nothing(theirs: Bench) -> None:
    viewer = somebody("idris", theirs.by.workshop, Role.VIEWER)
    before = everything(theirs)
    only_looking = ("/preview", "/surfacing-preview", "/paste", "/standin", "/leave", "/limits")
    for method, path, model in WITH_ID:
        at = filled(path, theirs)
        if path.endswith("/photos"):
            send_photo(theirs, a_photo(), by=viewer, expect=403)
        elif path.endswith("/programs") and method == "post":
            send_program(theirs, b"G0", by=viewer, expect=403)
        elif path.endswith("/program") or path == "/photos/{photo_id}":
            assert viewer.client.get(f"/api/v1{at}").status_code == 200
        elif path.endswith(("/sheet", "/drawing/{format}", "/programs/{key}")):
            # a tram has no template and cuts nothing, and no move was named; no matter of rights
            viewer.get(at, expect=404)
        elif method == "get":
            viewer.get(at)
        elif path.endswith("}/plan") or path == "/rounds/{round_id}/instruments":
            viewer.call(method, at, BODIES.get(model))
        elif not path.endswith(only_looking):
            told = viewer.call(method, at, BODIES.get(model), expect=403)
            assert "You are a viewer here" in told["detail"]
    everything_now = everything(theirs)
    assert everything_now == before
    assert not viewer.get(f"/checks/{theirs.check['id']}")["can_write"]


def test_a_maker_measures_but_does_not_decide_who_is_in(theirs: Bench) -> None:
    maker = somebody("tove", theirs.by.workshop, Role.MAKER)
    assert theirs.by.workshop
    at = f"/workshops/{theirs.by.workshop.pk}/invitations"
    maker.post(at, BODIES["InviteIn"], expect=403)
    theirs.by = maker
    theirs.read("12", "+0.02")
    maker.post(f"/rounds/{theirs.round['id']}/settle")


def test_an_instrument_of_another_shed_cannot_be_borrowed(theirs: Bench) -> None:
    own = somebody("idris")
    mine = bench_for(own)
    mine.instrument = theirs.instrument
    mine.set_up(expect=404)


def test_an_id_taken_elsewhere_tells_nothing(theirs: Bench) -> None:
    mine = bench_for(somebody("idris"))
    mine.set_up()
    taken = theirs.round["readings"][0]["id"]
    told = mine.read("12", "+0.01", id=taken, expect=409)
    assert "Avocet" not in str(told)
    assert len(mine.by.get(f"/checks/{mine.check['id']}")["rounds"][0]["readings"]) == 0


def test_the_schema_is_made_out_once(client: Any, db: None, monkeypatch: Any) -> None:
    first = client.get("/api/v1/openapi.json")
    assert first["Content-Type"] == "application/json"
    monkeypatch.setattr(api, "get_openapi_schema", None)
    assert client.get("/api/v1/openapi.json").content == first.content
    assert client.post("/api/v1/openapi.json").status_code == 405
