"""Ridges and the piece that accepts a machine, through the API: their programs, what is made of
them, and how the machine stands afterwards."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

import numpy as np
import pytest

from tests.api.conftest import API, Person, somebody
from tests.api.test_below_the_tram import FINE, Sitting, now
from truing.kit.instruments import Caliper
from truing.programs import read
from truing.standin.truth import SlideTruth, Truth

CALIPER = Caliper(resolution_mm=0.001, repeatability_mm=0.001, range_mm=200)


def programs(sitting: Sitting) -> Any:
    return sitting.by.get(f"/rounds/{sitting.round['id']}/programs")


def file(sitting: Sitting, key: str, run: str = "cut") -> Any:
    at = f"{API}/rounds/{sitting.round['id']}/programs/{key}?run={run}"
    return sitting.by.client.get(at)


def test_pieces_can_be_had_as_programs_and_read_as_such(owner: Person) -> None:
    cut = Sitting(owner, "gantry_router", "test_cut", CALIPER)
    assert programs(cut) == [], "before the set-up nothing is stated"
    cut.set_up()
    found = programs(cut)
    assert [p["key"] for p in found] == ["patches", "square-hole"]
    for p in found:
        for run, name in (("cut", p["file_name"]), ("air", p["file_name"][:-3] + "-air.nc")):
            got = file(cut, p["key"], run)
            assert got.status_code == 200
            assert f'filename="{name}"' in got["Content-Disposition"]
            motions = read(got.content).motions
            assert len(motions.at) > 10
            assert (np.nanmin(motions.at[:, 2]) < 0) == (run == "cut")
    assert file(cut, "elsewhere").status_code == 404
    # what is stated anew is cut anew
    cut.set_up(hole=False, face=False, width_mm="90 mm", units="inch")
    (square,) = programs(cut)
    assert square["key"] == "square"
    assert "G20" in square["program"]


def test_a_machine_with_handwheels_has_a_list_and_no_file(owner: Person) -> None:
    ridges = Sitting(owner, "column_mill", "ridge_reading", FINE)
    ridges.set_up()
    # both on one block would run beyond its travel
    patches = programs(ridges)
    assert [p["key"] for p in patches] == ["patch-x", "patch-y"]
    assert [p["program"] for p in patches] == ["", ""]
    assert [len(p["by_hand"]) for p in patches] == [3, 3]
    refused = file(ridges, "patch-x")
    assert refused.status_code == 422
    assert "list for handwheels" in refused.json()["errors"][0]["expected"]


def test_a_cutter_that_leaves_a_strip_is_named_with_its_field(owner: Person) -> None:
    ridges = Sitting(owner, "gantry_router", "ridge_reading", FINE)
    ridges.set_up(stepover_mm="20 mm")
    round_id = ridges.round["id"]
    told = ridges.by.put(
        f"/rounds/{round_id}/setup",
        {
            "version": ridges.round["version"],
            "instrument_id": ridges.instrument,
            "setup": {**ridges.round["setup"], "stepover_mm": "80 mm"},
        },
        expect=422,
    )
    assert told["errors"][0]["field"].endswith("stepover_mm")


def test_others_see_nothing_of_a_piece(owner: Person) -> None:
    stranger = somebody("wren")
    cut = Sitting(owner, "gantry_router", "test_cut", CALIPER)
    cut.set_up()
    stranger.get(f"/rounds/{cut.round['id']}/programs", expect=404)


@pytest.mark.parametrize(("slack", "verdict"), [(0.01, "true"), (0.4, "out")])
def test_a_piece_accepts_the_machine_or_does_not(owner: Person, slack: float, verdict: str) -> None:
    """Until it does, an acceptance names it as open; touch anything and it has to be cut anew."""
    truth = Truth(slides={"left_right": SlideTruth(links_mm={"nut": slack})})
    cut = Sitting(owner, "gantry_router", "test_cut", CALIPER, truth)
    at = f"/machines/{cut.machine}"
    form = {"note": "", "at": now()}
    before = owner.post(f"{at}/acceptances", {**form, "id": uuid4()})
    assert "test_cut" in {i["kind"] for i in before["acceptance"]["open_items"]}
    assert before["proof"]["status"] == "unmeasured"
    cut.set_up(passes=3)
    cut.ask()
    found = cut.found
    assert found["judgement"]["verdict"] == verdict
    if verdict == "true":
        assert "It accepts the machine" in found["judgement"]["sentence"]["metric"]
    else:
        assert found["advice"]["asks"][0]["kind"] == "lost_motion"
    owner.post(f"/rounds/{cut.round['id']}/settle")
    after = owner.post(f"{at}/acceptances", {**form, "id": uuid4(), "at": now()})
    kinds = {i["kind"] for i in after["acceptance"]["open_items"]}
    assert ("test_cut" in kinds) == (verdict != "true")
    assert after["proof"]["status"] == verdict
    event = {"id": uuid4(), "kind": "crash", "said": "Into the fence.", "at": now()}
    touched = owner.post(f"{at}/events", event)
    assert touched["proof"]["status"] == "stale"


def test_ridges_that_no_longer_hold_ask_for_nothing(owner: Person) -> None:
    """They are read when they are needed: once the head was touched nobody waits for them."""
    truth = Truth(head_about_y_mrad=0.02)
    ridges = Sitting(owner, "column_mill", "ridge_reading", FINE, truth)
    ridges.set_up()
    ridges.ask()
    assert ridges.found["judgement"]["verdict"] == "true"
    owner.post(f"/rounds/{ridges.round['id']}/settle")
    assert ridges.stands()["asked"]
    at = f"/machines/{ridges.machine}"
    event = {"id": uuid4(), "kind": "crash", "said": "The vice caught the head.", "at": now()}
    owner.post(f"{at}/events", event)
    stands = ridges.stands()
    assert (stands["status"], stands["asked"]) == ("stale", False)
    stages = {s["key"]: s["status"] for s in owner.get(at)["stages"]}
    assert stages["proof"] == "unmeasured"
