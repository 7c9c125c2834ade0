"""A whole stage by keyboard, rails on a phone, and readings pasted from a file."""

from __future__ import annotations

import re

from playwright.sync_api import Locator, Page, expect

from tests.browser.conftest import Shed, open_check, press, wait_for_readings

DOWN = "e => e.getBoundingClientRect().y + scrollY"


def typed(shed: Shed, prefix: str, n: int) -> None:
    """Type what the simulated instrument shows at each station that is asked for."""
    page = shed.page
    field = page.get_by_label(re.compile("^Reading at"))
    pressed = page.get_by_role("button", name=re.compile("^Ask the simulated"))
    there: set[float] = set()
    for i in range(n):
        expect(field).to_be_focused()
        there |= {e.evaluate(DOWN) for e in (field, pressed)}
        station = shed.check()["rounds"][-1]["next_station"]
        page.keyboard.type(shed.dial(station))
        page.keyboard.press("Enter")
        wait_for_readings(page, i + 1)
    assert prefix in page.url
    assert len(there) <= 2, "what is typed in and what is pressed stay where they are"


def test_the_stand_is_levelled_with_the_keyboard_alone(shed: Shed) -> None:
    page = shed.page
    press(page, page.get_by_role("button", name="Open the demo workshop"))
    press(page, page.get_by_role("link", name="Avocet", exact=True))
    press(page, page.get_by_role("link", name="Stand"))
    page.get_by_role("heading", name="Stand", level=1).wait_for()
    press(page, page.get_by_role("button", name="Measure"))
    expect(page.get_by_text(re.compile("Expect ±"))).to_be_visible()
    press(page, page.get_by_label("The machine is isolated"), " ")
    press(page, page.get_by_role("button", name="Start reading"))
    expect(page.get_by_text("marked end to the rear. Wait for the bubble.")).to_be_visible()
    typed(shed, "/checks/", 16)
    finding = page.get_by_role("status", name="Finding")
    expect(finding).to_contain_text("True")
    expect(page.get_by_role("img", name=re.compile("front left .* mm"))).to_be_visible()
    expect(page.get_by_text("The level’s own error:")).to_be_visible()
    press(page, page.get_by_role("button", name="Enter it in the logbook"))
    expect(page.get_by_text("This round is in the logbook")).to_be_visible()
    press(page, page.get_by_role("link", name=re.compile("^Stand")))
    stand = page.get_by_role("navigation", name="Stages of the work").get_by_role("listitem")
    expect(stand.filter(has_text="Stand")).to_contain_text("True")


def within(page: Page, target: Locator) -> None:
    box = target.bounding_box()
    assert box
    assert box["x"] >= 0
    assert box["x"] + box["width"] <= 391


def test_rails_are_brought_into_one_plane_on_a_phone(phone: Shed) -> None:
    page = phone.page
    page.get_by_role("button", name="Open the demo workshop").tap()
    open_check(page, "Curlew", "Rails", "Rails in one plane")
    expect(page.get_by_role("status", name="Finding")).to_contain_text("Out")
    figure = page.get_by_role("img", name=re.compile("rear left: .*mm"))
    expect(figure).to_be_visible()
    within(page, figure)
    within(page, page.get_by_role("img", name=re.compile(r"front left .* mm, front right")))
    expect(page.get_by_text(re.compile("By hand: 0.0.* under both of"))).to_be_visible()
    with page.expect_download() as got:
        page.get_by_role("link", name="On paper").tap()
    assert got.value.suggested_filename == "rail_twist-move.pdf"
    page.get_by_role("button", name="Done: measure again").tap()
    page.get_by_role("button", name="It is isolated").tap()
    expect(page.get_by_text("Lay the bridge from front left to rear right")).to_be_visible()
    for n in range(6):
        page.get_by_role("button", name="Ask the simulated dial").tap()
        wait_for_readings(page, n + 1)
    expect(page.get_by_role("status", name="Finding")).to_contain_text("True")
    expect(page.get_by_text(re.compile("^predicted:"))).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= 391


def test_a_file_is_pasted_looked_at_and_kept(shed: Shed) -> None:
    page = shed.page
    page.get_by_role("button", name="Open the demo workshop").click()
    open_check(page, "Curlew", "Rails", "Straight rail")
    page.get_by_label("Bolts, from the fixed end").fill("0, 400, 800, 1200")
    page.get_by_label("Whole passes").fill("1")
    page.get_by_label("The machine is isolated").check()
    page.get_by_role("button", name="Start reading").click()
    page.get_by_role("button", name="Paste readings").click()
    page.get_by_label("Readings", exact=True).fill("nothing of use")
    expect(page.get_by_role("button", name="Keep 0 readings")).to_be_disabled()
    page.locator("input[type=file]").set_input_files(
        {
            "name": "rail.csv",
            "mimeType": "text/csv",
            "buffer": "place;µm [µm]\n0;0\n400;12\n800;hm\n1200;4\n".encode(),
        }
    )
    expect(page.get_by_text("The header says µm.")).to_be_visible()
    table = page.get_by_role("table")
    expect(table.get_by_role("row").nth(3)).to_contain_text("+0.012")
    expect(table.get_by_role("row").nth(4)).to_contain_text("no number")
    expect(page.get_by_text("No line for 800 mm. They stay to be read.")).to_be_visible()
    page.get_by_role("button", name="Keep 3 readings").click()
    wait_for_readings(page, 3)
    expect(page.get_by_label("Reading at 800 mm, in div")).to_be_visible()
    page.keyboard.type("+6")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Back to the start.")).to_be_visible()
    page.keyboard.type("0")
    page.keyboard.press("Enter")
    expect(page.get_by_role("status", name="Finding")).to_contain_text("straight within")
