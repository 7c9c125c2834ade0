"""Checks of several parts, answers that are no lengths, readings by paste, and what is printed."""

from __future__ import annotations

import io
import json
import xml.etree.ElementTree as ET
from datetime import UTC, datetime
from typing import Any
from uuid import uuid4

import ezdxf
import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext

from calmsquare.logbook.models import Reading, Round
from calmsquare.workshop.models import Machine
from tests.api.conftest import API, Person, UnderWay
from tests.core.printed import sheets
from truing.kit.instruments import Caliper, Level, PlungerDial
from truing.machine import starting_point
from truing.standin.truth import RailsTruth, SlideTruth, Truth


def now() -> str:
    return datetime.now(UTC).isoformat()


class Sitting(UnderWay):
    """A check under way on a simulated machine."""

    def __init__(
        self,
        by: Person,
        form: Any,
        kind: str,
        instrument: Any = None,
        truth: Truth | None = None,
        machine: str | None = None,
    ) -> None:
        at = f"/workshops/{by.workshop.pk}"  # type: ignore[union-attr]
        spec = starting_point(form).model_dump(mode="json")
        self.machine = machine or by.post(f"{at}/machines", {"name": "Heron", "spec": spec})["id"]
        if truth:
            Machine.objects.filter(pk=self.machine).update(truth=truth.model_dump(mode="json"))
        self.instrument = None
        if instrument:
            body = {"name": "It", "spec": instrument.model_dump(mode="json")}
            self.instrument = by.post(f"{at}/instruments", body)["id"]
        check = by.post(f"/machines/{self.machine}/checks", {"id": uuid4(), "kind": kind})
        super().__init__(by, check)

    def set_up(self, expect: int = 200, **more: Any) -> Any:
        told = self.by.put(
            f"/rounds/{self.round['id']}/setup",
            {
                "version": self.round["version"],
                "instrument_id": self.instrument,
                "setup": {**(self.round["suggested"] or self.round["setup"] or {}), **more},
            },
            expect=expect,
        )
        if expect == 200:
            self.check = told
        return told

    def put(self, station: str, text: str = "", expect: int = 200, **more: Any) -> Any:
        body = {"station": station, "text": text, "unit": "mm", "read_at": now(), **more}
        return self.keep(body, expect)

    def ask(self) -> None:
        """Read on with the stand-in until the plan is done."""
        station = self.round["next_station"]
        while station is not None:
            seen = self.by.post(f"/rounds/{self.round_id}/standin", {"station": station})
            station = self.put(station, accepted=True, **seen)["next_station"]

    def stands(self) -> Any:
        checks = self.by.get(f"/machines/{self.machine}")["checks"]
        return next(c for c in checks if c["kind"] == self.check["kind"])


FINE = PlungerDial(graduation_mm=0.001, range_mm=5, repeatability_mm=0.0004)


def test_a_check_of_several_slides_is_true_when_each_of_them_is(owner: Person) -> None:
    truth = Truth(
        slides={d: SlideTruth(clearance_mm=0.004) for d in ("left_right", "front_back", "up_down")}
    )
    sitting = Sitting(owner, "micro_mill", "slide_play", FINE, truth)
    assert sitting.round["suggested"]["slide"] == "left_right"
    assert sitting.check["setup_schema"]["properties"]["slide"]["x-form"]["labels"] == {
        "left_right": "left–right (X)",
        "front_back": "front–back (Y)",
        "up_down": "up–down (Z)",
    }
    for slide, left in (("left_right", 2), ("front_back", 1), ("up_down", 0)):
        if sitting.round["settled_at"]:
            sitting.check = owner.post(
                f"/machines/{sitting.machine}/checks", {"id": uuid4(), "kind": "slide_play"}
            )
        # the one that calls for attention is proposed
        assert sitting.round["suggested"]["slide"] == slide
        sitting.set_up()
        sitting.ask()
        assert sitting.found["judgement"]["verdict"] == "true"
        sitting.check = owner.post(f"/rounds/{sitting.round['id']}/settle")
        told = sitting.stands()
        assert [p["status"] for p in told["parts"]].count("unmeasured") == left
        assert told["status"] == ("unmeasured" if left else "true")
    assert [v["label"]["metric"] for v in told["values"]] == [
        "Left–right (X): play, worst place",
        "Front–back (Y): play, worst place",
        "Up–down (Z): play, worst place",
    ]
    gone = {"id": uuid4(), "kind": "replaced", "mechanisms": ["gibs"], "at": now()}
    owner.post(f"/machines/{sitting.machine}/events", gone)
    assert {p["status"] for p in sitting.stands()["parts"]} == {"stale"}


