"""The throw-away kind keeps the contract and goes all the way: core, record, screens."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any
from uuid import uuid4

import numpy as np
import pytest

from calmsquare.logbook.models import Reading
from tests.api.conftest import API, Person
from tests.api.test_below_the_tram import Sitting
from tests.core.check_kind import ON_A_ROUND, check_answers, rounds_of
from tests.core.printed import sheets
from truing.kit.instruments import Caliper, PlungerDial
from truing.registry import kind, registry

CHECK = "plate_tilt"
DIAL = PlungerDial(graduation_mm=0.001, range_mm=50, repeatability_mm=0.001)


def test_it_is_registered_by_being_there() -> None:
    assert CHECK in registry()
    check_answers(kind(CHECK))


@pytest.mark.parametrize("check", ON_A_ROUND, ids=lambda c: c.__name__)
def test_it_keeps_the_contract(check: Any) -> None:
    core = kind(CHECK)
    played = list(rounds_of(core))
    assert played
    for case in played:
        check(core, case)


def lines(tilt_mm_per_m: float, points: int = 200) -> str:
    x = np.linspace(0, 400, points)
    z = x / 1000 * tilt_mm_per_m + np.random.default_rng(2).normal(0, 0.0005, points)
    return "x z\n" + "\n".join(f"{a:.3f} {b:.5f}" for a, b in zip(x, z, strict=True))


class Plate(Sitting):
    """A sitting on a plate."""

    def log(self, text: str, expect: int = 200, **more: Any) -> Any:
        body = {"station": "log", "text": text, "read_at": datetime.now(UTC).isoformat(), **more}
        told = self.by.put(f"/rounds/{self.round['id']}/logs/{uuid4()}", body, expect=expect)
        if expect == 200:
            self.look()
        return told


@pytest.fixture
def plate(owner: Person) -> Plate:
    sitting = Plate(owner, "gantry_router", CHECK, DIAL)
    sitting.set_up()
    return sitting


def caliper(plate: Plate) -> str:
    assert plate.by.workshop
    body = {"name": "Caliper", "spec": Caliper(range_mm=150).model_dump(mode="json")}
    return str(plate.by.post(f"/workshops/{plate.by.workshop.pk}/instruments", body)["id"])


def test_a_log_is_one_record_and_its_answer_small(plate: Plate) -> None:
    told = plate.log(lines(0.4, 5000))
    assert len(str(told)) < 10_000
    assert [r["text"] for r in told["readings"]] == ["5000 points"]
    kept = Reading.objects.get(reads="log")
    assert list(kept.columns) == ["x_mm", "z_mm"]
    assert len(kept.columns["x_mm"]) == 5000
    found = plate.found["finding"]
    assert found["tilt"]["value"] == pytest.approx(0.4, abs=0.01)


def test_a_log_that_cannot_be_read_says_which_line(plate: Plate) -> None:
    for text, told in (
        ("", "nothing in it"),
        ("x z\n1 2\n3 four\n", "Line 3"),
        ("x z\n1 2\n3\n4 5", "Line 3"),
        ("x x\n1 2", "does not name its columns"),
        ("z\n1\n2", "One column is no line"),
    ):
        assert told in plate.log(text, expect=422)["detail"], text
    plate.put("log", "1", expect=422)
    other = plate.log(lines(0.4), station="probe", expect=422)
    assert "takes no log" in other["detail"]
    assert not Reading.objects.exists()


def test_a_reading_brings_its_place_and_its_instrument(plate: Plate) -> None:
    plate.log(lines(0.4))
    plate.put("probe", "+0.1", x="5 in", y="-20 mm")
    assert plate.found["finding"]["probed"] == [[127.0, -20.0]]
    # a place is never in divisions of the dial
    plate.put("probe", "+100", x="5", unit="div")
    assert plate.found["finding"]["probed"][1] == [5.0, 0.0]
    told = plate.put("probe", "+0.1", x="far", expect=422)
    assert told["errors"][0]["field"] == "x"
    # the thickness is a caliper's, not the dial's
    assert "another instrument" in plate.put("thick", "18.01", expect=422)["detail"]
    own = caliper(plate)
    typed = {"station": "thick", "text": "+118.01", "unit": "mm"}
    at = f"/rounds/{plate.round['id']}/preview"
    # a dial does not reach as far, a caliper does
    assert plate.by.post(at, typed)["question"]["about"] == "range"
    assert plate.by.post(at, {**typed, "instrument_id": own})["question"] is None
    assert len(plate.look()["rounds"][-1]["readings"]) == 3, "nothing is kept of it"
    plate.put("thick", "18.01", instrument_id=own)
    plate.put("thick", "18.03", instrument_id=own)
    assert "does not suit" in plate.put("probe", "0.2", instrument_id=own, expect=422)["detail"]
    thick = plate.found["finding"]["quantities"][1]
    assert thick["estimate"]["value"] == pytest.approx(18.02)
    spreads = plate.found["finding"]["spreads"]
    assert set(spreads) == {own, plate.instrument}
    assert spreads[own]["dof"] == 1
    assert spreads[plate.instrument]["dof"] == 1
    words = plate.round["readings"][-1]["words"]["metric"]
    assert words == "+18.03 mm", "told in the caliper's own steps"


def test_history_is_kept_by_the_thing_it_is_about(plate: Plate) -> None:
    own = caliper(plate)

    def thick(text: str) -> float:
        plate.log(lines(0.01))
        plate.put("probe", "+0.1", x="1 mm")
        for _ in range(2):
            plate.put("thick", text, instrument_id=own)
        found = plate.found["finding"]["quantities"][1]["estimate"]["expanded"]
        plate.by.post(f"/rounds/{plate.round['id']}/settle")
        return float(found)

    def again(name: str) -> None:
        path = f"/machines/{plate.machine}/checks"
        plate.check = plate.by.post(path, {"id": uuid4(), "kind": CHECK})
        plate.set_up(plate=name)

    first = thick("18.00")
    for _ in range(4):
        again("small")
        last = thick("18.00")
    # five pairs that agree: this caliper repeats on this plate; the stated figure stands aside
    assert last < first
    again("large")
    assert thick("18.00") == pytest.approx(first)


def test_its_move_changes_the_machine_and_is_taken_back(plate: Plate) -> None:
    plate.log(lines(0.4))
    plate.put("probe", "+0.1", x="1 mm")
    plate.put("thick", "18.0", instrument_id=caliper(plate))
    at = f"/machines/{plate.machine}"
    before = plate.by.get(at)["spec"]["board"]["thickness_mm"]
    found = plate.found
    move = {
        "id": uuid4(),
        "next_round_id": uuid4(),
        "advice": found["advice_id"],
        "key": "plane",
        "made_at": datetime.now(UTC).isoformat(),
    }
    stale = plate.by.post(f"/rounds/{plate.round['id']}/move", {**move, "advice": "x"}, expect=409)
    assert "advice has changed" in stale["detail"]
    plate.check = plate.by.post(f"/rounds/{plate.round['id']}/move", move)
    assert plate.by.get(at)["spec"]["board"]["thickness_mm"] == before - 0.5
    predicted = plate.round["predicted"][0]["after"]
    assert predicted["value"] == 0.0
    plate.log(lines(0.02))
    assert plate.found["trends"][0]["sense"] == "better"
    made = plate.check["rounds"][0]["move"]["id"]
    plate.by.put(f"/records/moves/{made}/taken-back", {"taken_back": True})
    assert plate.by.get(at)["spec"]["board"]["thickness_mm"] == before
    got = plate.by.client.get(f"{API}/rounds/{plate.check['rounds'][0]['id']}/sheet?move=plane")
    assert any("Plane it" in t for t in sheets(got.content)[0].texts)
