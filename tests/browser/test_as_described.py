"""A figure of the machine that a check goes by is corrected where it is needed, beside its part."""

from __future__ import annotations

import re
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import Shed, open_check
from tests.browser.test_access import violations


def spec(page: Page) -> Any:
    """The machine's description as the record has it."""
    base, _, path = page.url.partition("/checks/")
    check = page.context.request.get(f"{base}/api/v1/checks/{path.split('/')[0]}").json()
    got = page.context.request.get(f"{base}/api/v1/machines/{check['machine_id']}")
    return got.json()["spec"]


@pytest.mark.parametrize("where", ["shed", "phone"])
def test_a_figure_is_corrected_from_the_check_and_what_was_typed_stays(
    where: str, request: pytest.FixtureRequest
) -> None:
    shed: Shed = request.getfixturevalue(where)
    page = shed.page
    page.get_by_role("button", name="Open the demo workshop").click()
    open_check(page, "Dunlin", "Tram", "Tram")
    page.get_by_label("Swing radius").fill("61")
    goes_by = page.get_by_text(re.compile("^What it goes by:"))
    expect(goes_by).to_contain_text("Column on a bolted base")
    goes_by.click()
    drawing = page.get_by_role("img", name=re.compile("^Dunlin: measured"))
    expect(drawing).to_be_visible()
    # the part that is asked about stands out of the others
    assert drawing.locator("[data-lit=true]").count() >= 1
    assert drawing.locator("[data-lit=false]").count() >= 3
    width = page.get_by_label("Foot of the column, left to right")
    before = spec(page)["base"]["width_mm"]
    # its bolts would stand beyond it: refused where it is typed, nothing kept
    width.fill("25")
    page.get_by_role("button", name="Correct the description").click()
    alerts = page.locator(".MuiFormHelperText-root.Mui-error, [role=alert]")
    expect(alerts.first).to_be_visible()
    assert spec(page)["base"]["width_mm"] == before
    width.fill("133")
    page.get_by_role("button", name="Correct the description").click()
    expect(page.get_by_text("Corrected; figures and advice go by it now.")).to_be_visible()
    assert spec(page)["base"]["width_mm"] == 133
    # thought better of: what was kept a moment ago is what it is corrected from
    width.fill("141")
    with page.expect_response(lambda r: r.request.method == "PUT") as kept:
        page.get_by_role("button", name="Correct the description").click()
    assert kept.value.status == 200, kept.value.text()
    assert spec(page)["base"]["width_mm"] == 141
    expect(page.get_by_label("Swing radius")).to_have_value(re.compile("^61"))
    assert violations(page) == []


def test_what_is_not_in_the_kit_yet_is_put_there_from_the_check(shed: Shed) -> None:
    """A holder for a tool's runout: added, named in the set-up, and what was typed stays."""
    page = shed.page
    page.get_by_role("button", name="Open the demo workshop").click()
    open_check(page, "Avocet", "Tooling", "Tool runout")
    heights = page.get_by_label(re.compile("^Heights"))
    heights.fill("33, 61")
    page.get_by_text("Something that lies here is not in the kit yet").click()
    page.get_by_role("button", name="Add: holder", exact=True).click()
    form = page.locator("form").filter(has=page.get_by_role("button", name="Add it"))
    form.get_by_label("Name").fill("Tern’s chuck")
    form.get_by_role("button", name="Add it").click()
    expect(form).to_have_count(0)
    page.get_by_label("Holder", exact=True).click()
    page.get_by_role("option", name="Tern’s chuck").click()
    expect(heights).to_have_value(re.compile("^33.*61"))
    assert violations(page) == []


def test_only_a_check_that_reckons_with_a_part_offers_it(shed: Shed) -> None:
    page = shed.page
    page.get_by_role("button", name="Open the demo workshop").click()
    open_check(page, "Avocet", "Slides", "Slide play")
    page.get_by_text(re.compile("^What it goes by: Slides")).click()
    expect(page.get_by_role("button", name="Correct the description")).to_be_visible()
    # a check that reckons with no part says nothing of the kind
    page.go_back()
    open_check(page, "Avocet", "Spindle", "Spindle runout")
    expect(page.get_by_text("What it goes by")).to_have_count(0)
