"""What the screens are sent beside the large things: counts, orders, what stands there already."""

from __future__ import annotations

from collections import Counter
from datetime import timedelta
from typing import Any
from uuid import uuid4

import pytest
from django.utils import timezone

from calmsquare.logbook.models import Round
from calmsquare.workshop.models import ShimStock
from calmsquare.workshop.services import take_from_tin
from tests.api.conftest import Bench
from tests.api.test_course import happen, now, settled


def get(bench: Bench) -> Any:
    return bench.by.get(f"/checks/{bench.check['id']}")["rounds"]


def test_a_round_says_how_often_it_is_read_and_what_it_came_to(bench: Bench) -> None:
    assert get(bench)[0]["passes"] == 0
    bench.set_up(passes=3)
    [first] = get(bench)
    assert first["passes"] == 3
    assert first["brief"]["values"] == []
    bench.set_up(passes=1)
    bench.swing(0.3, -0.1)
    values = {v["key"]: v for v in get(bench)[0]["brief"]["values"]}
    assert set(values) == {"lean_x", "nod"}
    assert abs(values["lean_x"]["value"] - 0.3) < 0.02
    assert values["nod"]["limit"] == 0.1
    assert values["lean_x"]["expanded"] > 0


def test_the_set_up_of_the_last_time_stands_there_in_the_readers_units(bench: Bench) -> None:
    bench.set_up(radius_mm="120 mm")
    bench.swing(0.01, 0.01)
    bench.by.post(f"/rounds/{bench.round['id']}/settle")
    again = {"id": uuid4(), "kind": "spindle_tram"}
    check = bench.by.post(f"/machines/{bench.machine}/checks", again)
    [fresh] = check["rounds"]
    assert fresh["setup"] is None
    assert fresh["suggested"]["radius_mm"] == 120
    assert fresh["suggested_shown"]["radius_mm"] == {"metric": "120 mm", "inch": "4.7244 in"}


def test_what_a_reading_changed_stands_after_the_one_before_it(bench: Bench) -> None:
    bench.set_up(passes=1)
    ids, after = [uuid4() for _ in range(3)], []
    for id, station in zip(ids, ("12", "3", "6"), strict=True):
        body = {"station": station, "text": "0.1", "unit": "mm", "read_at": now()}
        told = bench.by.put(f"/rounds/{bench.round['id']}/readings/{id}", body)
        after.append(told["after"])
    assert after == [None, str(ids[0]), str(ids[1])]


@pytest.mark.parametrize(
    ("taken", "left"),
    [
        ({0.1: 2}, {0.1: 5, 0.2: 5}),
        ({0.1: 5}, {0.1: 2, 0.2: 5}),
        ({0.1: 7, 0.2: 1}, {0.1: 0, 0.2: 4}),
        ({0.1: -2, 0.2: 5}, {0.1: 9, 0.2: 0}),
        ({0.3: -2}, {0.1: 7, 0.2: 5, 0.3: 2}),
    ],
)
def test_pieces_of_one_thickness_are_taken_from_one_sort_after_the_other(
    bench: Bench, taken: dict[float, int], left: dict[float, int]
) -> None:
    """Whichever comes first. What is put back lies with one of them, or on a line of its own."""
    assert bench.by.workshop
    whose = bench.by.workshop.pk
    ShimStock.objects.filter(workshop_id=whose).delete()
    for thickness, count in ((0.1, 3), (0.1, 4), (0.1, 0), (0.2, 5)):
        ShimStock.objects.create(workshop_id=whose, thickness_mm=thickness, count=count)
    take_from_tin(whose, taken)
    found: Counter[float] = Counter()
    for shim in ShimStock.objects.filter(workshop_id=whose):
        assert shim.count >= 0
        found[shim.thickness_mm] += shim.count
    assert found == left


def test_hours_are_told_in_the_logbook_and_counted(bench: Bench) -> None:
    happen(bench, "hours", hours=14.5)
    happen(bench, "note", said="quiet")
    lines = bench.by.get(f"/machines/{bench.machine}")["recent"]
    told = next(line for line in lines if "14.5 hours" in line["text"]["metric"])
    # something that happened has no rounds
    assert {line["rounds"] for line in lines if line["status"] is None} == {0}
    assert told["taken_back"] is False


def test_a_calendar_names_only_what_matters(bench: Bench) -> None:
    settled(bench, 0.02, 0.01)
    at = f"/workshops/{bench.by.workshop.pk}/calendar"  # type: ignore[union-attr]
    [due] = bench.by.get(at)["entries"]
    assert due["kind"] == "spindle_tram"
    assert due["day"] > (timezone.now() + timedelta(days=20)).date().isoformat()
    happen(bench, "moved")
    [stale] = bench.by.get(at)["entries"]
    assert "It was moved on" in stale["reason"]
    # left as it is, it is nobody's business any more
    leave = {"id": uuid4(), "kind": "spindle_tram", "reason": "Sold soon.", "at": now()}
    bench.by.post(f"/machines/{bench.machine}/decisions", leave)
    assert bench.by.get(at)["entries"] == []


def test_what_is_settled_keeps_the_tin_as_it_was(bench: Bench) -> None:
    settled(bench, 0.02, 0.01)
    assert get(bench)[0]["brief"]["limit"]["metric"] == "0.10 mm/m"
    kept = Round.objects.get(pk=bench.round["id"]).snapshot
    assert kept is not None
    tin = bench.by.get(f"/workshops/{bench.by.workshop.pk}/kit")["shims"]  # type: ignore[union-attr]
    stock = {(s["thickness_mm"], s["count"]) for s in kept["stock"]}
    assert stock == {(s["thickness_mm"], s["count"]) for s in tin} != set()
