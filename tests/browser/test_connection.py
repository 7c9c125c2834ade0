"""Not a reading is lost: to a cut connection, to a restart, to a newer round."""

from __future__ import annotations

import re
from uuid import uuid4

from playwright.sync_api import Page, expect

from tests.browser.conftest import Shed, open_check, wait_for_readings


def begin(page: Page) -> None:
    page.get_by_role("button", name="Open the demo workshop").click()
    open_check(page, "Dunlin", "Tram", "Tram")
    page.get_by_label("Swing radius").fill("70")
    page.get_by_label("The machine is isolated").check()
    page.get_by_role("button", name="Start reading").click()


def enter(page: Page, station: str, text: str) -> None:
    field = page.get_by_label(re.compile(f"Reading at {station},"))
    field.fill(text)
    field.press("Enter")


def test_readings_outlast_a_cut_connection_and_a_restart(shed: Shed) -> None:
    page = shed.page
    begin(page)
    enter(page, "12", "+3")
    wait_for_readings(page, 1)
    shed.context.set_offline(True)
    for station, text in (("3", "+8"), ("6", "-2.5"), ("9", "rubbish")):
        enter(page, station, text)
    expect(page.get_by_text("3 readings are kept on this device")).to_be_visible()
    # the connection comes back before the server does
    shed.server.stop()
    shed.context.set_offline(False)
    enter(page, "12", "+3.5")
    expect(page.get_by_text("4 readings are kept on this device")).to_be_visible()
    shed.server.start()
    wait_for_readings(page, 4)
    expect(page.get_by_text("No connection")).to_have_count(0)
    expect(page.get_by_role("alert")).to_contain_text("rubbish div at 9 was not taken")
    readings = shed.check()["rounds"][-1]["readings"]
    assert [(r["station"], r["text"]) for r in readings] == [
        ("12", "+3"),
        ("3", "+8"),
        ("6", "-2.5"),
        ("12", "+3.5"),
    ]
    # a reload finds the refused one still waiting for an answer
    page.reload()
    expect(page.get_by_role("alert")).to_contain_text("rubbish")
    page.get_by_role("button", name="Drop it").click()
    expect(page.get_by_role("alert")).to_have_count(0)


def test_a_reload_with_readings_under_way_loses_none(shed: Shed) -> None:
    page = shed.page
    begin(page)
    page.get_by_label(re.compile("Reading at 12,")).wait_for()
    page.route("**/readings/**", lambda route: route.abort())
    enter(page, "12", "+3")
    enter(page, "3", "+8")
    expect(page.get_by_text("2 readings are kept on this device")).to_be_visible()
    page.unroute("**/readings/**")
    page.reload()
    wait_for_readings(page, 2)
    assert [r["text"] for r in shed.check()["rounds"][-1]["readings"]] == ["+3", "+8"]


def test_a_page_left_open_does_not_write_over_a_newer_round(shed: Shed) -> None:
    page = shed.page
    begin(page)
    for n, (station, text) in enumerate((("12", "+1"), ("3", "+8"), ("6", "-1"), ("9", "-8")), 1):
        enter(page, station, text)
        wait_for_readings(page, n)
    page.get_by_label(re.compile("Reading at 12,")).wait_for()
    # meanwhile somebody else taps the head and opens the next round
    old = shed.check()["rounds"][-1]
    page.route("**/checks/*", lambda route: route.abort())
    shed.api(
        "POST",
        f"/rounds/{old['id']}/move",
        {
            "id": str(uuid4()),
            "next_round_id": str(uuid4()),
            "said": "shimmed it",
            "made_at": "2026-03-01T19:00:00Z",
        },
    )
    enter(page, "12", "+2")
    page.unroute("**/checks/*")
    expect(page.get_by_role("alert")).to_contain_text("Round 1 is settled")
    page.reload()
    page.get_by_role("button", name="Put it into round 2").click()
    wait_for_readings(page, 1)
    first, second = shed.check()["rounds"]
    assert len(first["readings"]) == 4
    assert [r["text"] for r in second["readings"]] == ["+2"]
