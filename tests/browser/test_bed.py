"""A bed from a probe's log, by the keyboard alone."""

from __future__ import annotations

import re

import numpy as np
import pytest
from playwright.sync_api import expect

from tests.browser.conftest import Shed, press, tab_to
from tests.browser.test_tooling import chosen
from truing.programs import read

LOG = "x y z ok\n" + "\n".join(
    f"{x} {y} {40 + 0.0004 * x - 0.0000008 * y * y:.4f} 1"
    for y in range(-400, 401, 200)
    for x in range(-300, 301, 100)
)


@pytest.mark.usefixtures("worker")
def test_a_probes_log_becomes_a_map_with_the_keyboard(shed: Shed) -> None:
    page = shed.page
    press(page, page.get_by_role("button", name="Open the demo workshop"))
    press(page, page.get_by_role("link", name="Curlew", exact=True))
    press(page, page.get_by_role("link", name=re.compile("^Bed")))
    page.get_by_role("heading", name="Bed", level=1).wait_for()
    heading = page.get_by_role("heading", name="Bed", exact=True, level=2)
    section = page.locator("section").filter(has=heading)
    press(page, section.get_by_role("button", name=re.compile("^Measure")))
    again = page.get_by_role("button", name="Measure it all the same")
    ready = page.get_by_role("combobox", name="You read it", exact=True)
    again.or_(ready).first.wait_for()
    if again.count():
        press(page, again)
    chosen(page, "You read it", re.compile("a probe"))
    press(page, page.get_by_label(re.compile("The spindle is off")), " ")
    press(page, page.get_by_role("button", name="Start reading"))
    tab_to(page, page.get_by_label("Or paste it here"))
    # a log without heights is refused, and what was pasted stays
    page.keyboard.insert_text("x y\n1 2\n3 4")
    press(page, page.get_by_role("button", name="Take what is pasted"))
    expect(page.get_by_text(re.compile("Columns x, y and z are needed"))).to_be_visible()
    tab_to(page, page.get_by_label("Or paste it here"))
    page.keyboard.press("Control+A")
    page.keyboard.insert_text(LOG + "\n-300 -400 99 0")
    press(page, page.get_by_role("button", name="Take what is pasted"))
    finding = page.get_by_role("status", name="Finding")
    expect(finding).to_contain_text("Over the area its height varies by")
    found = shed.finding()["finding"]
    values = {q["key"]: q["estimate"]["value"] for q in found["quantities"]}
    # the touch that missed is left out
    assert found["count"] == 35
    assert abs(values["slope_x"] - 0.4) < 1e-6
    assert abs(values["bow_y"] - 0.128) < 1e-6
    expect(page.get_by_text("Its right is high, by 0.240")).to_be_visible()
    drawn = page.get_by_role("img", name=re.compile("in bands of"))
    expect(drawn).to_be_visible()
    # the section is cut where the keys take it
    slider = page.get_by_role("slider", name="Where the section is cut, from the front")
    tab_to(page, slider)
    before = page.get_by_role("img", name=re.compile("^The section at")).get_attribute("aria-label")
    page.keyboard.press("End")
    section = page.get_by_role("img", name=re.compile("^The section at"))
    expect(section).not_to_have_attribute("aria-label", before or "")
    press(page, page.get_by_role("button", name=re.compile("Enter it in the logbook|Leave it")))
    expect(page.get_by_text("This round is in the logbook")).to_be_visible()
    # and on to a program, made of this very map
    line = page.get_by_role("navigation", name="Stages of the work")
    press(page, line.get_by_role("link", name=re.compile("^Bed")))
    press(page, page.get_by_role("link", name=re.compile("^Bed & surfacing")))
    expect(page.get_by_role("heading", name=re.compile("^Takes 0.4"))).to_be_visible(timeout=60_000)
    press(page, page.get_by_role("button", name="Keep it and make the program"))
    file = page.get_by_role("link", name="The program", exact=True)
    # a worker makes it; whoever else is busy on this machine goes first
    file.first.wait_for(timeout=60_000)
    tab_to(page, file)
    with page.expect_download() as got:
        page.keyboard.press("Enter")
    assert got.value.suggested_filename.startswith("curlew-board-")
    program = got.value.path().read_bytes()
    motions = read(program).motions
    assert len(motions.at) > 50
    # first of all it goes up, alone
    assert motions.at[0, 5] > 0
    assert np.isnan(motions.at[0, 3:5]).all()
    # for another wish it is the wrong program, and stands there no more
    tab_to(page, page.get_by_label("Cutter’s diameter"))
    page.keyboard.insert_text("1")
    expect(file).to_have_count(0)
