"""The course over the record: staleness and why, taking back, plans, photos, the calendar."""

from __future__ import annotations

import io
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID, uuid4

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from icalendar import Calendar
from PIL import Image

from calmsquare.logbook.models import Check, Event, Photo, Round
from calmsquare.planning.models import Evening
from calmsquare.workshop.models import Machine, Membership, Role
from tests.api.conftest import API, Bench, Person, a_photo, bench_for, send_photo, somebody
from truing.course.guide import guide
from truing.machine import starting_point


def now() -> str:
    return datetime.now(UTC).isoformat()


def tram_of(bench: Bench) -> Any:
    machine = bench.by.get(f"/machines/{bench.machine}")
    return next(c for c in machine["checks"] if c["kind"] == "spindle_tram")


def settled(bench: Bench, a: float, b: float) -> None:
    if bench.round["settled_at"]:
        bench.check = bench.by.post(f"/checks/{bench.check['id']}/rounds", {"id": uuid4()})
    if bench.round["setup"] is None:
        bench.set_up()
    bench.swing(a, b)
    bench.check = bench.by.post(f"/rounds/{bench.round['id']}/settle")


def happen(bench: Bench, kind: str, expect: int = 200, **more: Any) -> Any:
    body = {"id": uuid4(), "kind": kind, "at": now(), **more}
    return bench.by.post(f"/machines/{bench.machine}/events", body, expect=expect)


def take_back(bench: Bench, type_: str, id: Any, back: bool = True, expect: int = 200) -> Any:
    path = f"/records/{type_}/{id}/taken-back"
    return bench.by.put(path, {"taken_back": back}, expect=expect)


@pytest.mark.usefixtures("tram_only")
def test_an_event_makes_it_stale_and_taking_it_back_makes_it_true(bench: Bench) -> None:
    settled(bench, 0.02, 0.01)
    assert tram_of(bench)["status"] == "true"
    told = happen(bench, "moved")
    tram = tram_of(bench)
    assert tram["status"] == "stale"
    assert tram["why"]["metric"].startswith("It was moved on ")
    assert told["next_step"]["kind"] == "spindle_tram"
    stale = {(p["name"], p["view"]) for p in told["ghost"]["parts"] if p["stale"]}
    assert stale == {("Spindle", "front"), ("Spindle", "side")}
    event = Event.objects.get()
    assert take_back(bench, "events", event.pk)["next_step"] is None
    assert tram_of(bench)["status"] == "true"
    log = bench.by.get(f"/workshops/{bench.by.workshop.pk}/logbook")  # type: ignore[union-attr]
    record = log["entries"][0]["record"]
    assert (record["title"], record["taken_back"]) == ("It was moved", True)
    take_back(bench, "events", event.pk, back=False)
    assert tram_of(bench)["status"] == "stale"


def test_an_event_sent_twice_is_there_once_and_its_id_is_its_own(bench: Bench) -> None:
    id = str(uuid4())
    for _ in range(2):
        happen(bench, "moved", id=id)
    assert Event.objects.count() == 1
    stranger = bench_for(somebody("idris"))
    told = happen(stranger, "moved", id=id, expect=409)
    assert "Another record has this id" in told["detail"]
    assert Event.objects.get().machine_id == UUID(bench.machine)


def test_what_touches_nothing_below_leaves_it_true(bench: Bench) -> None:
    settled(bench, 0.02, 0.01)
    happen(bench, "note", said="Oiled.")
    happen(bench, "hours", hours=12)
    happen(bench, "replaced", mechanisms=["vice"])
    assert tram_of(bench)["status"] == "true"
    happen(bench, "other", said="The mallet fell on the head", mechanisms=["head_pivot"])
    assert "The mallet fell on the head" in tram_of(bench)["why"]["metric"]


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({"kind": "replaced"}, "mechanisms"),
        ({"kind": "replaced", "mechanisms": ["rail_first"]}, "mechanisms"),
        ({"kind": "other"}, "said"),
        ({"kind": "hours"}, "hours"),
        ({"kind": "hours", "hours": -3}, "hours"),
        ({"kind": "flood"}, "kind"),
    ],
)
def test_a_happening_that_says_too_little(bench: Bench, body: Any, field: str) -> None:
    told = happen(bench, expect=422, **body)
    assert told["errors"][0]["field"] == field
    assert not Event.objects.exists()


