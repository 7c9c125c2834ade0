"""Jobs in the browser: described on a phone, limits applied, what came out compared."""

from __future__ import annotations

import json
import re
from pathlib import Path

from playwright.sync_api import Locator, Page, expect

from tests.browser.conftest import Shed, wait_for_readings


def jobs(page: Page) -> Locator:
    line = page.get_by_role("navigation", name="Workshop")
    return line.get_by_role("link", name="Jobs")


def to_jobs(page: Page) -> None:
    page.get_by_role("button", name="Open the demo workshop").click()
    jobs(page).click()
    page.get_by_role("heading", name="Good enough for what you make").wait_for()


def choose(page: Page, field: str, option: str) -> None:
    page.get_by_role("combobox", name=field).click()
    page.get_by_role("option", name=option).click()


def test_a_job_from_nothing_on_a_phone_and_the_evening_that_it_needs(phone: Shed) -> None:
    page = phone.page
    to_jobs(page)
    page.get_by_role("link", name="Describe a job").tap()
    page.get_by_role("button", name="An empty one").tap()
    page.get_by_label("Job", exact=True).fill("Side frame")
    page.get_by_label("Dunlin").check()
    # picked from the drawn part itself
    page.get_by_role("button", name="Add: Wall or edge").tap(position={"x": 60, "y": 30})
    expect(page.get_by_text("one tolerance at least").first).to_be_visible()
    page.get_by_label("Depth", exact=True).fill("10")
    page.get_by_label("Depth of one level").fill("10")
    choose(page, "The part is held", "clamped on the table or bed")
    page.get_by_label("Upright within").fill("0.01")
    said = page.get_by_text(re.compile("Not known yet: Tram"))
    expect(said).to_be_visible()
    # nothing runs over the edge of a phone
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    page.get_by_role("button", name="Keep the job").tap()
    page.get_by_role("heading", name="Side frame").wait_for()
    expect(page.get_by_role("status", name="How it stands")).to_contain_text("Not known")
    expect(page.get_by_text("not measured: its usual limit")).to_be_visible()
    page.get_by_role("link", name="Plan an evening for it").tap()
    expect(page.get_by_role("combobox", name="What it is for")).to_have_text(
        "Good enough for “Side frame”"
    )
    page.get_by_text("One check, about").wait_for()
    page.get_by_role("button", name="Start the evening").tap()
    page.get_by_role("heading", name="The evening").wait_for()
    page.get_by_role("button", name=re.compile("^(Begin|Measure)")).first.tap()
    field = page.get_by_label("Swing radius")
    again = page.get_by_role("button", name="Measure it all the same")
    field.or_(again).first.wait_for()
    if again.count():
        again.tap()
    field.fill("70")
    page.get_by_label("The machine is isolated").check()
    page.get_by_role("button", name="Start reading").tap()
    for n, station in enumerate(("12", "3", "6", "9"), 1):
        reading = page.get_by_label(re.compile(f"Reading at {station},"))
        reading.wait_for()
        reading.fill(phone.dial(station))
        reading.press("Enter")
        wait_for_readings(page, n)
    jobs(page).tap()
    page.get_by_role("link", name="Side frame", exact=True).tap()
    status = page.get_by_role("status", name="How it stands")
    expect(status).not_to_contain_text("Not known")
    expect(status).to_contain_text(re.compile("Fits|Does not fit|Too close"))


def test_limits_for_a_job_are_applied_and_taken_back(shed: Shed) -> None:
    page = shed.page
    to_jobs(page)
    page.get_by_role("link", name="Clock plate", exact=True).click()
    page.get_by_text("Limits that this job needs").click()
    page.get_by_role("button", name="Judge the machine by them").click()
    expect(page.get_by_text("judged by limits for “Clock plate” now")).to_be_visible()
    page.get_by_role("link", name="Workshop", exact=True).click()
    page.get_by_role("link", name="Avocet", exact=True).click()
    judged = page.get_by_text("Judged by the limits for")
    expect(judged).to_be_visible()
    expect(page.get_by_role("link", name="Clock plate").first).to_be_visible()
    page.get_by_role("button", name="Take them back").click()
    expect(judged).to_have_count(0)


def test_what_came_out_points_at_what_was_not_measured(shed: Shed) -> None:
    page = shed.page
    to_jobs(page)
    page.get_by_role("link", name="Clock plate", exact=True).click()
    # what the shed found when it made one
    told = page.get_by_text(re.compile("was not known then"))
    expect(told).to_have_count(1)
    page.get_by_role("button", name="It is being made now").click()
    page.get_by_role("button", name="Enter what came out").click()
    square = page.get_by_label("Pivot holes: square")
    square.fill("a hair")
    page.get_by_role("button", name="Compare").click()
    expect(square).to_have_attribute("aria-invalid", "true")
    square.fill("0,05")
    page.get_by_role("button", name="Compare").click()
    expect(told).to_have_count(2)


def test_a_job_goes_out_as_a_file_and_comes_back(shed: Shed, tmp_path: Path) -> None:
    page = shed.page
    to_jobs(page)
    page.get_by_role("link", name="Bored bracket", exact=True).click()
    with page.expect_download() as got:
        page.get_by_role("link", name="As a file").click()
    spec = json.loads(Path(got.value.path()).read_text())
    assert spec["features"][0]["kind"] == "hole"
    spec["name"], spec["features"][0]["depth_mm"] = "Deep bracket", 0
    bad, fine = tmp_path / "bad.json", tmp_path / "fine.json"
    bad.write_text(json.dumps(spec))
    spec["features"][0]["depth_mm"] = 60
    fine.write_text(json.dumps(spec))
    jobs(page).click()
    page.get_by_label("A job’s file").set_input_files(bad)
    expect(page.get_by_role("alert")).to_contain_text(
        "features.0.depth_mm: It has to be more than 0"
    )
    page.get_by_label("A job’s file").set_input_files(fine)
    expect(page.get_by_role("heading", name="Deep bracket")).to_be_visible()
    # on any machine now, the best first; deeper, the same lean takes it further off
    page.get_by_role("button", name="Dunlin").click()
    expect(page.get_by_role("status", name="How it stands")).to_contain_text("Does not fit")
    # it can be changed, and what is typed stays while the feature is folded
    page.get_by_role("link", name="Change it").click()
    bore = page.get_by_role("button", name=re.compile("the bore"))
    bore.click()
    depth = page.get_by_label("Depth", exact=True)
    expect(depth).to_have_value("60 mm")
    depth.fill("20 mm")
    bore.click()
    expect(depth).to_be_hidden()
    bore.click()
    expect(depth).to_have_value("20 mm")
    depth.fill("")
    page.get_by_role("button", name="Keep the changes").click()
    expect(page.get_by_role("alert").first).to_be_visible()
    depth.fill("0.75 in")
    page.get_by_role("button", name="Keep the changes").click()
    page.get_by_role("heading", name="Deep bracket", exact=True).wait_for()
    listed = shed.api("GET", f"/workshops/{shed.api('GET', '/auth/me')['workshops'][0]['id']}/jobs")
    kept = next(j for j in listed["jobs"] if j["name"] == "Deep bracket")
    spec = shed.api("GET", f"/jobs/{kept['id']}")["spec"]
    assert round(spec["features"][0]["depth_mm"], 6) == 19.05
