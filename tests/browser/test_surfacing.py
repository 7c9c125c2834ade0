"""A bed by finger, and programs that are checked, stopped and checked again."""

from __future__ import annotations

import math
import re
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from calmsquare.workshop.room import DEMO_FILE_BYTES
from tests.browser.conftest import Shed

SLOW_LINES = 700_000


def bed_of(shed: Shed, machine: str = "Curlew") -> Page:
    page = shed.page
    page.get_by_role("button", name="Open the demo workshop").click()
    page.get_by_role("link", name=machine, exact=True).click()
    page.get_by_role("link", name="Bed & surfacing").click()
    page.get_by_role("heading", name="Bed & surfacing").wait_for()
    return page


def bed(shed: Shed) -> Any:
    machine = shed.page.url.partition("/machines/")[2].partition("/")[0]
    return shed.api("GET", f"/machines/{machine}/bed")


def test_what_is_in_the_way_is_drawn_with_a_finger(phone: Shed) -> None:
    page = bed_of(phone)
    # picture, sentence, file; nothing of the page hangs over its edge
    expect(page.get_by_role("heading", name=re.compile("^Takes 0.63"))).to_be_visible(
        timeout=60_000
    )
    expect(page.get_by_role("button", name="Keep it and make the program")).to_be_visible()
    expect(page.get_by_label("Cutter’s diameter")).to_be_hidden()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    page.get_by_text("Work, cutter and zero").tap()
    cutter = page.get_by_label("Cutter’s diameter")
    cutter.fill("17")
    page.get_by_role("tab", name="Board").tap()
    page.get_by_role("button", name="Draw what is in the way").tap()
    picture = page.get_by_role("img", name=re.compile("^The bed from above"))
    picture.scroll_into_view_if_needed()
    box = picture.bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    finger = phone.context.new_cdp_session(page)

    def touch(kind: str, *at: float) -> None:
        points = [{"x": at[0], "y": at[1]}] if at else []
        finger.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})

    def drawn_from(x: float, y: float) -> None:
        touch("touchStart", x, y)
        for k in range(1, 9):
            touch("touchMove", x + 5 * k, y + 3 * k)
        touch("touchEnd")

    drawn_from(x, y)
    name = page.get_by_label("Name").last
    expect(name).to_have_value(re.compile("^Drawn"))
    name.fill("Vice bolt")
    # what was typed stays while something else is looked at, and while more is drawn
    page.get_by_role("tab", name="Plan").tap()
    expect(cutter).to_be_visible()
    expect(cutter).to_have_value("17")
    # one that is pressed before the last has drawn what it shows counts all the same
    page.evaluate(
        """async () => {
            const tab = (t) => [...document.querySelectorAll("[role=tab]")]
                .find((e) => e.textContent === t);
            for (const t of ["Board", "Plan"]) { tab(t).click(); await null; }
        }"""
    )
    expect(page).to_have_url(re.compile("pane=plan"))
    expect(cutter).to_be_visible()
    page.get_by_role("tab", name="Board").tap()
    expect(cutter).to_be_hidden()
    page.get_by_role("button", name="Draw what is in the way").tap()
    picture.scroll_into_view_if_needed()
    box = picture.bounding_box()
    assert box
    drawn_from(box["x"] + box["width"] / 2 - 60, box["y"] + box["height"] / 2)
    names = page.get_by_label("Name")
    expect(names.last).to_have_value(re.compile("^Drawn"))
    expect(names.nth(-2)).to_have_value("Vice bolt")
    page.get_by_role("button", name=re.compile("^Remove ")).last.tap()
    page.get_by_role("button", name="Keep the board").tap()
    expect(page.get_by_text("Vice bolt: something else").last).to_be_visible()
    kept = bed(phone)["board"]["keep_outs"][-1]
    # where the finger was: from the middle, forty to the right and twenty-four to the front
    assert kept["name"] == "Vice bolt"
    assert kept["x_mm"] > 0
    assert kept["y_mm"] < 0
    assert math.isclose(kept["across_mm"] / kept["deep_mm"], 40 / 24, rel_tol=0.1)
    assert math.isclose(kept["x_mm"] * 2, kept["across_mm"], abs_tol=12)
    assert page.evaluate("document.documentElement.scrollWidth") <= 390


@pytest.mark.usefixtures("worker")
def test_a_foreign_program_is_checked_stopped_and_checked_again(shed: Shed) -> None:
    page = bed_of(shed)
    page.get_by_role("tab", name="Check a program").click()
    # the demo's own has its three faults, each in its line, and something to look at
    page.get_by_role("button", name="tide-dial-small.nc").click()
    for line, said, text in (
        (26, "Would do harm", "Was a decimal lost?"),
        (40, "Would do harm", "A rapid goes sideways through material"),
        (58, "Would do harm", "too deep past Toe clamp"),
        (6, "Look", "A wait (G4) makes sure"),
    ):
        place = page.get_by_text(f"Line {line} · {said}").locator("..")
        expect(place).to_contain_text(text)
    page.get_by_role("button", name="Another program").click()
    # as many circles, one in another, as the demo takes of one file
    turns = "".join(f"G2I-{1 + k % 40}\n" for k in range(SLOW_LINES))
    assert 4_000_000 < len(turns) < DEMO_FILE_BYTES - 1000
    program = f"G21 G17 G90 G94 G54\nG0 Z5\nS15000 M3\nG4 P4\nG0 X40 Y0\nG1 Z-0.2 F300\n{turns}"
    program += "G0 Z5\nM5\nM30\n"
    page.get_by_label("Choose the program").set_input_files(
        {"name": "rings.nc", "mimeType": "text/plain", "buffer": program.encode()}
    )
    page.get_by_role("button", name="Check it", exact=True).click()
    page.get_by_role("button", name="Stop the check").click()
    expect(page.get_by_text("Its check was stopped.")).to_be_visible(timeout=60_000)
    page.get_by_role("button", name="Check it again").click()
    verdict = page.get_by_role("heading", name=re.compile("^Nothing was found that speaks against"))
    expect(verdict).to_be_visible(timeout=120_000)
    expect(page.get_by_role("img", name=re.compile("^What rings.nc leaves"))).to_be_visible()
    page.get_by_role("button", name="Remove it").click()
    page.get_by_role("button", name="Remove it for good").click()
    expect(page.get_by_label("Choose the program")).to_be_visible()
    expect(page.get_by_text("rings.nc")).to_have_count(0)


@pytest.mark.usefixtures("worker")
def test_bad_files_are_explained_and_what_was_stated_stays(shed: Shed) -> None:
    page = bed_of(shed)
    page.get_by_role("tab", name="Check a program").click()
    width = page.get_by_label("Its diameter")
    width.fill("wide")
    page.get_by_label("Choose the program").set_input_files(
        {"name": "letter.txt", "mimeType": "text/plain", "buffer": b"Dear Sir, it is sharp."}
    )
    page.get_by_role("button", name="Check it", exact=True).click()
    expect(page.locator("[id$=diameter_mm-helper-text]:visible")).to_contain_text("wide")
    width.fill("6 mm")
    page.get_by_role("button", name="Check it", exact=True).click()
    expect(page.get_by_text(re.compile("There is no word of a program in it"))).to_be_visible(
        timeout=60_000
    )
