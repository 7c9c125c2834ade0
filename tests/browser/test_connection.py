"""Not a reading is lost: to a cut connection, to a restart, to a newer round."""

from __future__ import annotations

import re
from uuid import uuid4

from playwright.sync_api import Page, Route, expect

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
    page.get_by_role("button", name="Put it aside").click()
    expect(page.get_by_role("alert")).to_have_count(0)
    # out of the way, and not lost
    page.get_by_role("button", name=re.compile("Visitor|Merrin")).click()
    page.get_by_role("menuitem", name="1 reading kept here").click()
    kept = page.get_by_role("dialog")
    expect(kept).to_contain_text("Put aside. Not taken")
    kept.get_by_role("button", name="Drop it").click()
    expect(kept).to_contain_text("Every reading is in the record")


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


def account(shed: Shed, name: str) -> str:
    """Somebody new, signed in on this device; their email."""
    page = shed.page
    email = f"{name}-{uuid4().hex[:8]}@example.org"
    page.get_by_role("button", name="I am new here").click()
    page.get_by_label("Name").fill(name)
    page.get_by_label("Email").fill(email)
    page.get_by_label("Password").fill(SECRET)
    page.get_by_role("button", name="Make the account").click()
    page.get_by_role("button", name=name).wait_for()
    return email


SECRET = "a long enough secret, 1"


def sign_in(page: Page, email: str) -> None:
    page.get_by_label("Email").fill(email)
    page.get_by_label("Password").fill(SECRET)
    page.get_by_role("button", name="Sign in").click()


def a_tram(shed: Shed) -> None:
    """A round of a tram, set up on a mill of one's own."""
    shed.page.goto(shed.server.url)
    shed.page.wait_for_url("**/w/*")
    at = shed.page.url.rpartition("/")[2]
    forms = shed.api("GET", "/machine-forms")["starts"]
    mill = next(s for s in forms if s["form"] == "micro_mill")["spec"]
    machine, check, round_id = str(uuid4()), str(uuid4()), str(uuid4())
    shed.api("POST", f"/workshops/{at}/machines", {"id": machine, "name": "Teal", "spec": mill})
    dial = {"type": "plunger_dial", "graduation_mm": "0.01 mm", "range_mm": "10 mm"}
    kit = shed.api("POST", f"/workshops/{at}/instruments", {"name": "Plunger", "spec": dial})
    shed.api(
        "POST",
        f"/machines/{machine}/checks",
        {"id": check, "round_id": round_id, "kind": "spindle_tram"},
    )
    shed.page.goto(f"{shed.server.url}/checks/{check}")
    page = shed.page
    page.get_by_label("Swing radius").fill("70")
    page.get_by_label("The machine is isolated").check()
    page.get_by_role("button", name="Start reading").click()
    assert kit["name"] == "Plunger"


def test_a_session_that_ends_in_mid_round_keeps_what_is_typed(shed: Shed) -> None:
    page = shed.page
    email = account(shed, "Wenna")
    a_tram(shed)
    enter(page, "12", "+1")
    wait_for_readings(page, 1)
    # the session runs out, as after a month or a changed password; that the reading is what is
    # refused first, and nothing that the screen asks for by itself, is not left to chance
    asked = re.compile(r"/api/v1/(?!auth/)")
    page.route(asked, lambda r: r.continue_() if r.request.method == "PUT" else r.abort())
    shed.context.clear_cookies(name="sessionid")
    enter(page, "3", "+2")
    ended = page.get_by_role("dialog", name="Your session has ended")
    expect(ended).to_contain_text("1 reading on this device will be sent then")
    page.unroute(asked)
    expect(ended.get_by_label("Email")).to_have_value(email.lower())
    ended.get_by_label("Password").fill("not this one")
    ended.get_by_role("button", name="Sign in").click()
    expect(ended.get_by_text("do not belong together")).to_be_visible()
    ended.get_by_label("Password").fill(SECRET)
    ended.get_by_role("button", name="Sign in").click()
    expect(ended).to_have_count(0)
    wait_for_readings(page, 2)
    # the screen is where it was; what had only been typed when it ends again still stands there
    field = page.get_by_label(re.compile("Reading at 6,"))
    field.wait_for()
    shed.context.clear_cookies(name="sessionid")
    field.fill("-1")
    expect(ended).to_contain_text("What you typed is still on this screen.")
    ended.get_by_label("Password").fill(SECRET)
    ended.get_by_role("button", name="Sign in").click()
    expect(ended).to_have_count(0)
    expect(field).to_have_value("-1")
    field.press("Enter")
    wait_for_readings(page, 3)
    texts = [r["text"] for r in shed.check()["rounds"][-1]["readings"]]
    assert texts == ["+1", "+2", "-1"]


