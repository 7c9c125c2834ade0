"""What is entered is kept, whatever becomes of server and page: none lost, none twice."""

from __future__ import annotations

import re
import time

import pytest
from playwright.sync_api import Page, Route, expect

from tests.browser.conftest import Shed, wait_for_readings
from tests.browser.test_connection import begin

TYPED = ("+3", "+8", "-2", "-7")
READ = list(zip(("12", "3", "6", "9"), TYPED, strict=True))


def type_all(page: Page, texts: tuple[str, ...] = TYPED) -> None:
    """Digits and Enter without any pause."""
    field = page.get_by_label(re.compile("Reading at"))
    field.wait_for()
    field.focus()
    for text in texts:
        page.keyboard.type(text)
        page.keyboard.press("Enter")


def recorded(shed: Shed) -> list[tuple[str, str]]:
    return [(r["station"], r["text"]) for r in shed.check()["rounds"][-1]["readings"]]


def test_a_server_that_never_answers_loses_nothing(shed: Shed) -> None:
    """Neither how it is understood nor that it is kept is ever answered; then the page is gone."""
    page = shed.page
    begin(page)
    page.route(re.compile("/(preview|readings)"), lambda _: None)
    type_all(page)
    # each has gone to its own station meanwhile
    expect(page.get_by_text("4 kept here, not sent yet.")).to_be_visible()
    # in 3 s nothing waits for an understanding, in 4 more the server is called slow
    expect(page.get_by_text("The server is slow.")).to_be_visible(timeout=15_000)
    expect(page.get_by_text("4 readings are kept on this device: read on.")).to_be_visible()
    page.unroute_all(behavior="ignoreErrors")
    page.reload()
    wait_for_readings(page, 4)
    assert recorded(shed) == READ


def test_an_answer_that_is_lost_on_its_way_is_asked_for_again(shed: Shed) -> None:
    """The server has kept each, and dies before it says so; understandings come late."""
    page = shed.page
    begin(page)
    lost: list[str] = []

    def kept_unsaid(route: Route) -> None:
        if route.request.post_data and route.request.url not in lost:
            lost.append(route.request.url)
            route.fetch()
            route.abort()
        else:
            route.continue_()

    def late(route: Route) -> None:
        page.wait_for_timeout(300)
        route.continue_()

    page.route("**/readings/**", kept_unsaid)
    page.route("**/preview", late)
    type_all(page)
    wait_for_readings(page, 4)
    assert recorded(shed) == READ
    assert len(lost) == 4


def test_a_server_that_answers_after_half_a_minute_is_waited_for(shed: Shed) -> None:
    """Whatever it is asked it holds for thirty seconds; reading goes on meanwhile."""
    page = shed.page
    page.clock.install()
    begin(page)
    held: list[Route] = []

    def hold(route: Route) -> None:
        if over:
            route.continue_()
        else:
            held.append(route)

    over = False
    page.route(re.compile("/(preview|readings)"), hold)
    type_all(page)
    expect(page.get_by_text("4 kept here, not sent yet.")).to_be_visible()
    page.clock.fast_forward(5_000)
    expect(page.get_by_text("4 readings are kept on this device: read on.")).to_be_visible()
    page.clock.fast_forward(25_000)
    expect(page.get_by_text("4 kept here, not sent yet.")).to_be_visible()
    assert any("/readings/" in route.request.url for route in held)
    over = True
    for route in held:
        route.continue_()
    wait_for_readings(page, 4)
    assert recorded(shed) == READ
    expect(page.get_by_text("The server is slow.")).to_have_count(0)


@pytest.mark.parametrize("after_ms", [0, 15, 60, 150, 300, 500])
def test_a_tab_that_is_closed_after_enter_loses_nothing(shed: Shed, after_ms: int) -> None:
    page = shed.page
    begin(page)
    at = page.url
    page.get_by_label(re.compile("Reading at")).wait_for()
    type_all(page, TYPED[:3])
    time.sleep(after_ms / 1000)
    page.close()
    again = shed.context.new_page()
    again.goto(at)
    wait_for_readings(again, 3)
    assert recorded(shed) == READ[:3]


def test_what_was_kept_without_being_asked_judges_nothing_before_it_is_answered(
    shed: Shed,
) -> None:
    """Unsigned, more than a quarter turn: the needle may have gone the other way."""
    page = shed.page
    begin(page)
    page.route("**/preview", lambda route: route.abort())
    type_all(page, ("+3", "95", "-2", "-7"))
    wait_for_readings(page, 4)
    asked = page.get_by_role("alert").filter(has_text="is kept, and not judged yet")
    expect(asked).to_contain_text("95 div at 3")
    last = shed.check()["rounds"][-1]
    assert last["brief"]["verdict"] is None
    page.unroute("**/preview")
    asked.get_by_role("button", name="Keep").click()
    expect(asked).to_have_count(0)
    wait_for_readings(page, 4)
    expect(page.get_by_role("status", name=re.compile("So far|Finding")).first).to_be_visible()
    assert shed.check()["rounds"][-1]["brief"]["verdict"]