def test_a_wrong_move_is_taken_back_with_all_that_followed(owner: Person) -> None:
    bench = bench_for(owner, form="micro_mill", standin=True)
    bench.set_up()
    bench.swing(0.0, 0.9)
    kit = f"/workshops/{owner.workshop.pk}/kit"  # type: ignore[union-attr]
    tin = {s["thickness_mm"]: s["count"] for s in owner.get(kit)["shims"]}
    truth = Machine.objects.get().truth
    bench.move(bench.found["advice"]["moves"][0]["key"])
    wrong = bench.check["rounds"][0]["move"]["id"]
    assert tram_of(bench)["why"]["metric"].startswith("The column was shimmed on ")
    assert bench.round["predicted"]
    assert Machine.objects.get().truth != truth
    book = f"/workshops/{owner.workshop.pk}/logbook"  # type: ignore[union-attr]
    sitting = owner.get(book)["entries"][0]["sitting"]
    assert sitting["status"] == "stale"
    take_back(bench, "moves", wrong)
    # what it found holds again, since nothing was moved
    sitting = owner.get(book)["entries"][0]["sitting"]
    assert sitting["status"] == "out"
    bench.check = owner.get(f"/checks/{bench.check['id']}")
    assert tram_of(bench)["status"] == "out"
    assert bench.check["rounds"][0]["move"]["taken_back"]
    assert bench.round["predicted"] == []
    spec = owner.get(f"/machines/{bench.machine}")["spec"]
    assert all(p["shims_mm"] == [] for p in spec["base"]["pads"])
    assert {s["thickness_mm"]: s["count"] for s in owner.get(kit)["shims"]} == tin
    assert Machine.objects.get().truth == truth
    take_back(bench, "moves", wrong, back=False)
    bench.check = owner.get(f"/checks/{bench.check['id']}")
    assert bench.round["predicted"]
    assert tram_of(bench)["status"] == "stale"
    bench.swing(0.0, -0.9)
    assert bench.found["trends"]
    bench.move(bench.found["advice"]["moves"][0]["key"])
    told = take_back(bench, "moves", wrong, expect=409)
    assert "Take the later one back first" in told["detail"]


@pytest.mark.usefixtures("tram_only")
def test_leaving_it_and_accepting_with_open_items(bench: Bench) -> None:
    settled(bench, 0.6, 0.01)
    at = f"/machines/{bench.machine}"
    leave = {"id": uuid4(), "kind": "spindle_tram", "reason": "", "at": now()}
    told = bench.by.post(f"{at}/decisions", leave, expect=422)
    assert told["errors"][0]["field"] == "reason"
    left = bench.by.post(f"{at}/decisions", {**leave, "reason": "It only drills pilot holes."})
    assert left["next_step"] is None
    assert tram_of(bench)["left"]["reason"] == "It only drills pilot holes."
    assert next(s for s in left["stages"] if s["key"] == "tram")["left"]
    accepted = bench.by.post(f"{at}/acceptances", {"id": uuid4(), "note": "", "at": now()})
    assert accepted["acceptance"]["still"]
    items = accepted["acceptance"]["open_items"]
    assert [i["text"]["metric"] for i in items] == ["Left as it is: It only drills pilot holes."]
    log = bench.by.get(f"/workshops/{bench.by.workshop.pk}/logbook")["entries"]  # type: ignore[union-attr]
    assert [e["record"]["title"] for e in log if e["record"]] == [
        "Accepted, with open items",
        "Tram left as it is",
    ]
    assert "Lean: +0.60" in log[1]["record"]["lines"][0]["metric"]
    after = happen(bench, "crash")
    assert not after["acceptance"]["still"]
    assert after["next_step"]["kind"] == "spindle_tram"
    assert "it crashed" in tram_of(bench)["lapsed"]["metric"]


