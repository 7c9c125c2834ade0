"""From nothing to a first verdict by way of a plan; what an event undoes; photos and kit."""

from __future__ import annotations

import re

from playwright.sync_api import Page, Route, expect

from tests.api.conftest import a_photo
from tests.browser.conftest import Shed, open_check, wait_for_readings
from tests.browser.test_access import violations


def describe(page: Page, name: str) -> None:
    page.get_by_role("link", name="Add a machine").click()
    page.get_by_role("button", name="Knee mill").click()
    page.get_by_label("Name").fill(name)


def read_tram(page: Page, values: tuple[str, ...]) -> None:
    page.get_by_label("The machine is isolated").check()
    page.get_by_role("button", name="Start reading").click()
    for n, text in enumerate(values * 2, 1):
        field = page.get_by_label(re.compile("Reading at"))
        field.fill(text)
        field.press("Enter")
        wait_for_readings(page, n)


def test_a_new_machine_its_plan_its_first_check_and_what_an_event_undoes(shed: Shed) -> None:
    page = shed.page
    page.get_by_role("button", name="Open the demo workshop").click()
    describe(page, "Whimbrel")
    drawing = page.get_by_role("img", name=re.compile("Whimbrel"))
    before = drawing.inner_html()
    page.get_by_label("Table or bed, left to right").fill("1400")
    expect(drawing).not_to_have_js_property("innerHTML", before)
    page.get_by_label("Table or bed, left to right").fill("-3")
    expect(page.get_by_text("at least 40 mm").first).to_be_visible()
    page.get_by_label("Table or bed, left to right").fill("900")
    page.get_by_role("button", name="Add it").click()
    expect(page.get_by_role("heading", name="Whimbrel")).to_be_visible()
    expect(page.get_by_text("Nothing has been moved yet")).to_be_visible()
    expect(page.get_by_text("On this machine left–right is X")).to_be_visible()
    page.get_by_role("link", name="Plan an evening").click()
    page.get_by_role("textbox", name="Minutes").fill("12")
    expect(page.get_by_text("Nothing fits into 12 minutes")).to_be_visible()
    page.get_by_role("button", name="90 min").click()
    page.get_by_role("button", name="Start the evening").click()
    page.get_by_label("a lamp and a rag").check()
    page.get_by_role("button", name="Measure").first.click()
    walk_round(page)
    expect(page.get_by_role("status", name="Finding")).to_contain_text("Nothing is open")
    page.get_by_role("button", name="Enter it in the logbook").click()
    page.get_by_role("link", name="Whimbrel", exact=True).click()
    page.get_by_role("link", name="Go on with the evening").click()
    expect(page.get_by_text("Inspection, read tonight")).to_be_visible()
    page.get_by_role("button", name="It is done with").click()
    expect(page.get_by_role("heading", name="Plan an evening")).to_be_visible()
    page.get_by_role("link", name="Workshop").click()
    open_check(page, "Whimbrel", "Tram", "Tram")
    page.get_by_label("Swing radius").fill("100")
    expect(page.get_by_text("The finest you have for this")).to_be_visible()
    read_tram(page, ("0 div", "1 div", "0 div", "-1 div"))
    expect(page.get_by_role("status", name="Finding")).to_contain_text("True")
    page.get_by_role("button", name="Enter it in the logbook").click()
    page.get_by_role("link", name="Whimbrel", exact=True).click()
    page.get_by_role("button", name="Something happened").click()
    page.get_by_role("menuitem", name="It was moved").click()
    expect(page.get_by_text("Logged: it was moved")).to_be_visible()
    expect(
        page.get_by_text(re.compile("It was moved on .*, after this was read")).first
    ).to_be_visible()
    knot = page.get_by_role("navigation", name="Stages of the work").get_by_role("listitem")
    expect(knot.filter(has_text="Tram")).to_contain_text("Stale")
    expect(knot.filter(has_text="As found")).to_contain_text("True")
    page.get_by_role("link", name="Its logbook").click()
    page.get_by_role("button", name="Take back: It was moved").click()
    expect(page.get_by_role("button", name="Put it back: It was moved")).to_be_visible()
    page.get_by_role("link", name=re.compile("Whimbrel")).first.click()
    page.get_by_role("link", name="Whimbrel", exact=True).click()
    expect(knot.filter(has_text="Tram")).to_contain_text("True")


