"""The frame of a mill by the keyboard alone, what it says of the spindle, and a head that stands
tilted for a job."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import Shed, open_check, press, wait_for_readings
from tests.browser.test_below_the_tram import typed


def to_the_frame(page: Page) -> None:
    press(page, page.get_by_role("link", name=re.compile("^Frame")))
    page.get_by_role("heading", name="Frame", level=1).wait_for()


def test_the_whole_frame_of_a_mill_with_the_keyboard(shed: Shed) -> None:
    page = shed.page
    press(page, page.get_by_role("button", name="Open the demo workshop"))
    press(page, page.get_by_role("link", name="Dunlin", exact=True))
    to_the_frame(page)
    # how it is set up stands there before anything is pressed
    expect(page.get_by_role("img", name=re.compile("A square stands on the table"))).to_have_count(
        2
    )
    press(page, page.get_by_role("button", name=re.compile("^Measure")))
    again = page.get_by_role("button", name="Measure it all the same")
    again.or_(page.get_by_text("Set up", exact=True)).first.wait_for()
    if again.count():
        press(page, again)
    # the way that is out is proposed, with the square of the last time
    expect(page.get_by_role("combobox", name="Which travel")).to_have_text(
        "head against left–right"
    )
    expect(page.get_by_role("combobox", name="Which one")).to_have_text("Ferry’s big square")
    drawn = page.get_by_role("img", name=re.compile("its tip to the right on the edge"))
    expect(drawn).to_be_visible()
    expect(page.get_by_text(re.compile("Expect ±")).first).to_be_visible()
    press(page, page.get_by_label("The machine is isolated"), " ")
    press(page, page.get_by_role("button", name="Start reading"))
    typed(shed, "/checks/", 12)
    finding = page.get_by_role("status", name="Finding")
    expect(finding).to_contain_text("Going up, the head drifts to the right")
    expect(page.get_by_text("The table’s slope to its own travel")).to_be_visible()
    todo = page.get_by_role("region", name="What to do")
    expect(todo).to_contain_text("Shim under the column: raise the right")
    expect(todo.get_by_role("img", name=re.compile("right of the column’s foot"))).to_be_visible()
    press(page, page.get_by_role("button", name="Done: measure again"))
    expect(page.get_by_text("round 2").first).to_be_visible()
    typed(shed, "/checks/", 12)
    expect(finding).to_contain_text("True")
    press(page, page.get_by_role("button", name="Enter it in the logbook"))
    expect(page.get_by_text("This round is in the logbook")).to_be_visible()
    # the shims undid what was read the other way: that comes next, and then the stage is true
    to_the_frame(page)
    expect(page.get_by_text("head against front–back: stale")).to_be_visible()
    press(page, page.get_by_role("button", name=re.compile("^Measure")))
    expect(page.get_by_role("combobox", name="Which travel")).to_have_text(
        "head against front–back"
    )
    press(page, page.get_by_role("button", name="Start reading"))
    typed(shed, "/checks/", 12)
    expect(finding).to_contain_text("True")
    press(page, page.get_by_role("button", name="Enter it in the logbook"))
    expect(page.get_by_text("This round is in the logbook")).to_be_visible()
    stages = page.get_by_role("navigation", name="Stages of the work").get_by_role("listitem")
    expect(stages.filter(has_text="Frame")).to_contain_text("True")


def test_a_lean_is_told_apart_into_column_and_head(phone: Shed) -> None:
    page = phone.page
    page.get_by_role("button", name="Open the demo workshop").tap()
    open_check(page, "Dunlin", "Tram", "Tram")
    page.get_by_label("Swing radius").fill("60 mm")
    page.get_by_label("Whole passes").fill("1")
    page.get_by_label("The machine is isolated").check()
    page.get_by_role("button", name="Start reading").tap()
    for n in range(5):
        page.get_by_role("button", name="Ask the simulated dial").tap()
        wait_for_readings(page, n + 1)
    expect(page.get_by_text("the column’s travel has").first).to_be_visible()
    parts = page.get_by_role("img", name=re.compile("the column’s travel to the table"))
    expect(parts).to_have_count(2)
    # what is drawn stays on the phone
    for figure in parts.all():
        box = figure.bounding_box()
        assert box
        assert box["x"] + box["width"] <= 391


def test_a_head_that_stands_tilted_is_left_in_peace(shed: Shed) -> None:
    page = shed.page
    page.get_by_role("button", name="Open the demo workshop").click()
    page.get_by_role("link", name="Avocet", exact=True).click()
    page.get_by_role("button", name="Something happened").click()
    page.get_by_role("menuitem", name=re.compile("tilted on purpose")).click()
    form = page.get_by_role("form", name="The head was tilted on purpose")
    form.get_by_label("Tilted by, in degrees").fill("30")
    form.get_by_role("button", name="Log it").click()
    # what is cut by a tilted head tells nothing of it either
    for region in ("Tram", "Proof"):
        withheld = page.get_by_role("region", name=region).get_by_text("not known, tilted")
        expect(withheld.first).to_be_visible()
    expect(page.get_by_text("the head was tilted by 30°").first).to_be_visible()
    page.get_by_role("button", name="Something happened").click()
    page.get_by_role("menuitem", name=re.compile("back to square")).click()
    expect(page.get_by_text("not known, tilted")).to_have_count(0)
    next_step = page.locator("section, div").filter(
        has=page.get_by_role("heading", name="Next step, and why")
    )
    expect(next_step.get_by_role("button", name=re.compile("tram")).first).to_be_visible()