@pytest.mark.usefixtures("tram_only")
def test_a_head_tilted_on_purpose_is_not_asked_about_until_it_is_back(bench: Bench) -> None:
    settled(bench, 0.6, 0.01)
    assert tram_of(bench)["status"] == "out"
    offered = {e["key"] for e in bench.by.get(f"/machines/{bench.machine}")["events"]}
    assert "tilted" in offered
    assert not offered & {"squared", "raised"}
    refused = happen(bench, "tilted", degrees=120, expect=422)
    assert refused["errors"][0]["field"] == "degrees"
    happen(bench, "squared", expect=422)
    told = happen(bench, "tilted", degrees=30)
    tram = tram_of(bench)
    # neither stale nor out, and nobody asks for it; what is not known is not drawn either
    assert (tram["status"], tram["withheld"], tram["values"]) == ("unmeasured", True, [])
    assert "tilted by 30°" in tram["why"]["metric"]
    assert told["next_step"] is None
    offered = {e["key"] for e in told["events"]}
    assert "squared" in offered
    assert "tilted" not in offered
    told = happen(bench, "squared")
    assert told["next_step"]["kind"] == "spindle_tram"
    assert tram_of(bench)["status"] == "stale"
    assert "tilted by 30°" in tram_of(bench)["why"]["metric"]
    # a tilt that was logged wrongly leaves what was read as it was
    log = bench.by.get(f"/workshops/{bench.by.workshop.pk}/logbook")["entries"]  # type: ignore[union-attr]
    for entry in log[:2]:
        take_back(bench, "events", entry["record"]["id"])
    assert tram_of(bench)["status"] == "out"


def test_a_head_back_to_square_is_trammed_before_anything_else(bench: Bench) -> None:
    settled(bench, 0.02, 0.01)
    assert happen(bench, "note", said="x")["next_step"]["kind"] != "spindle_tram"
    happen(bench, "tilted", degrees=12.5)
    back = happen(bench, "squared")
    assert back["next_step"]["kind"] == "spindle_tram"
    bench.by.post(f"/checks/{bench.check['id']}/rounds", {"id": uuid4()})
    bench.check = bench.by.get(f"/checks/{bench.check['id']}")
    settled(bench, 0.02, 0.01)
    assert happen(bench, "note", said="y")["next_step"]["kind"] != "spindle_tram"


def test_a_head_raised_on_a_round_bar_holds_no_direction(owner: Person) -> None:
    bench = bench_for(owner, form="round_column")
    settled(bench, 0.02, 0.01)
    told = happen(bench, "raised")
    assert tram_of(bench)["status"] == "stale"
    assert "raised on its round column" in tram_of(bench)["why"]["metric"]
    assert "raised" in {e["key"] for e in told["events"]}


def test_a_gate_wants_what_was_there_before_it_is_gone(bench: Bench) -> None:
    at = f"/machines/{bench.machine}"
    gate = next(g for g in bench.by.get(at)["gates"] if g["key"] == "old_shims")
    opened = [(i["title"], i["status"]) for i in gate["open"]]
    assert opened == [("Tram", "unmeasured"), ("Square travel", "unmeasured")]
    body = {"id": uuid4(), "gate": "old_shims", "at": now()}
    told = bench.by.post(f"{at}/gates", body, expect=422)
    assert "Keep a photo or a note first" in told["errors"][0]["expected"]
    photo = send_photo(bench, a_photo())
    bench.by.post(f"{at}/gates", {**body, "photo_id": photo["id"]})
    log = bench.by.get(f"/workshops/{bench.by.workshop.pk}/logbook")["entries"]  # type: ignore[union-attr]
    record = log[0]["record"]
    assert record["title"] == "Take old shims out"
    assert [w["metric"] for w in record["lines"]] == [
        "Tram: Not measured.",
        "Square travel: Not measured.",
    ]
    assert record["photos"][0]["id"] == photo["id"]
    bench.by.post(f"{at}/gates", {**body, "id": uuid4(), "gate": "cast", "said": "x"}, expect=422)


def test_a_photo_is_upright_smaller_and_says_nothing_of_where(bench: Bench) -> None:
    exif = Image.Exif()
    exif[0x0112] = 6  # turned a quarter: the camera was held upright
    exif.get_ifd(0x8825)[1] = "N"
    exif.get_ifd(0x8825)[2] = (51.0, 30.0, 0.0)
    kept = send_photo(bench, a_photo(3000, 2000, exif=exif), caption="Shims")
    assert (kept["width"], kept["height"]) == (1067, 1600)
    got = bench.by.client.get(f"{API}/photos/{kept['id']}")
    assert got["Content-Type"] == "image/jpeg"
    image = Image.open(io.BytesIO(got.content))
    assert image.size == (1067, 1600)
    assert not image.getexif()
    assert b"GPS" not in got.content
    # turned, the dark half lies on the right
    assert sum(image.getpixel((1000, 800))) < sum(image.getpixel((60, 800)))  # type: ignore[arg-type]
    small = bench.by.client.get(f"{API}/photos/{kept['id']}?small=true")
    assert max(Image.open(io.BytesIO(small.content)).size) == 320
    assert not kept["taken_back"]
    take_back(bench, "photos", kept["id"])
    assert Photo.objects.get().taken_back_at


