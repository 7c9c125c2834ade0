"""A friend comes to a workshop by a link: new here, known here, and when the link does not hold."""

from __future__ import annotations

from collections.abc import Iterator
from uuid import uuid4

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import Server, Shed, shed_for
from tests.browser.test_access import PASSWORD, violations


@pytest.fixture
def friend(server: Server, browser: Browser) -> Iterator[Shed]:
    """In another browser, on a phone."""
    options = {"viewport": {"width": 390, "height": 844}, "has_touch": True, "is_mobile": True}
    yield from shed_for(server, browser, **options)


def new_here(page: Page, name: str) -> None:
    """Fills in who they are, where a new account is made."""
    page.get_by_label("Name").fill(name)
    page.get_by_label("Email").fill(f"{name.lower()}@example.org")
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Make the account").click()


def link(page: Page, whom: str, role: str) -> str:
    page.get_by_label("Whom it is for").fill(whom)
    page.get_by_label("They may").click()
    page.get_by_role("option", name=role).click()
    page.get_by_role("button", name="Make a link").click()
    made = page.get_by_label("The link", exact=True)
    expect(made).to_be_visible()
    return made.input_value()


def test_a_friend_who_only_looks_and_one_who_comes_again(shed: Shed, friend: Shed) -> None:
    page, phone = shed.page, friend.page
    page.get_by_role("button", name="I am new here").click()
    new_here(page, "Senara")
    page.get_by_role("heading", name="Which machine stands").wait_for()
    page.goto(f"{page.url}/members")
    sent = link(page, "Jory", "Viewer")
    assert violations(page) == []
    expect(page.get_by_text("Not used yet")).to_be_visible()
    phone.goto(sent)
    said = phone.get_by_text("Senara invites you to “Senara’s workshop”")
    expect(said).to_be_visible()
    # nothing else is asked of somebody who comes by a link
    expect(phone.get_by_role("button", name="Open the demo workshop")).to_have_count(0)
    assert violations(phone) == []
    new_here(phone, "Jory")
    expect(phone.get_by_role("link", name="Senara’s workshop")).to_be_visible()
    expect(phone.get_by_text("Its owner has not described a machine")).to_be_visible()
    expect(phone.get_by_role("button", name="Column mill", exact=True)).to_have_count(0)
    assert [w["role"] for w in friend.api("GET", "/auth/me")["workshops"]] == ["viewer"]
    page.reload()
    expect(page.get_by_text("jory@example.org")).to_be_visible()
    expect(page.get_by_text("Not used yet")).to_have_count(0)
    # the same link once more lets nobody in, and says so
    phone.goto("about:blank")
    phone.goto(sent)
    expect(phone.get_by_text("does not hold any more")).to_be_visible()
    # taken out, and asked back: they are known here, and are asked
    page.get_by_role("button", name="Take out Jory").click()
    expect(page.get_by_text("jory@example.org")).to_have_count(0)
    phone.goto("about:blank")
    phone.goto(link(page, "Jory", "Maker"))
    join = phone.get_by_role("button", name="Join as Jory")
    expect(join).to_be_visible()
    assert violations(phone) == []
    join.click()
    expect(phone.get_by_role("button", name="Column mill", exact=True)).to_be_visible()


def test_a_link_that_was_taken_back(shed: Shed, friend: Shed) -> None:
    page = shed.page
    page.get_by_role("button", name="I am new here").click()
    new_here(page, "Wella")
    page.get_by_role("heading", name="Which machine stands").wait_for()
    page.goto(f"{page.url}/members")
    sent = link(page, "a neighbour", "Maker")
    page.get_by_role("button", name="Take back the link for a neighbour").click()
    expect(page.get_by_label("The link", exact=True)).to_have_count(0)
    friend.page.goto(sent)
    expect(friend.page.get_by_text("does not hold any more")).to_be_visible()
    # they can still come in by themselves
    expect(friend.page.get_by_role("button", name="Sign in", exact=True)).to_be_visible()


def test_who_only_looks_finds_the_machines_and_no_form_that_would_be_refused(
    shed: Shed, friend: Shed
) -> None:
    page, phone = shed.page, friend.page
    page.get_by_role("button", name="I am new here").click()
    new_here(page, "Morwen")
    page.get_by_role("button", name="Micro mill", exact=True).click()
    page.get_by_label("Name").fill("Teal")
    page.get_by_role("button", name="Add it").click()
    page.get_by_role("heading", name="Teal").wait_for()
    machine = page.url.rsplit("/", 1)[1]
    workshop = shed.api("GET", f"/machines/{machine}")["workshop_id"]
    page.goto(f"{shed.server.url}/w/{workshop}/members")
    phone.goto(link(page, "Pasco", "Viewer"))
    new_here(phone, "Pasco")
    expect(phone.get_by_role("heading", name="How the machines stand")).to_be_visible()
    # asked for by its address, a form that only others may send leads back to what it is of
    phone.goto(f"{shed.server.url}/machines/{machine}/edit")
    expect(phone.get_by_role("heading", name="Teal", exact=True)).to_be_visible()
    phone.goto(f"{shed.server.url}/w/{workshop}/new-machine?form=micro_mill")
    expect(phone.get_by_role("heading", name="How the machines stand")).to_be_visible()
    job = {"name": "Dial", "features": [{"kind": "hole", "size_tol_mm": 0.05}]}
    made = shed.api("POST", f"/workshops/{workshop}/jobs", {"id": str(uuid4()), "spec": job})
    phone.goto(f"{shed.server.url}/w/{workshop}/new-job")
    expect(phone.get_by_role("heading", name="Good enough for what you make")).to_be_visible()
    phone.goto(f"{shed.server.url}/jobs/{made['id']}/edit")
    expect(phone.get_by_role("heading", name="Dial", exact=True)).to_be_visible()
    assert "/edit" not in phone.url
    places = {
        f"/w/{workshop}": "How the machines stand",
        f"/w/{workshop}/kit": "Instruments",
        f"/w/{workshop}/jobs": "Good enough for what you make",
        f"/machines/{machine}": "Teal",
        f"/machines/{machine}/bed": "Bed & surfacing",
        f"/machines/{machine}/symptoms/ridges": "Ridges that a finger can feel",
        f"/machines/{machine}/evening": "Plan an evening",
    }
    for path, title in places.items():
        phone.goto(f"{shed.server.url}{path}")
        expect(phone.get_by_role("heading", name=title, exact=True).first).to_be_visible()
        sends = phone.locator("button[type=submit]:enabled")
        expect(sends).to_have_count(0)