def test_coarse_rails_let_a_casting_be_made_and_fine_ones_stay_open(owner: Person) -> None:
    rails = RailsTruth(
        at_mm=[0, 1100],
        side_mm=[0, 0],
        second_mm=[0, 0],
        first_up_mm=[0, 0],
        second_up_mm=[0.1, -0.1],
        apart_mm=860,
    )
    sitting = Sitting(owner, "gantry_router", "rail_twist", FINE, Truth(rails=rails))
    sitting.set_up(stage="coarse")
    sitting.ask()
    sitting.check = owner.post(f"/rounds/{sitting.round['id']}/settle")
    told = sitting.stands()
    assert (told["status"], told["why"]["metric"]) == (
        "unmeasured",
        "Not measured yet: fine stage.",
    )
    gates = {g["key"]: g for g in owner.get(f"/machines/{sitting.machine}")["gates"]}
    assert gates["cast"]["fresh"] == ["Rails in one plane"]
    # taken up again, the fine stage is what is proposed
    sitting.check = owner.post(
        f"/machines/{sitting.machine}/checks", {"id": uuid4(), "kind": "rail_twist"}
    )
    sitting.set_up()
    assert sitting.round["setup"]["stage"] == "fine"
    sitting.ask()
    assert sitting.found["judgement"]["verdict"] == "out"
    move = sitting.found["advice"]["moves"][0]
    for thickness in ("0.05 mm", "0.1 mm"):
        owner.post(
            f"/workshops/{owner.workshop.pk}/shims",  # type: ignore[union-attr]
            {"thickness_mm": thickness, "count": 6},
        )
    assert "nearest that is sold" in move["needs"]["metric"]
    sitting.put("A", "+0.9", expect=200, accepted=True)
    owner.put(
        f"/rounds/{sitting.round['id']}/readings/{uuid4()}",
        {
            "station": "A",
            "text": "+0.9",
            "unit": "mm",
            "read_at": now(),
            "withdrawn": True,
            "supersedes": next(r["id"] for r in reversed(sitting.round["readings"]) if r["live"]),
        },
    )
    sitting.check = owner.get(f"/checks/{sitting.check['id']}")
    move = sitting.found["advice"]["moves"][0]
    assert move["needs"] is None
    got = owner.client.get(f"{API}/rounds/{sitting.round['id']}/sheet?move={move['key']}")
    assert got.status_code == 200
    (sheet,) = sheets(got.content)
    assert any(move["title"]["metric"] in t for t in sheet.texts)
    assert all(any(s["pad"] in t for t in sheet.texts) for s in move["stacks"])
    sitting.check = owner.post(
        f"/rounds/{sitting.round['id']}/move",
        {
            "id": uuid4(),
            "next_round_id": uuid4(),
            "advice": sitting.found["advice_id"],
            "key": move["key"],
            "made_at": now(),
        },
    )
    spec = owner.get(f"/machines/{sitting.machine}")["spec"]
    assert sum(len(p["shims_mm"]) for p in spec["rails"]["packs"]) == sum(
        len(s["after_mm"]) for s in move["stacks"]
    )
    sitting.ask()
    assert sitting.found["judgement"]["verdict"] == "true"
    assert not sitting.found["trends"][0]["surprise"]
    # straightness and distance were not undone by shims under the rails, the plane above them was
    assert "rail_first" not in str(move["mechanism"])