def test_a_photo_that_is_none(bench: Bench) -> None:
    for data, words in (
        (b"GIF89a not a picture", "not a picture"),
        (a_photo()[:300], "not a picture"),
        (a_photo(64, 64, "GIF"), "not a picture"),
        (b"\xff" * 15_000_001, "15 MB"),
        (a_photo(10_000, 8_000, "PNG"), "too many pixels"),
    ):
        told = send_photo(bench, data, expect=422)
        assert told["errors"][0]["field"] == "photo"
        assert words in told["errors"][0]["message"]
    assert not Photo.objects.exists()
    other = bench_for(somebody("idris"))
    send_photo(bench, a_photo(), round_id=other.round["id"], expect=404)


@pytest.mark.usefixtures("tram_only")
def test_an_evening_is_planned_ticked_stopped_and_gone_on_with(bench: Bench) -> None:
    at = f"/machines/{bench.machine}"
    told = bench.by.post(f"{at}/plan", {"minutes": 90})
    assert [s["kind"] for s in told["plan"]["steps"]] == ["spindle_tram"]
    assert told["plan"]["used"] <= 90
    assert any("head swings down" in c for c in told["plan"]["cautions"])
    assert not any("end plate" in c for c in told["plan"]["cautions"])
    assert bench.by.post(f"{at}/plan", {"minutes": 20})["plan"]["steps"] == []
    bench.by.post(f"{at}/plan", {"minutes": 3}, expect=422)
    start = {"id": uuid4(), "minutes": 90}
    bench.by.post(f"{at}/evenings", {**start, "minutes": 10}, expect=422)
    evening = bench.by.post(f"{at}/evenings", start)
    path = f"/evenings/{evening['id']}"
    assert bench.by.post(f"{at}/evenings", {**start, "id": uuid4()})["id"] == evening["id"]
    kit = evening["plan"]["kit"][0]
    assert bench.by.post(f"{path}/tick", {"text": kit, "done": True})["ticked"] == [kit]
    Evening.objects.update(running_since=datetime.now(UTC) - timedelta(minutes=30))
    stopped = bench.by.post(f"{path}/pause")
    assert (stopped["minutes_left"], stopped["running"]) == (60, False)
    # laid out and isolated it is already: all of the time goes into the check
    whole = bench.by.post(f"{path}/resume", {"minutes": guide("spindle_tram").minutes})
    assert [s["kind"] for s in whole["plan"]["steps"]] == ["spindle_tram"]
    bench.by.post(f"{path}/pause")
    again = bench.by.post(f"{path}/resume", {"minutes": 45})
    assert (again["minutes_left"], again["ticked"]) == (45, [])
    settled(bench, 0.9, 0.0)
    adapted = bench.by.get(path)
    assert adapted["done"][0]["status"] == "out"
    assert adapted["plan"]["steps"] == []
    assert "has dropped out" in adapted["changes"][0]["metric"]
    assert bench.by.post(f"{path}/seen")["changes"] == []
    settled(bench, 0.02, 0.0)
    assert bench.by.get(path)["plan"]["sentence"]["metric"].startswith("Nothing is missing")
    assert bench.by.post(f"{path}/end")["ended"]
    bench.by.post(f"{path}/tick", {"text": kit, "done": True}, expect=409)
    assert bench.by.get(at)["evening"] is None


