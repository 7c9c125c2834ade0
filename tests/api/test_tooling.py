"""What is put into a spindle, through the API: chains, the kit that learns from them, the log."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

import pytest

from calmsquare.logbook.course import known_of
from calmsquare.workshop.models import Machine
from tests.api.conftest import Person
from tests.api.test_below_the_tram import Sitting, now
from tests.api.test_leaning import on, read, settle, touch, value
from truing.kit.instruments import PlungerDial
from truing.standin.truth import PieceTruth, SpindleTruth, ToolingTruth, Truth

FINER = PlungerDial(graduation_mm=0.001, range_mm=10, repeatability_mm=0.0002)
OFF = {"the chuck": 0.003, "bent": 0.02, "good": 0.001, "the pin": 0.0}


class Shop:
    """A mill with a chuck, two collets and a pin in its kit, and what they really add."""

    def __init__(self, by: Person) -> None:
        self.by = by
        self.at = f"/workshops/{by.workshop.pk}"  # type: ignore[union-attr]
        kinds: dict[str, dict[str, Any]] = {
            "the chuck": {"type": "holder", "series": "ER 11", "price": 30},
            "bent": {"type": "collet", "series": "ER 11"},
            "good": {"type": "collet", "series": "ER 11"},
            "the pin": {"type": "pin", "stated_mm": 0.001},
        }
        self.id = {
            name: by.post(f"{self.at}/pieces", {"name": name, "spec": spec})["id"]
            for name, spec in kinds.items()
        }
        truth = Truth(
            turning=SpindleTruth(off_x_mm=0.001),
            tooling=ToolingTruth(
                pieces={self.id[n]: PieceTruth(off_x_mm=v) for n, v in OFF.items()},
                seat_sd_mm=0.0002,
            ),
            noise_share=0.5,
        )
        self.mill = Sitting(by, "column_mill", "tool_runout", FINER, truth)

    def chain(self, collet: str, **more: Any) -> dict[str, Any]:
        return {
            "holder": self.id["the chuck"],
            "collet": self.id[collet],
            "tool": self.id["the pin"],
            **more,
        }

    @property
    def kit(self) -> dict[str, Any]:
        return {p["name"]: p for p in self.by.get(f"{self.at}/kit")["pieces"]}


@pytest.fixture
def shop(owner: Person) -> Shop:
    return Shop(owner)


def moved(sitting: Sitting, key: str | None, said: str = "") -> None:
    """An advised move, or what somebody did of their own; the round after it is in hand then."""
    body = {"id": str(uuid4()), "next_round_id": str(uuid4()), "key": key, "said": said}
    more = {"advice": sitting.found["advice_id"], "made_at": now(), "needle": []}
    sitting.check = sitting.by.post(f"/rounds/{sitting.round['id']}/move", {**body, **more})


def stands(shop: Shop, kind: str) -> Any:
    page = shop.by.get(f"/machines/{shop.mill.machine}")
    return next(c for c in page["checks"] if c["kind"] == kind)


def test_a_collet_is_hunted_down_and_the_kit_knows_it(shop: Shop) -> None:
    first = read(shop.mill, **shop.chain("bent"))
    assert first["judgement"]["verdict"] == "out"
    assert value(first, "tool") == pytest.approx(0.048, abs=0.003)
    settle(shop.mill)
    assert stands(shop, "tool_runout")["status"] == "out"
    swap = on(shop.mill, "tool_runout")
    # the chain of the last time is proposed, and what goes in place of the collet is named
    assert swap.round["suggested"]["collet"] == shop.id["bent"]
    form = swap.check["setup_schema"]["properties"]["compared"]["x-form"]
    assert set(form["only"]["collet"]) == {shop.id["bent"], shop.id["good"]}
    found = read(swap, **shop.chain("bent", way="swap", compared=[shop.id["good"]]))
    # what they are called is kept with the round
    assert swap.look()["rounds"][-1]["setup"]["names"][shop.id["good"]] == "good"
    move = found["advice"]["moves"][0]
    assert move["title"]["metric"] == "Put in good"
    moved(swap, move["key"])
    assert swap.round["setup"]["collet"] == shop.id["good"]
    swap.ask()
    after = swap.found
    assert after["judgement"]["verdict"] == "true"
    settle(swap)
    assert stands(shop, "tool_runout")["status"] == "true"
    # each piece knows what it took part in, and the tin is ranked by it
    for name, tir in (("good", 0.01), ("bent", 0.048)):
        assert shop.kit[name]["spec"]["tir_mm"] == pytest.approx(tir, abs=0.002)
        assert "as it was put together last" in shop.kit[name]["found"]["metric"]
    assert shop.kit["good"]["good_for"]["metric"].startswith("cutters from")
    assert "beyond the limit" in shop.kit["bent"]["good_for"]["metric"]
    assert shop.kit["the pin"]["good_for"] is None
    [tin] = shop.by.get(f"{shop.at}/kit")["tins"]
    assert [(r["name"], r["sort"]) for r in tin["rows"]] == [("good", "good"), ("bent", "bad")]
    record = shop.by.get(f"/pieces/{shop.id['good']}/record")
    assert len(record) == 2
    assert all("TIR" in r["words"]["metric"] for r in record)
    assert [r["verdict"] for r in shop.by.get(f"/pieces/{shop.id['bent']}/record")] == [
        "out",
        "out",
    ]
    # one that is retired stays in the tin, last told as what it is
    spec = {**shop.kit["bent"]["spec"], "retired": True}
    shop.by.change(f"/pieces/{shop.id['bent']}", {"name": "bent", "spec": spec})
    [tin] = shop.by.get(f"{shop.at}/kit")["tins"]
    assert tin["rows"][-1]["sort"] == "retired"
    # a collet that is changed leaves the result stale
    touch(shop.mill, "collet")
    assert stands(shop, "tool_runout")["status"] == "stale"


def test_a_chain_that_does_not_go_together_is_refused_where_it_is_filled_in(shop: Shop) -> None:
    wide = {"type": "collet", "series": "ER 20", "size_mm": 10}
    id = shop.by.post(f"{shop.at}/pieces", {"name": "wide", "spec": wide})["id"]
    refused = shop.mill.set_up(**{**shop.chain("bent"), "collet": id}, expect=422)
    assert refused["errors"][0]["field"] == "setup.collet"
    assert "takes ER 11" in refused["errors"][0]["message"]
    for field, named in (("holder", str(uuid4())), ("compared", [str(uuid4())])):
        body = {**shop.chain("bent", way="swap", compared=[shop.id["good"]]), field: named}
        gone = shop.mill.set_up(**body, expect=422)
        assert gone["errors"][0]["field"] == f"setup.{field}"
        assert "not in the kit" in gone["errors"][0]["message"]
    nobody = shop.mill.set_up(**shop.chain("bent", way="swap", compared=[]), expect=422)
    assert "Name at least one collet" in str(nobody)


def test_what_was_changed_since_another_chain_is_told(shop: Shop) -> None:
    read(shop.mill, **shop.chain("bent"))
    settle(shop.mill)
    again = on(shop.mill, "tool_runout")
    # a round does not lean on itself, nor on what came after it
    said = str(read(again, **shop.chain("bent"))["finding"]["lines"])
    assert "is new" not in said
    settle(again)
    other = on(shop.mill, "tool_runout")
    said = str(read(other, **shop.chain("good"))["finding"]["lines"])
    assert "only good is new" in said


def test_however_often_one_kind_was_read_the_others_are_known(shop: Shop) -> None:
    tram = on(shop.mill, "spindle_play")
    read(tram, way="cold", passes=1)
    settle(tram)
    for _ in range(26):
        runout = on(shop.mill, "spindle_runout")
        read(runout, way="swing", distances_mm=[10], passes=1)
        settle(runout)
    machine = Machine.objects.get(pk=shop.mill.machine)
    known = known_of(machine, ("spindle_play", "spindle_runout"))
    assert [k.kind for k in known] == ["spindle_runout", "spindle_play"]
    assert all(k.fresh for k in known)
    other = on(shop.mill, "spindle_runout")
    read(other, way="angles", distances_mm=[10, 60], passes=1)
    settle(other)
    ways = known_of(machine, ("spindle_runout",))
    # of either way of reading the latest
    assert len(ways) == 2


def test_what_somebody_did_to_a_spindle_is_drawn_change_by_change(shop: Shop) -> None:
    runout = on(shop.mill, "spindle_runout")
    worse = {"turning": SpindleTruth(off_x_mm=0.02), "noise_share": 0.5}

    def truth(**more: Any) -> None:
        now = Truth.model_validate({**worse, **more}).model_dump(mode="json")
        Machine.objects.filter(pk=shop.mill.machine).update(truth=now)

    truth()
    stated = {"distances_mm": [10, 60], "passes": 1, "bar_mm": 0}
    found = read(runout, **stated)
    assert found["judgement"]["verdict"] == "out"
    assert not any(f["type"] == "waterfall" for f in found["figures"])
    for said, off in (("New 30 mm bearing", 0.012), ("New lower bearing", 0.001)):
        moved(runout, None, said)
        truth(turning=SpindleTruth(off_x_mm=off).model_dump())
        runout.ask()
    [drawn] = [f for f in runout.found["figures"] if f["type"] == "waterfall"]
    bars = [(b["label"]["inch"], b["sort"]) for b in drawn["bars"]]
    assert bars == [
        ("as found", "whole"),
        ("New 30 mm bearing", "gain"),
        ("New lower bearing", "gain"),
        ("now", "whole"),
    ]
    gains = [b["to_mm"] - b["from_mm"] for b in drawn["bars"][1:3]]
    assert gains == pytest.approx([-0.016, -0.022], abs=0.003)
    settle(runout)
    # it touched the bearings, so that what rests on them is asked for anew
    assert stands(shop, "spindle_runout")["status"] == "true"
