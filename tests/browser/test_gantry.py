"""A gantry levelled from a probe's log on a phone, and squared at the desk."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import Shed, open_check, wait_for_readings

LOG = """x z feed
-350 -40.212 300
-350 -40.130 30
-350 -40.128 30
0 -40.222 30
0 -40.224 30
350 -40.398 300
350 -40.321 30
350 -40.319 30
"""


def start(page: Page, seen_to: str) -> None:
    page.get_by_label(re.compile(seen_to)).check()
    page.get_by_role("button", name="Start reading").click()


def test_a_gantry_is_levelled_on_a_phone_from_a_pasted_log(phone: Shed) -> None:
    page = phone.page
    page.get_by_role("button", name="Open the demo workshop").tap()
    open_check(page, "Curlew", "Frame", "Level gantry")
    page.get_by_role("combobox", name="How you read it").tap()
    page.get_by_role("option", name="A probe's log").tap()
    start(page, "The spindle is off and the cutter out")
    field = page.get_by_label("Or paste it here")
    field.fill(LOG.replace("350 -40.319 30", "350 forty 30"))
    page.get_by_role("button", name="Take what is pasted").tap()
    expect(page.get_by_role("alert")).to_contain_text("Line 9")
    # nothing of it is lost: mend the line, and send it again
    expect(field).to_have_value(re.compile("forty"))
    field.fill(LOG)
    page.get_by_role("button", name="Take what is pasted").tap()
    finding = page.get_by_role("status", name="Finding")
    expect(finding).to_contain_text("The right end hangs 0.26")
    before = phone.api("GET", f"/machines/{phone.check()['machine_id']}")["spec"]["lift"]
    page.get_by_role("button", name="Done: measure again").tap()
    page.get_by_text(re.compile("round 2")).first.wait_for()
    after = phone.api("GET", f"/machines/{phone.check()['machine_id']}")["spec"]["lift"]
    assert after["left_offset_mm"] == before["left_offset_mm"]
    assert 0.25 < after["right_offset_mm"] - before["right_offset_mm"] < 0.29
    # the spindle went with the beam
    machine = phone.api("GET", f"/machines/{phone.check()['machine_id']}")
    tram = next(c for c in machine["checks"] if c["kind"] == "spindle_tram")
    assert tram["status"] == "stale"
    # taken back, the old offsets stand again
    move = phone.check()["rounds"][0]["move"]
    phone.api("PUT", f"/records/moves/{move['id']}/taken-back", {"taken_back": True})
    again = phone.api("GET", f"/machines/{phone.check()['machine_id']}")["spec"]["lift"]
    assert again == before


def test_diagonals_tell_whether_a_tape_can_decide_it_and_square_the_gantry(shed: Shed) -> None:
    page = shed.page
    page.get_by_role("button", name="Open the demo workshop").click()
    open_check(page, "Curlew", "Frame", "Square gantry")
    page.get_by_label("Width as programmed").fill("600")
    page.get_by_label("Depth as programmed").fill("800")
    page.get_by_label("Whole passes").fill("1")
    start(page, "The machine is isolated")
    for n, length in enumerate(("1000.6", "999.4", "600", "600", "800", "800"), 1):
        field = page.get_by_label(re.compile("^Reading at"))
        field.fill(f"{length} mm")
        field.press("Enter")
        wait_for_readings(page, n)
    finding = page.get_by_role("status", name="Finding")
    expect(finding).to_contain_text("The right end of the gantry is ahead of the left one by 1.25")
    told = page.get_by_role("region", name="What to do")
    expect(told).to_contain_text("Enter new home offsets")
    expect(told).to_contain_text("Mark four new corners")