def test_the_calendar_tells_when_to_look_again(bench: Bench) -> None:
    settled(bench, 0.02, 0.01)
    workshop = f"/workshops/{bench.by.workshop.pk}/calendar"  # type: ignore[union-attr]
    told = bench.by.get(workshop)
    assert told["path"] is None
    due = datetime.fromisoformat(told["entries"][0]["day"]).date()
    assert (due - datetime.now(UTC).date()).days == 120
    path = bench.by.post(workshop)["path"]
    anybody = Person(bench.by.user).client
    anybody.logout()
    got = anybody.get(path)
    assert got["Content-Type"].startswith("text/calendar")
    events = Calendar.from_ical(got.content).walk("VEVENT")
    assert [str(e["summary"]) for e in events] == ["Avocet: tram"]
    assert events[0].decoded("dtstart") == due
    uid = str(events[0]["uid"])
    happen(bench, "moved")
    events = Calendar.from_ical(anybody.get(path).content).walk("VEVENT")
    assert "It was moved" in str(events[0]["description"])
    assert str(events[0]["uid"]) == uid
    assert bench.by.post(workshop)["path"] != path
    assert anybody.get(path).status_code == 404
    viewer = somebody("idris", bench.by.workshop, Role.VIEWER)
    assert viewer.get(workshop)["path"] is None
    spec = bench.by.get(f"/machines/{bench.machine}")["spec"]
    body = {"name": "Avocet", "spec": spec, "intervals": {"spindle_tram": 9999}}
    told = bench.by.change(f"/machines/{bench.machine}", body, expect=422)
    assert told["errors"][0]["field"] == "intervals.spindle_tram"
    # from never to ten years, and for what there is
    for days, expect in ((0, 200), (30, 200), (3650, 200), (3651, 422), (-1, 422)):
        body["intervals"] = {"spindle_tram": days}
        bench.by.change(f"/machines/{bench.machine}", body, expect=expect)
    body["intervals"] = {"spindle_song": 30}
    bench.by.change(f"/machines/{bench.machine}", body, expect=422)


def test_the_kit_is_ranked_and_warns_before_the_first_reading(bench: Bench) -> None:
    at = f"/workshops/{bench.by.workshop.pk}/instruments"  # type: ignore[union-attr]
    coarse = bench.by.post(
        at,
        {
            "name": "Old dial",
            "spec": {"type": "plunger_dial", "graduation_mm": 0.1, "compared_on": "2026-02-01"},
        },
    )
    assert coarse["spec"]["compared_on"] == "2026-02-01"
    path = f"/rounds/{bench.round['id']}/instruments"
    told = bench.by.post(path, {"setup": {"radius_mm": "100 mm"}})
    assert [c["name"] for c in told["choices"]] == ["Dial", "Old dial"]
    assert [c["enough"] for c in told["choices"]] == [True, False]
    assert told["none"] is None
    bench.by.put(f"/instruments/{bench.instrument}/archived", {"archived": True})
    told = bench.by.post(path, {"setup": {"radius_mm": "100 mm"}})
    assert (
        "Nothing in the kit can decide this yet; Old dial comes nearest" in told["none"]["metric"]
    )
    assert bench.round["readings"] == []
    # one that decides most, but not what lies near the limit
    spec = {"type": "plunger_dial", "graduation_mm": 0.01, "repeatability_mm": 0.004}
    bench.by.post(at, {"name": "Usual dial", "spec": spec})
    told = bench.by.post(path, {"setup": {"radius_mm": "80 mm"}})
    assert told["none"]["metric"].startswith("Usual dial can decide this unless the error lies")
    assert told["doubts"] == []
    # a swing that this table is too small for can be read, and is told
    told = bench.by.post(path, {"setup": {"radius_mm": "600 mm"}})
    assert "goes beyond the table" in told["doubts"][0]["metric"]
    told = bench.by.post(path, {"setup": {"radius_mm": "100 mm", "way": "gap"}}, expect=422)
    assert told["errors"][0]["field"] == "instrument"
    told = bench.by.post(path, {"setup": {"radius_mm": "x"}}, expect=422)
    assert told["errors"][0]["field"] == "setup.radius_mm"


def test_a_machine_is_drawn_while_it_is_typed_and_put_away_whole(bench: Bench) -> None:
    forms = bench.by.get("/machine-forms")["starts"]
    assert len(forms) == 7
    for form in forms:
        drawn = bench.by.post("/machine-drawing", {"spec": form["spec"]})
        assert drawn["ghost"] == form["ghost"]
    mill = forms[0]["spec"]
    wider = bench.by.post("/machine-drawing", {"spec": {**mill, "table_x_mm": "40 in"}})["ghost"]
    table = next(p for p in wider["parts"] if p["name"] == "Table")
    assert max(q["u"] for q in table["outlines"][0]) == pytest.approx(508)
    told = bench.by.post("/machine-drawing", {"spec": {**mill, "table_x_mm": "-1"}})
    assert told["ghost"] is None
    assert told["errors"][0]["field"] == "spec.table_x_mm"
    bench.by.put(f"/machines/{bench.machine}/archived", {"archived": True})
    shed = bench.by.get(f"/workshops/{bench.by.workshop.pk}")  # type: ignore[union-attr]
    assert shed["machines"] == []
    assert shed["archived"][0]["name"] == "Avocet"
    bench.by.get(f"/checks/{bench.check['id']}")
    bench.by.put(f"/machines/{bench.machine}/archived", {"archived": False})
    assert bench.by.get(f"/workshops/{bench.by.workshop.pk}")["machines"]  # type: ignore[union-attr]