def test_pasted_lines_are_looked_at_before_any_is_kept(owner: Person) -> None:
    sitting = Sitting(owner, "gantry_router", "rail_straight", FINE)
    sitting.set_up(places_mm="0, 250, 500", passes=1, edge_within_mm=0)
    at = f"/rounds/{sitting.round['id']}"
    told = owner.post(f"{at}/paste", {"text": "place;mm\n0;0,01\n250;oops\n500;0,03", "unit": "mm"})
    assert [line["station"] for line in told["lines"]] == [None, "0", None, "500"]
    assert [m["metric"] for m in told["missing"]] == ["250 mm"]
    assert not Reading.objects.exists()
    owner.post(f"{at}/paste", {"text": "  ", "unit": "mm"}, expect=422)
    understood = [line for line in told["lines"] if line["station"]]
    lines = [
        {
            "id": str(uuid4()),
            "reading": {
                "station": x["station"],
                "text": x["text"],
                "unit": x["unit"],
                "accepted": True,
                "read_at": now(),
            },
        }
        for x in understood
    ]
    wrong = [
        *lines,
        {
            "id": str(uuid4()),
            "reading": {"station": "999", "text": "1", "unit": "mm", "read_at": now()},
        },
    ]
    told = owner.post(f"{at}/batch", {"readings": wrong})
    # one that is refused does not take the others down, and says why by itself
    assert [a["kept"] for a in told["answers"]] == [True, True, False]
    assert "999 is not in the plan" in told["answers"][2]["message"]
    assert Reading.objects.count() == 2
    for _ in range(2):  # safe to send twice
        told = owner.post(f"{at}/batch", {"readings": lines})
        assert all(a["kept"] for a in told["answers"])
    sitting.look()
    assert [(r["station"], r["text"]) for r in sitting.round["readings"]] == [
        ("0", "0,01"),
        ("500", "0,03"),
    ]
    again = [{**lines[0], "reading": {**lines[0]["reading"], "text": "0.5"}}]
    told = owner.post(f"{at}/batch", {"readings": again})
    assert "Another reading has this id" in told["answers"][0]["message"]
    assert Reading.objects.count() == 2


def test_an_answer_is_one_of_those_offered_and_half_a_walk_judges_nothing(owner: Person) -> None:
    sitting = Sitting(owner, "micro_mill", "inspection", truth=Truth(faults={"edges": "mended"}))
    sitting.set_up(oil_points=1)
    assert sitting.round["instrument_name"] == "Rule or tape"
    told = sitting.put("mains", grade="splendid", expect=422)
    assert told["errors"][0]["field"] == "grade"
    assert "in order" in told["errors"][0]["expected"]
    sitting.put("mains", grade="fine", note="New plug.")
    assert sitting.round["readings"][-1]["words"]["metric"] == "in order: New plug."
    assert sitting.stands()["status"] == "unmeasured"
    assert Round.objects.get(pk=sitting.round["id"]).verdict == ""
    sitting.ask()
    assert sitting.stands()["status"] == "true"
    reading = next(r for r in sitting.round["readings"] if r["station"] == "guards")
    sitting.put("guards", grade="danger", note="Belt guard is off.", supersedes=reading["id"])
    assert "Dangerous: guards and covers" in sitting.stands()["why"]["metric"]


def test_a_template_comes_in_three_formats_and_follows_the_set_up(owner: Person) -> None:
    sitting = Sitting(
        owner, "column_mill", "gib_shim", Caliper(resolution_mm=0.001, repeatability_mm=0.001)
    )
    told = sitting.set_up(oil_holes_mm="20 mm, 900 mm", expect=422)
    assert "outside the gib" in told["errors"][0]["message"]
    sitting.set_up(passes=1, length_mm="7 in")
    at = f"{API}/rounds/{sitting.round['id']}/drawing"
    assert owner.client.get(f"{at}/svg").status_code == 422
    sitting.put("thick", "6")
    told = sitting.put("thin", "6")
    assert "no taper can be told" in told["brief"]["problem"]
    sitting.put("thin", "4", supersedes=sitting.round["readings"][-1]["id"])
    assert "1:1" in sitting.found["drawing"]["title"]
    assert "oil holes" in sitting.found["drawing"]["shows"]
    got = {format: owner.client.get(f"{at}/{format}") for format in ("svg", "dxf", "pdf")}
    for format, answer in got.items():
        assert format in answer["Content-Disposition"]
    # seven inches long in every one of them
    assert max(sheets(got["pdf"].content)[0].lengths) == pytest.approx(177.8, abs=0.01)
    drawn = ezdxf.read(io.StringIO(got["dxf"].content.decode()))
    outline = next(e for e in drawn.modelspace().query("LWPOLYLINE") if e.closed)
    xs = [p[0] for p in outline.get_points()]
    assert 177.8 <= max(xs) - min(xs) < 200
    assert ET.fromstring(got["svg"].content).get("width", "").endswith("mm")
    assert owner.client.get(f"{at}/step").status_code == 422


