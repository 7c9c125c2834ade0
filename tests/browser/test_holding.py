"""A vice tapped true by touch, to its needle target."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import Shed, open_check, wait_for_readings


def along(page: Page, *shown: float) -> None:
    for n, value in enumerate(shown, 1):
        page.get_by_label(re.compile("^Reading at")).fill(f"{value:+g}")
        page.get_by_role("button", name="Enter", exact=True).tap()
        wait_for_readings(page, n)


def test_a_vice_is_tapped_to_its_needle_target_and_its_bolt_is_found(phone: Shed) -> None:
    page = phone.page
    page.get_by_role("button", name="Open the demo workshop").tap()
    open_check(page, "Avocet", "Holding", "Vice and fence")
    expect(page.get_by_role("combobox", name="Whose face")).to_have_text("Vice")
    # picking another brings its own figures along
    page.get_by_role("combobox", name="Whose face").tap()
    page.get_by_role("option", name="X scale").tap()
    expect(page.get_by_label("Length of the face")).to_have_value("320 mm")
    expect(page.get_by_role("combobox", name="It is")).to_have_text("a scale")
    page.get_by_role("combobox", name="Whose face").tap()
    page.get_by_role("option", name="Vice").tap()
    expect(page.get_by_label("The bolt it turns about")).to_have_value("−38 mm")
    # the bolt of another vice would give a wrong target without a sign of it
    page.get_by_label("The bolt it turns about").fill("20 mm")
    page.get_by_label("Whole passes").fill("1")
    page.get_by_label("The machine is isolated").check()
    page.get_by_role("button", name="Start reading").tap()
    expect(page.get_by_text("turns about −38 mm, as it is described")).to_be_visible()
    page.get_by_label("The bolt it turns about").fill("-38 mm")
    page.get_by_role("button", name="Start reading").tap()
    along(page, 0, 10, 20, 31, 41, 0)
    todo = page.get_by_role("region", name="What to do")
    expect(todo).to_contain_text("its right end away from the dial")
    expect(todo).to_contain_text("at 45 mm: the needle goes from +41 div to +3 div")
    expect(todo).to_contain_text("At −45 mm the tip stands by the pivot")
    page.get_by_label("Nipped, it reads").fill("+3")
    page.get_by_label("Tight, it reads").fill("+5")
    page.get_by_role("button", name="Done: measure again").tap()
    page.get_by_text(re.compile("round 2")).first.wait_for()
    # the other bolt had held: mid face stayed where it was
    along(page, 11.5, 15, 20, 26, 30, 11.5)
    expect(todo).to_contain_text(re.compile("By its last tap it turns about"))
    move = phone.check()["rounds"][0]["move"]
    assert [n["text"] for n in move["needle"]] == ["+3", "+5"]