def test_a_year_of_log_takes_no_more_queries_than_a_day(owner: Person) -> None:
    bench = bench_for(owner)
    settled(bench, 0.02, 0.01)
    happen(bench, "hours", hours=1)
    at = f"/machines/{bench.machine}"
    shed = f"/workshops/{owner.workshop.pk}"  # type: ignore[union-attr]

    def queries(path: str) -> int:
        with CaptureQueriesContext(
            connection,
        ) as seen:
            owner.get(path)
        return len(seen)

    few = queries(at), queries(shed)
    proto = Round.objects.get()
    for n in range(60):
        when = datetime.now(UTC) - timedelta(days=n + 1)
        check = Check.objects.create(
            machine_id=bench.machine, kind="spindle_tram", opened_at=when, closed_at=when
        )
        proto.pk, proto.check_run, proto.opened_at = uuid4(), check, when
        proto.save(force_insert=True)
        Event.objects.create(
            machine_id=bench.machine, kind="crash", mechanisms=["head_pivot"], at=when
        )
    bench_for_more = {"name": "Curlew", "spec": owner.get(at)["spec"]}
    for _ in range(3):
        owner.post(f"{shed}/machines", bench_for_more)
    assert (queries(at), queries(shed)) == few
    assert tram_of(bench)["status"] == "true"
    assert Membership.objects.count() == 1


def presses(machine: Any) -> list[str]:
    return [press["text"] for e in machine["events"] for press in e["presses"]]


def test_what_happens_often_takes_one_press_on_the_form_at_hand(owner: Person) -> None:
    mill = bench_for(owner)
    told = mill.by.get(f"/machines/{mill.machine}")
    assert {"Head tilted", "Cutter changed", "Moved", "Knocked", "Ran 2 h"} <= set(presses(told))
    assert not {"Head raised", "Head back to square"} & set(presses(told))
    # nobody has to know by how much a head was tilted
    told = happen(mill, "tilted")
    assert "Head back to square" in presses(told)
    assert "the head was tilted" in tram_of(mill)["why"]["metric"]
    round_column = bench_for(owner, form="round_column")
    told = round_column.by.get(f"/machines/{round_column.machine}")
    assert "Head raised" in presses(told)
    assert "Head tilted" not in presses(told)
    body = {"name": "Frame", "spec": starting_point("frame").model_dump(mode="json")}
    frame = owner.post(f"/workshops/{owner.workshop.pk}/machines", body)  # type: ignore[union-attr]
    assert "Cutter changed" not in presses(frame)


def test_another_cutter_leaves_the_machine_as_it_was_accepted(bench: Bench) -> None:
    settled(bench, 0.02, 0.01)
    body = {"id": uuid4(), "at": now()}
    told = bench.by.post(f"/machines/{bench.machine}/acceptances", body)
    assert told["acceptance"]["still"]
    told = happen(bench, "cutter")
    assert told["acceptance"]["still"]
    assert tram_of(bench)["status"] == "true"
    assert not happen(bench, "crash")["acceptance"]["still"]


@pytest.mark.usefixtures("tram_only")
def test_left_as_it_is_from_the_check_is_honoured_everywhere(bench: Bench) -> None:
    """Decided while the round is in hand, and the round entered in the logbook after that."""
    bench.set_up()
    bench.swing(0.6, 0.01)
    body = {"id": uuid4(), "kind": "spindle_tram", "reason": "Only slots.", "at": now()}
    bench.by.post(f"/machines/{bench.machine}/decisions", body)
    bench.by.post(f"/rounds/{bench.round['id']}/settle")
    tram = tram_of(bench)
    assert tram["status"] == "out"
    assert tram["left"]["reason"] == "Only slots."
    assert bench.by.get(f"/machines/{bench.machine}")["next_step"] is None
    planned = bench.by.post(f"/machines/{bench.machine}/plan", {"minutes": 90, "aim": "true"})
    assert planned["plan"]["steps"] == []
    search = bench.by.get(f"/machines/{bench.machine}/symptoms/one_sided")["search"]
    assert "Only slots." in search["sentence"]["metric"]
