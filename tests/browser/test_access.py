"""An accessibility scan of each screen, in both themes; and the form that describes a machine."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.browser.conftest import ROOT, Shed, open_check

AXE = (Path(ROOT) / "web/node_modules/axe-core/axe.min.js").read_text("utf-8")
_PAPER = "getComputedStyle(document.body).backgroundColor.match(/\\d+/g)[0]"
IS = {"light": f"() => {_PAPER} > 128", "dark": f"() => {_PAPER} < 128"}
PASSWORD = "tide-clock-and-orrery"


def violations(page: Page) -> list[str]:
    """What is wrong with the page by day, and what its colours do by night."""
    if not page.evaluate("'axe' in window"):
        page.evaluate(AXE)
    found = []
    colours = "runOnly: ['color-contrast', 'link-in-text-block'],"
    for theme, rules in (("light", ""), ("dark", colours)):
        page.emulate_media(color_scheme=theme)  # type: ignore[arg-type]
        page.wait_for_function(IS[theme])
        told = page.evaluate(f"axe.run(document, {{ {rules} resultTypes: ['violations'] }})")
        found += [
            f"{theme}, {v['id']}: {v['nodes'][0]['target']} {v['nodes'][0]['failureSummary']}"
            for v in told["violations"]
        ]
    page.emulate_media(color_scheme="light")
    return found


def nowhere(page: Page) -> None:
    pass


def settle(page: Page) -> None:
    open_check(page, "Avocet", "Tram", "Tram")
    page.get_by_label("What to do").wait_for()


def set_up(page: Page) -> None:
    open_check(page, "Dunlin", "Tram", "Tram")
    page.get_by_label("Swing radius").wait_for()


def read(page: Page) -> None:
    set_up(page)
    page.get_by_label("Swing radius").fill("70")
    page.get_by_label("The machine is isolated").check()
    page.get_by_role("button", name="Start reading").click()
    page.get_by_role("button", name="Ask the simulated dial").click()
    page.get_by_text("1 reading kept").wait_for()


def machine(page: Page) -> None:
    page.get_by_role("link", name="Avocet", exact=True).click()
    page.get_by_role("heading", name="Next step, and why").wait_for()


def describe(page: Page) -> None:
    machine(page)
    page.get_by_role("link", name="Describe it").click()
    page.get_by_role("button", name="Keep the changes").wait_for()


def evening(page: Page) -> None:
    machine(page)
    page.get_by_role("link", name="Plan an evening").click()
    page.get_by_role("button", name="Start the evening").click()
    page.get_by_role("button", name="Stop for tonight").wait_for()


def stage(page: Page) -> None:
    machine(page)
    page.get_by_role("link", name="Slides").click()
    page.get_by_role("heading", name="Slides", exact=True).wait_for()


def happened(page: Page) -> None:
    machine(page)
    page.get_by_role("button", name="Something happened").click()
    page.get_by_role("menuitem", name="A part was replaced").click()
    page.get_by_role("button", name="Log it").wait_for()


def logbook(page: Page) -> None:
    page.get_by_role("link", name="Logbook").click()
    page.get_by_role("article").first.wait_for()


def kit(page: Page) -> None:
    page.get_by_role("link", name="Kit").click()
    page.get_by_role("button", name="Add: digital indicator").click()
    page.get_by_label("Last digit").wait_for()


def symptoms(page: Page) -> None:
    page.get_by_role("link", name="What brings you here?").click()
    page.get_by_role("button", name="Walls that lean").wait_for()


def search(page: Page) -> None:
    symptoms(page)
    page.get_by_role("button", name="Walls that lean").click()
    page.get_by_role("link", name="Dunlin", exact=True).click()
    page.get_by_role("heading", name="What can be behind it").wait_for()


def jobs(page: Page) -> None:
    page.get_by_role("link", name="Jobs").click()
    page.get_by_role("heading", name="Good enough for what you make").wait_for()


def job(page: Page) -> None:
    jobs(page)
    page.get_by_role("link", name="Clock plate", exact=True).click()
    page.get_by_role("heading", name="What each feature comes to").wait_for()


def new_job(page: Page) -> None:
    jobs(page)
    page.get_by_role("link", name="Describe a job").click()
    page.get_by_role("heading", name="What do you make?").wait_for()


def bed(page: Page) -> None:
    page.get_by_role("link", name="Curlew", exact=True).click()
    page.get_by_role("link", name="Bed & surfacing").click()
    page.get_by_role("heading", name=re.compile("bed|board|surfac", re.I), level=1).wait_for()


def menu(item: str) -> Callable[[Page], None]:
    def go(page: Page) -> None:
        page.get_by_role("button", name="Visitor").click()
        page.get_by_role("menuitem", name=item).click()
        page.get_by_role("heading", level=1).wait_for()

    return go


def test_no_screen_has_a_violation(shed: Shed) -> None:
    page = shed.page
    assert violations(page) == []
    page.get_by_role("button", name="Open the demo workshop").click()
    page.get_by_role("heading", name="How the machines stand").wait_for()
    screens = [
        nowhere,
        machine,
        describe,
        settle,
        set_up,
        read,
        evening,
        stage,
        happened,
        logbook,
        kit,
        symptoms,
        search,
        jobs,
        job,
        new_job,
        bed,
        menu("Members"),
        menu("Account"),
    ]
    for go in screens:
        page.get_by_role("link", name="Workshop", exact=True).click()
        page.get_by_role("heading", name="How the machines stand").wait_for()
        go(page)
        assert violations(page) == [], go
    # the theme was that of the device; once somebody has chosen one, it stays
    page.get_by_role("button", name="Visitor").click()
    page.get_by_role("menuitem", name="Night theme").click()
    page.emulate_media(color_scheme="light")
    page.reload()
    page.get_by_role("heading", level=1).wait_for()
    page.wait_for_function(IS["dark"])


def test_a_new_account_describes_its_machine_and_measures_it(shed: Shed) -> None:
    page = shed.page
    page.get_by_role("button", name="I am new here").click()
    page.get_by_label("Name").fill("Wren")
    page.get_by_label("Email").fill("wren@example.org")
    page.get_by_label("Password").fill("short")
    page.get_by_role("button", name="Make the account").click()
    expect(page.get_by_text("too short")).to_be_visible()
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Make the account").click()
    page.get_by_role("button", name="Column mill", exact=True).click()
    page.get_by_label("Name").fill("Grebe")
    width = page.get_by_label("Table or bed, left to right")
    width.fill("-2 in")
    page.get_by_role("button", name="Add it").click()
    expect(page.locator("[id$=table_x_mm-helper-text]:visible")).to_have_text(
        re.compile("at least 40")
    )
    width.fill("18 in")
    page.get_by_role("button", name="Add it").click()
    page.get_by_role("heading", name="Grebe").wait_for()
    page.get_by_role("link", name="Workshop", exact=True).click()
    open_check(page, "Grebe", "Tram", "Tram")
    # no instrument yet: the screen says so and where to add one
    page.get_by_role("link", name="Another, under Kit").click()
    page.get_by_role("button", name="Add: dial indicator, plunger").click()
    page.get_by_label("Name").fill("My dial")
    page.get_by_label("One division").fill("1/2 thou")
    page.get_by_role("button", name="Add it").click()
    expect(page.get_by_text("My dial")).to_be_visible()
    page.go_back()
    expect(page.get_by_text("Reads 0.006")).to_be_visible()
    page.get_by_role("button", name="Wren").click()
    page.get_by_role("menuitem", name="Sign out").click()
    page.get_by_label("Email").fill("wren@example.org")
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("link", name="Grebe")).to_be_visible()
    # and it goes, when it is asked to by who knows its password
    page.get_by_role("button", name="Wren").click()
    page.get_by_role("menuitem", name="Account").click()
    page.get_by_role("button", name="Remove it", exact=True).click()
    word = page.get_by_label("Your password, to remove the account")
    word.fill("not this one")
    page.get_by_role("button", name="Remove it for good").click()
    expect(page.get_by_text("That is not your present password.")).to_be_visible()
    word.fill(PASSWORD)
    page.get_by_role("button", name="Remove it for good").click()
    expect(page.get_by_role("button", name="I am new here")).to_be_visible()
    page.get_by_label("Email").fill("wren@example.org")
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_text("do not belong together")).to_be_visible()
