"""Whatever has a name can be called otherwise, by who may."""

from __future__ import annotations

from calmsquare.workshop.models import Role
from tests.api.conftest import Person, somebody


def test_a_workshop_is_renamed_by_its_owner_and_no_two_at_once(owner: Person) -> None:
    assert owner.workshop
    at = f"/workshops/{owner.workshop.pk}"
    was = owner.workshop.name
    owner.put(at, {"name": "Saltings\nShed \u202e", "was": was}, expect=204)
    assert owner.get(at)["name"] == "Saltings Shed"
    assert owner.get("/auth/me")["workshops"][0]["name"] == "Saltings Shed"
    told = owner.put(at, {"name": "Other", "was": was}, expect=409)
    assert "while this page was open" in told["detail"]
    [blank] = owner.put(at, {"name": "  ", "was": "Saltings Shed"}, expect=422)["errors"]
    assert blank["field"] == "name"
    maker = somebody("tove", owner.workshop, Role.MAKER)
    maker.put(at, {"name": "Mine", "was": "Saltings Shed"}, expect=403)
    assert owner.get(at)["name"] == "Saltings Shed"


def test_somebody_is_called_otherwise_wherever_their_name_is_told(owner: Person) -> None:
    assert owner.workshop
    at = f"/workshops/{owner.workshop.pk}/members"
    assert owner.post("/auth/name", {"name": " Merrin\tof the ferry "})["name"] == (
        "Merrin of the ferry"
    )
    assert [m["name"] for m in owner.get(at)] == ["Merrin of the ferry"]
    [blank] = owner.post("/auth/name", {"name": "\u200b"}, expect=422)["errors"]
    assert blank["field"] == "name"
