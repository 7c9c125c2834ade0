"""From the spindle's ridges to a piece that accepts the machine, with hands on the keyboard."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.browser.conftest import Shed, press, tab_to, wait_for_readings
from truing.programs import read


def begin(page: Page, machine: str, title: str) -> None:
    press(page, page.get_by_role("button", name="Open the demo workshop"))
    press(page, page.get_by_role("link", name=machine, exact=True))
    press(page, page.get_by_role("link", name=re.compile("^Proof")))
    heading = page.get_by_role("heading", name=title, exact=True, level=2)
    section = page.locator("section").filter(has=heading)
    press(page, section.get_by_role("button", name=re.compile("^Measure")))
    again = page.get_by_role("button", name="Measure it all the same")
    start = page.get_by_role("button", name="Start reading")
    again.or_(start).first.wait_for()
    if again.count():
        press(page, again)
    press(page, page.get_by_label(re.compile("The machine is isolated")), " ")
    press(page, start)


def saved(page: Page, name: str, nth: int) -> bytes:
    link = page.get_by_role("link", name=name).nth(nth)
    with page.expect_download() as got:
        press(page, link)
    return Path(got.value.path()).read_bytes()


def asked_for(page: Page) -> str:
    """What the page asks to be read now."""
    return page.locator("p[aria-live]").text_content() or ""


def read_on(page: Page, before: str) -> None:
    """Until that is asked for no longer: the last reading folds the prompt away."""
    same = re.compile(f"^{re.escape(before)}$")
    expect(page.locator("p[aria-live]").filter(has_text=same)).to_have_count(0)


def asked(page: Page, times: int) -> None:
    """Read on with the simulated machine."""
    for _ in range(times):
        before = asked_for(page)
        # by key: the pad comes and goes above it, and a pointer may miss it
        page.get_by_role("button", name=re.compile("^Ask the simulated")).press("Enter")
        read_on(page, before)


def test_a_piece_is_cut_by_its_file_and_accepts_the_machine(shed: Shed) -> None:
    page = shed.page
    begin(page, "Curlew", "Test cut")
    expect(page.get_by_text("Cut these first")).to_be_visible()
    for nth, key in ((0, "Two patches"), (1, "A square and a hole")):
        expect(page.get_by_role("heading", name=re.compile(key))).to_be_visible()
        air, cut = saved(page, "The air run", nth), saved(page, "The program", nth)
        assert len(read(cut).motions.at) == len(read(air).motions.at)
        assert b"\nZ-" not in air
    # eye, nail and ear by their digits; what is measured by the stand-in
    tab_to(page, page.get_by_role("button", name=re.compile("nothing to be felt")))
    for n in range(4):
        before = asked_for(page)
        page.keyboard.press("1")
        read_on(page, before)
        wait_for_readings(page, n + 1)
    asked(page, 5)
    found = shed.finding()["finding"]
    assert found["grades"]["step_x"] == "none"
    expect(page.get_by_text("Cut these first")).to_be_visible()
    # its file folds away once the piece lies there
    expect(page.get_by_role("link", name="The program")).to_have_count(0)


def test_ridges_turn_a_head_by_its_needle(shed: Shed) -> None:
    """A mill with handwheels: lines to follow, a step felt and read, and where the head goes."""
    page = shed.page
    begin(page, "Avocet", "Ridges")
    # a patch at a time: both on one block would run beyond its travel
    expect(page.get_by_text("Go down clear of the block")).to_have_count(2)
    lines = page.get_by_text(re.compile("^Z −0.30 mm: from X"))
    expect(lines).to_have_count(6)
    for text in ("0", "3", "1", "12", "1", "3", "0", "12"):
        before = asked_for(page)
        field = page.get_by_label(re.compile("^Reading at"))
        answer = page.get_by_role("group", name=re.compile("^Answer for"))
        expect(field.or_(answer)).to_be_visible()
        if field.count():
            field.fill(text)
            field.press("Enter")
        else:
            page.keyboard.press(text)
        read_on(page, before)
    status = page.get_by_role("status", name="Finding")
    expect(status).to_contain_text("the top leans")
    expect(page.get_by_text(re.compile("A swung dial says"))).to_have_count(2)
    expect(
        page.get_by_role("img", name=re.compile("Fed front–back, from left to right"))
    ).to_be_visible()