def test_what_waits_is_sent_for_nobody_else(shed: Shed) -> None:
    page = shed.page
    first = account(shed, "Jory")
    a_tram(shed)
    field = page.get_by_label(re.compile("Reading at 12,"))
    field.wait_for()
    page.route("**/readings/**", lambda route: route.abort())
    enter(page, "12", "+1")
    expect(page.get_by_text("1 reading is kept on this device")).to_be_visible()
    check = page.url
    # signing out says what still waits, and hands it over
    page.get_by_role("button", name="Jory").click()
    page.get_by_role("menuitem", name="Sign out").click()
    kept = page.get_by_role("dialog")
    expect(kept).to_contain_text("1 reading on this device, not in the record yet")
    expect(kept).to_contain_text("Teal, Tram, round 1")
    with page.expect_download() as saved:
        kept.get_by_role("button", name="Save them as a file").click()
    assert '"Teal","Tram","1","12","+1 mm"' in saved.value.path().read_text()
    kept.get_by_role("button", name="Sign out").click()
    page.unroute("**/readings/**")
    # the next one at the same device neither sees nor sends it
    account(shed, "Merrin")
    page.wait_for_timeout(3000)
    expect(page.get_by_text("kept on this device")).to_have_count(0)
    page.get_by_role("button", name="Merrin").click()
    expect(page.get_by_role("menuitem", name="kept here")).to_have_count(0)
    page.get_by_role("menuitem", name="Sign out").click()
    sign_in(page, first)
    page.get_by_role("button", name="Jory").wait_for()
    page.goto(check)
    wait_for_readings(page, 1)


def test_a_reading_that_the_server_fails_on_steps_aside(shed: Shed) -> None:
    page = shed.page
    begin(page)
    page.get_by_label(re.compile("Reading at 12,")).wait_for()

    def fail(route: Route) -> None:
        if '"+3"' in (route.request.post_data or ""):
            route.fulfill(status=500, json={"title": "x", "status": 500, "detail": "It broke."})
        else:
            route.continue_()

    page.route("**/readings/**", fail)
    enter(page, "12", "+3")
    enter(page, "3", "+8")
    wait_for_readings(page, 1)
    stray = page.get_by_role("alert")
    expect(stray).to_contain_text("+3 div at 12 was not taken: The server failed on it 3 times")
    # elsewhere it is told of as well
    page.get_by_role("link", name="Workshop", exact=True).click()
    page.get_by_text("1 reading was not taken").wait_for()
    page.get_by_role("button", name="Look at it").click()
    page.get_by_role("dialog").get_by_role("link", name="Dunlin, Tram, round").click()
    stray.get_by_role("button", name="Correct it").click()
    stray.get_by_label("Reading, in div").fill("+4")
    stray.get_by_role("button", name="Send it so").click()
    wait_for_readings(page, 2)
    expect(page.get_by_role("alert")).to_have_count(0)
    kept = shed.check()["rounds"][-1]["readings"]
    assert sorted((r["station"], r["text"]) for r in kept) == [("12", "+4"), ("3", "+8")]


def test_keys_typed_while_a_reading_is_saved_are_not_lost(shed: Shed) -> None:
    """Digits and Enter without any pause, on a server that takes its time."""
    page = shed.page
    begin(page)
    field = page.get_by_label(re.compile("Reading at"))
    field.wait_for()

    def slowly(route: Route) -> None:
        page.wait_for_timeout(150)
        route.continue_()

    page.route("**/preview", slowly)
    field.focus()
    for text in ("+3", "+8", "-2", "-7"):
        page.keyboard.type(text)
        page.keyboard.press("Enter")
    wait_for_readings(page, 4)
    kept = shed.check()["rounds"][-1]["readings"]
    assert [(r["station"], r["text"]) for r in kept] == [
        ("12", "+3"),
        ("3", "+8"),
        ("6", "-2"),
        ("9", "-7"),
    ]