def walk_round(page: Page) -> None:
    """Every answer of the inspection by its first key, and the travels typed."""
    page.get_by_label("The machine is isolated").check()
    page.get_by_role("button", name="Start reading").click()
    n = 0
    while True:
        answer = page.get_by_role("group", name=re.compile("^Answer for"))
        field = page.get_by_label(re.compile("^Reading at travel"))
        expect(answer.or_(field).or_(page.get_by_role("status", name="Finding"))).to_be_visible()
        if answer.count():
            label = answer.get_attribute("aria-label")
            page.keyboard.press("1")
            expect(page.get_by_role("group", name=label, exact=True)).to_have_count(0)
        elif field.count():
            label = field.get_attribute("aria-label")
            field.fill("300 mm")
            field.press("Enter")
            expect(page.get_by_label(str(label), exact=True)).to_have_count(0)
        else:
            break
        n += 1
        wait_for_readings(page, n)
    assert n > 12


def test_leaving_accepting_photos_and_a_step_that_cannot_be_undone(shed: Shed) -> None:
    page = shed.page
    page.get_by_role("button", name="Open the demo workshop").click()
    page.get_by_role("link", name="Avocet", exact=True).click()
    picker = page.get_by_label("Photo for the record: pick a picture")
    picker.set_input_files({"name": "x.jpg", "mimeType": "image/jpeg", "buffer": b"no picture"})
    expect(page.get_by_role("alert")).to_contain_text("not a picture")
    picker.set_input_files({"name": "x.jpg", "mimeType": "image/jpeg", "buffer": a_photo()})
    small = page.get_by_role("button", name=re.compile("show it large"))
    expect(small).to_be_visible()
    small.click()
    large = page.get_by_role("dialog").get_by_role("img")
    expect(large).to_have_js_property("naturalWidth", 640)
    page.get_by_role("button", name="Close").click()
    page.locator("summary", has_text="Tram").click()
    tram = page.get_by_text("Does the spindle stand square to the table?").locator("../..")
    late: list[Route] = []
    page.route("**/machines/*/jobs/spindle_tram", lambda r: late.append(r))  # noqa: PLW0108 (no built-in is taken)
    with page.expect_request("**/jobs/spindle_tram"):
        tram.get_by_role("button", name="Leave it").click()
    leave = page.get_by_role("button", name="Leave it as it is")
    there = leave.bounding_box()
    late[0].continue_()
    expect(page.get_by_role("region", name="Left as it is, on what you make")).to_be_visible()
    assert leave.bounding_box() == there, "what comes late moves what a finger is about to press"
    leave.click()
    expect(
        page.get_by_text("A decision needs its reason. Say why it may stay.", exact=True)
    ).to_be_visible()
    page.get_by_label("Why it may stay").fill("Only slots are cut here")
    page.get_by_role("button", name="Leave it as it is").click()
    expect(page.get_by_text("Only slots are cut here").first).to_be_visible()
    page.get_by_role("button", name="Accept it with open items").click()
    page.get_by_label("For what work").fill("slots in brass")
    page.get_by_role("button", name="Accept it", exact=True).click()
    expect(page.get_by_text("Accepted, provisionally")).to_be_visible()
    far = page.get_by_text("more, not near yet")
    if far.count():
        far.click()
    # the innermost of the folds that hold it
    shims = page.get_by_role("group").filter(has_text="Take old shims out").last
    shims.locator("summary").click()
    shims.get_by_role("button", name="It is done, all the same").click()
    expect(shims).to_contain_text("Keep a photo or a note first")
    shims.get_by_label("Or a note").fill("0.05 under both right pads")
    shims.get_by_role("button", name="It is done, all the same").click()
    expect(page.get_by_text("0.05 under both right pads").first).to_be_visible()
    expect(page.get_by_text("wants accepting anew")).to_be_visible()