def test_an_answer_stays_small_and_its_queries_few_however_large_the_round(owner: Person) -> None:
    sitting = Sitting(owner, "gantry_router", "rail_twist", FINE)
    places = [round(10.0 + 55 * i, 1) for i in range(18)]
    sitting.set_up(stage="fine", way="stations", places_mm=places, passes=10)
    keys = [f"{which}:{x:g}" for which in ("first", "second") for x in places]

    def lines(count: int, first: int = 0) -> list[dict[str, Any]]:
        wanted = [(f"{0.01 * (n % 7):.3f}", keys[n % len(keys)]) for n in range(count)]
        return [
            {"id": uuid4(), "reading": {"station": k, "text": t, "unit": "mm", "read_at": now()}}
            for t, k in wanted
        ]

    def one() -> tuple[int, int]:
        body = {"station": keys[3], "text": "0.01", "unit": "mm", "read_at": now()}
        with CaptureQueriesContext(connection) as asked:
            told = owner.put(f"/rounds/{sitting.round['id']}/readings/{uuid4()}", body)
        return len(json.dumps(told)), len(asked)

    at = f"/rounds/{sitting.round['id']}/batch"
    owner.post(at, {"readings": lines(36)})
    few = one()
    with CaptureQueriesContext(connection) as asked:
        told = owner.post(at, {"readings": lines(300)})
    assert all(a["kept"] for a in told["answers"])
    assert len(asked) <= 15
    many = one()
    assert max(few[0], many[0]) <= 10_000
    assert many[1] == few[1] <= 15
    assert Reading.objects.count() == 36 + 300 + 2


def test_a_level_of_unknown_sensitivity_does_not_hide_the_others(owner: Person) -> None:
    sitting = Sitting(owner, "column_mill", "base_level", Level(base_mm=200))
    told = sitting.set_up(expect=422)
    assert told["errors"][0]["field"] == "instrument"
    assert "feeler blade" in told["errors"][0]["expected"]
    kit = owner.get(f"/workshops/{owner.workshop.pk}/kit")  # type: ignore[union-attr]
    assert "not known" in kit["instruments"][0]["reads"]["metric"]
    fine = owner.post(
        f"/workshops/{owner.workshop.pk}/instruments",
        {  # type: ignore[union-attr]
            "name": "Known",
            "spec": Level(sensitivity_mm_per_m=0.02).model_dump(mode="json"),
        },
    )
    ranked = owner.post(
        f"/rounds/{sitting.round['id']}/instruments", {"setup": sitting.round["suggested"]}
    )
    assert [c["id"] for c in ranked["choices"]] == [fine["id"]]


@pytest.mark.parametrize(("where", "kept"), [("-90", -90.0), ("4 in", 101.6), ("", None)])
def test_a_stall_is_kept_with_its_place(owner: Person, where: str, kept: float | None) -> None:
    sitting = Sitting(owner, "gantry_router", "drive_proof", FINE)
    assert sitting.check["powered"]
    told = sitting.set_up(expect=422)
    assert told["errors"][0]["field"] == "setup.proven"
    sitting.set_up(proven=True)
    sitting.put("1500", grade="clean", expect=422)
    sitting.put("1000", grade="stalls", x=where)
    stall = sitting.round["readings"][-1]
    # as it was typed, and as it is reckoned with
    assert (stall["text"], stall["x_mm"]) == (where, kept)
    sitting.put("1000:home", "+0.3")
    assert sitting.round["next_station"] is None
    assert sitting.found["judgement"]["verdict"] == "out"
