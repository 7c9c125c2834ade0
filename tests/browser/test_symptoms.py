"""From what somebody sees on the part to the check that tells most, on desk and phone."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import Shed
from tests.browser.test_access import violations
from tests.browser.test_beginning import Hand, sign_up


def open_demo(page: Page) -> None:
    page.get_by_role("button", name="Open the demo workshop").click()
    page.get_by_role("heading", name="How the machines stand").wait_for()


def test_a_look_turns_the_order_and_the_check_begins_with_its_part(shed: Shed) -> None:
    page = shed.page
    open_demo(page)
    page.get_by_role("link", name="What brings you here?").click()
    page.get_by_role("button", name="It stalls or goes hard near one end").click()
    expect(page.get_by_role("heading", name="On which machine?")).to_be_focused()
    assert violations(page) == []
    page.get_by_role("link", name="Dunlin", exact=True).click()
    expect(page.get_by_role("heading", name="It stalls")).to_be_visible()
    expect(page.get_by_role("heading", name=re.compile("^Next: Centred screw"))).to_be_visible()
    assert violations(page) == []
    page.get_by_role("button", name="Yes, the slide itself is heavy").click()
    following = page.get_by_role("heading", name=re.compile("^Next: Slide play: "))
    expect(following).to_be_visible()
    part = (following.text_content() or "").removeprefix("Next: Slide play: ")
    # what was seen stays when the page is loaded anew
    page.reload()
    expect(following).to_be_visible()
    page.get_by_role("button", name=re.compile("^Begin: slide play")).click()
    again = page.get_by_role("button", name="Measure it all the same")
    expect(again.or_(page.get_by_label(re.compile("isolated"))).first).to_be_visible()
    if again.count():
        again.click()
    expect(page.get_by_label(re.compile("isolated"))).to_be_visible()
    assert shed.check()["rounds"][-1]["part"] == part


def test_a_cause_that_is_found_leads_to_what_puts_it_right_and_to_an_evening(phone: Shed) -> None:
    page = phone.page
    open_demo(page)
    page.get_by_role("link", name="Avocet", exact=True).click()
    page.get_by_role("link", name="Something comes out wrong?").click()
    expect(page.get_by_role("heading", name="What brings you here?")).to_be_visible()
    assert violations(page) == []
    page.get_by_role("button", name="Ridges that a finger can feel").click()
    expect(page.get_by_role("status", name="How the search stands")).to_contain_text(
        "the spindle leans"
    )
    assert violations(page) == []
    page.get_by_role("link", name="Plan an evening for it").click()
    expect(page.get_by_role("combobox", name="What it is for")).to_contain_text("Ridges")
    steps = page.get_by_role("list", name="The evening in order").get_by_role("listitem")
    expect(steps).to_have_count(1)
    expect(steps).to_contain_text("Tram")
    page.get_by_role("button", name="Start the evening").click()
    expect(page.get_by_text("What is behind it: ridges")).to_be_visible()
    page.go_back()
    page.get_by_role("button", name="Put it right").click()
    expect(page.get_by_label("What to do")).to_be_visible()


def test_what_has_no_cause_leads_to_the_course_and_says_what_happened(shed: Shed) -> None:
    page = shed.page
    open_demo(page)
    page.get_by_role("link", name="Curlew", exact=True).click()
    page.get_by_role("link", name="Something comes out wrong?").click()
    page.get_by_role("button", name="It was moved, bought").click()
    expect(page.get_by_role("status", name="How the search stands")).to_contain_text(
        "Everything rests on the stand"
    )
    page.get_by_role("button", name="Something happened").click()
    page.get_by_role("menuitem", name="It was moved").click()
    expect(page.get_by_text("Logged: it was moved")).to_be_visible()


def test_a_newcomer_says_what_brings_them_and_lands_there(phone: Shed) -> None:
    page = phone.page
    hand = Hand(page)
    sign_up(hand, "Kitto")
    slots = page.get_by_role("button", name="Slots too wide, small cutters that break")
    slots.click()
    expect(slots).to_have_attribute("aria-pressed", "true")
    assert violations(page) == []
    page.get_by_role("button", name="Micro mill", exact=True).click()
    page.get_by_label("Name").fill("Teal")
    page.get_by_role("button", name="Add it").click()
    expect(page.get_by_role("heading", name="Slots too wide")).to_be_visible()
    expect(page.get_by_role("heading", name=re.compile("^Next: "))).to_be_visible()


def test_a_job_that_came_out_otherwise_has_the_same_door(shed: Shed) -> None:
    page = shed.page
    open_demo(page)
    page.get_by_role("link", name="Jobs").click()
    page.get_by_role("main").get_by_role("link").filter(has_text="plate").first.click()
    page.get_by_role("link", name="It came out otherwise?").click()
    expect(page.get_by_role("heading", name="What brings you here?")).to_be_visible()
