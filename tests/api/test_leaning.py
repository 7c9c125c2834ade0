"""Checks that lean on what others have found, and what they leave with a piece of the kit."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext

from tests.api.conftest import Person
from tests.api.test_below_the_tram import Sitting, now
from truing.kit.instruments import PlungerDial
from truing.standin.truth import SquareTruth, TravelTruth, Truth

FINE = PlungerDial(graduation_mm=0.002, range_mm=10, repeatability_mm=0.0005)
TRUTH = Truth(
    travel=TravelTruth(top_x_mm_per_m=0.05, column_about_y_mrad=0.35),
    square=SquareTruth(away_mm_per_m=0.12),
    noise_share=0.0,
    head_about_y_mrad=0.6,
    head_about_x_mrad=-0.5,
)


@pytest.fixture
def mill(owner: Person) -> Sitting:
    """A mill whose table slopes by 0.05 and whose head drifts to the right by 0.35 as it rises."""
    return Sitting(owner, "column_mill", "table_travel", FINE, TRUTH)


def on(mill: Sitting, kind: str) -> Sitting:
    """Another check on the same machine, with the same dial."""
    other = Sitting(mill.by, "column_mill", kind, machine=mill.machine)
    other.instrument = mill.instrument
    return other


def read(sitting: Sitting, **setup: Any) -> Any:
    """Set up, read all on the stand-in, and the finding."""
    sitting.set_up(**setup)
    sitting.ask()
    return sitting.found


def value(found: Any, key: str) -> float:
    return float(
        next(q for q in found["finding"]["quantities"] if q["key"] == key)["estimate"]["value"]
    )


def settle(sitting: Sitting) -> None:
    sitting.by.post(f"/rounds/{sitting.round['id']}/settle")


def touch(mill: Sitting, *mechanisms: str) -> None:
    body = {"id": str(uuid4()), "kind": "replaced", "mechanisms": list(mechanisms), "at": now()}
    mill.by.post(f"/machines/{mill.machine}/events", body)


def test_the_tables_slope_is_taken_off_while_it_holds(mill: Sitting) -> None:
    unread = read(on(mill, "travel_square"))
    assert unread["judgement"]["verdict"] == "out"
    assert value(unread, "square") == pytest.approx(0.35, abs=0.03)
    assert any("has not been read" in n["text"]["metric"] for n in unread["finding"]["notes"])
    settle(on(mill, "travel_square"))
    read(mill)
    settle(mill)
    square = on(mill, "travel_square")
    known = read(square)
    assert value(known, "to_table") == pytest.approx(0.35, abs=0.02)
    assert value(known, "square") == pytest.approx(0.30, abs=0.02)
    assert any("is taken off" in n["text"]["metric"] for n in known["finding"]["notes"])
    settle(square)
    touch(mill, "table")
    stale = read(on(mill, "travel_square"))
    assert any("is stale" in n["text"]["metric"] for n in stale["finding"]["notes"])
    # what was settled stays as it was judged, whatever was touched since
    again = mill.by.get(f"/rounds/{square.round['id']}/finding")
    assert value(again, "square") == value(known, "square")


def test_the_tram_splits_its_lean_or_asks_for_the_travel(mill: Sitting) -> None:
    read(mill)
    settle(mill)
    tram = on(mill, "spindle_tram")
    asked = read(tram, radius_mm=100, radius_u_mm=1)["advice"]
    assert [a["kind"] for a in asked["asks"]] == ["travel_square"]
    assert asked["asks"][0]["title"] == "Square travel"
    for part in ("head_front_back", "head_left_right"):
        square = on(mill, "travel_square")
        read(square, part=part)
        settle(square)
    told = mill.by.get(f"/rounds/{tram.round['id']}/finding")["advice"]
    assert told["asks"] == []
    said = " ".join(r["metric"] for r in told["remarks"])
    assert "Of the lean, +0.60" in said
    assert "the column’s travel has +0.35" in said
    assert len(told["figures"]) == 2
    # a column that was shimmed carries neither
    touch(mill, "column_base")
    stale = mill.by.get(f"/rounds/{tram.round['id']}/finding")["advice"]
    assert "touched since" in stale["asks"][0]["why"]["metric"]


def test_what_an_earlier_round_moved_is_not_forgotten_when_the_next_is_read(
    mill: Sitting,
) -> None:
    """A column that was shimmed carries the head elsewhere, though its own travel was read then."""
    tram = on(mill, "spindle_tram")
    read(tram, radius_mm=100, radius_u_mm=1)
    settle(tram)
    assert tram.stands()["status"] != "stale"
    for thickness in ("0.01 mm", "0.02 mm", "0.05 mm"):
        shims = {"thickness_mm": thickness, "count": 8}
        mill.by.post(f"/workshops/{mill.by.workshop.pk}/shims", shims)  # type: ignore[union-attr]
    square = on(mill, "travel_square")
    found = read(square)
    move = next(m for m in found["advice"]["moves"] if m["mechanism"] == "column_base")
    made = {"id": str(uuid4()), "next_round_id": str(uuid4()), "advice": found["advice_id"]}
    more = {"key": move["key"], "made_at": now(), "needle": []}
    square.check = mill.by.post(f"/rounds/{square.round['id']}/move", {**made, **more})
    square.ask()
    settle(square)
    stands = tram.stands()
    assert stands["status"] == "stale"
    assert "The column was shimmed" in stands["why"]["metric"]


def test_what_is_found_of_a_square_is_kept_with_it_and_used(mill: Sitting) -> None:
    at = f"/workshops/{mill.by.workshop.pk}"  # type: ignore[union-attr]
    piece = {"name": "Big square", "spec": {"type": "square", "stated_mm": 0.1, "over_mm": 150}}
    id = mill.by.post(f"{at}/pieces", piece)["id"]
    read(mill)
    settle(mill)
    square = on(mill, "travel_square")
    # the form names the pieces of the kit that could be picked
    labels = square.check["setup_schema"]["properties"]["square"]["x-form"]["labels"]
    assert labels == {"": "none of the kit", id: "Big square"}
    read(square, square=id)
    assert mill.by.get(f"{at}/kit")["pieces"][0]["found"] is None
    settle(square)
    [kept] = mill.by.get(f"{at}/kit")["pieces"]
    assert "leans away from the tip by 0.12" in kept["found"]["metric"]
    # stated alone it could decide nothing; as it was found, it can
    trusted = on(mill, "travel_square")
    found = read(trusted, square=id, way="trusted")
    assert value(found, "square") == pytest.approx(0.30, abs=0.03)
    assert found["finding"]["square"]["expanded"] < 0.05
    gone = on(mill, "travel_square").set_up(square=str(uuid4()), expect=422)
    assert gone["errors"][0]["field"] == "setup.square"


def test_leaning_on_others_costs_the_same_however_many_there_are(mill: Sitting) -> None:
    def queries() -> int:
        square = on(mill, "travel_square")
        square.set_up()
        with CaptureQueriesContext(connection) as seen:
            mill.by.put(
                f"/rounds/{square.round['id']}/readings/{uuid4()}",
                {
                    "station": square.round["stations"][0]["key"],
                    "text": "0.5",
                    "unit": "mm",
                    "read_at": now(),
                },
            )
        return len(seen)

    def again() -> None:
        read(mill)
        settle(mill)
        mill.by.post(f"/checks/{mill.check['id']}/rounds", {"id": str(uuid4())})
        mill.look()

    again()
    before = queries()
    for _ in range(3):
        again()
    touch(mill, "feet")
    assert queries() == before <= 15