def test_putting_away_a_machine_and_an_instrument_and_the_calendar(shed: Shed) -> None:
    page = shed.page
    page.get_by_role("button", name="Open the demo workshop").click()
    page.get_by_role("button", name="Put these dates into a calendar").click()
    address = page.get_by_label("Address for your calendar")
    got = page.request.get(address.input_value())
    assert "SUMMARY:Curlew: tram" in got.text()
    page.get_by_role("link", name="Dunlin", exact=True).click()
    page.get_by_role("link", name="Describe it").click()
    page.get_by_role("button", name="Put Dunlin away").click()
    page.get_by_role("heading", name="How the machines stand").wait_for()
    expect(page.get_by_role("region", name="Dunlin")).to_have_count(0)
    page.get_by_role("link", name="Dunlin", exact=True).click()
    page.get_by_role("link", name="Describe it").click()
    page.get_by_role("button", name="Take Dunlin out again").click()
    page.get_by_role("heading", name="Next step, and why").wait_for()
    page.get_by_role("link", name="Workshop", exact=True).click()
    expect(page.get_by_role("region", name="Dunlin")).to_be_visible()
    page.get_by_role("link", name="Kit").click()
    page.get_by_role("button", name="Put away: Digital 0.001").click()
    expect(page.get_by_text("Digital indicator, put away")).to_be_visible()
    page.get_by_role("button", name="Add: collet").click()
    page.get_by_label("Name").fill("8 mm collet")
    page.get_by_label("Nominal bore").fill("5/16 in")
    page.get_by_role("button", name="Add it").click()
    expect(page.get_by_text("7.9375 mm")).to_be_visible()


def test_on_a_phone_the_plumb_line_leads_to_every_stage(phone: Shed) -> None:
    page = phone.page
    page.get_by_role("button", name="Open the demo workshop").click()
    page.get_by_role("link", name="Avocet", exact=True).click()
    page.get_by_role("link", name="Drive").click()
    expect(page.get_by_role("heading", name="Drive", exact=True)).to_be_visible()
    expect(page.get_by_text("How far does the handwheel or motor turn")).to_be_visible()
    page.get_by_role("link", name="Proof").click()
    # every kind of the course can be measured, the last of them as well
    for title in ("Ridges", "Test cut"):
        section = page.locator("section").filter(
            has=page.get_by_role("heading", name=title, exact=True)
        )
        expect(section.get_by_role("button", name="Measure")).to_be_visible()
    page.get_by_role("link", name="Rails").click()
    expect(page.get_by_text("it has none of the parts")).to_be_visible()


def test_one_press_logs_what_happens_often_and_one_more_takes_it_back(phone: Shed) -> None:
    page = phone.page
    page.get_by_role("button", name="Open the demo workshop").click()
    page.get_by_role("link", name="Avocet", exact=True).click()
    often = page.get_by_role("group", name="Logged with one press")
    often.get_by_role("button", name="Cutter changed").click()
    expect(page.get_by_text("Logged: cutter changed.")).to_be_visible()
    stage = page.get_by_role("navigation", name="Stages of the work").get_by_role("listitem")
    tooling = stage.filter(has_text="Tooling")
    expect(tooling).to_contain_text("Stale")
    page.get_by_role("button", name="Take back: Cutter changed").click()
    expect(tooling).to_contain_text("True")
    often.get_by_role("button", name="Head tilted").click()
    expect(often.get_by_role("button", name="Head back to square")).to_be_visible()


def test_what_is_missed_goes_on_the_list_and_from_there_into_the_kit(shed: Shed) -> None:
    page = shed.page
    page.get_by_role("button", name="Open the demo workshop").click()
    page.get_by_role("button", name=re.compile("^Go on: lost motion")).click()
    page.get_by_role("button", name="Put it on the list to buy").click()
    expect(page.get_by_text("On the list.")).to_be_visible()
    page.get_by_role("link", name="To buy").click()
    wanted = page.get_by_role("region", name="To buy")
    row = wanted.get_by_role("listitem").filter(has_text="A finer instrument")
    expect(row).to_contain_text("For Avocet.")
    assert violations(page) == []
    wanted.get_by_label("Something else").fill("A jar of layout blue")
    wanted.get_by_role("button", name="Put it down").click()
    blue = wanted.get_by_role("checkbox", name="A jar of layout blue")
    blue.click()
    expect(blue).to_be_checked()
    expect(wanted.get_by_text("Add it to the kit on this page")).to_be_visible()
    wanted.get_by_role("button", name="Take off the list: A jar of layout blue").click()
    expect(blue).to_have_count(0)
    # an instrument that is ticked off is pressed into the kit
    row.get_by_role("checkbox").click()
    expect(row).to_contain_text("Into the kit with it")
