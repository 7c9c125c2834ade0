"""A collet found out by the keyboard alone, and a spindle read at two heights on a phone."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import Shed, open_check, press, tab_to, wait_for_readings


def chosen(page: Page, label: str, option: str | re.Pattern[str]) -> None:
    """Pick one of a list with the keyboard."""
    press(page, page.get_by_role("combobox", name=label, exact=True))
    at = page.get_by_role("option", name=option)
    now = page.locator("[role=option]:focus")
    now.wait_for()
    # down from whichever is picked, or up where it stands above
    for key in ["ArrowDown"] * 12 + ["ArrowUp"] * 12:
        if at.first.evaluate("o => o === document.activeElement"):
            break
        page.keyboard.press(key)
    page.keyboard.press("Enter")


def rows_typed(shed: Shed, turns: int) -> None:
    """What the simulated dial shows, a turn to a row, pasted with the keyboard."""
    page = shed.page
    # a turn of its own comes back to its first mark
    shown = [shed.dial(key) for key in shed.check()["rounds"][-1]["turn"]]
    size = len(shown) // turns
    rows = [" ".join(shown[i * size : (i + 1) * size]) for i in range(turns)]
    press(page, page.get_by_role("button", name="Paste readings"))
    tab_to(page, page.get_by_role("textbox", name="Readings"))
    page.keyboard.insert_text("\n".join(rows))
    press(page, page.get_by_role("button", name=f"Keep {len(shown)} readings"))
    wait_for_readings(page, len(shown))


def test_the_collet_is_hunted_down_with_the_keyboard(shed: Shed) -> None:
    page = shed.page
    press(page, page.get_by_role("button", name="Open the demo workshop"))
    press(page, page.get_by_role("link", name="Dunlin", exact=True))
    press(page, page.get_by_role("link", name=re.compile("^Tooling")))
    page.get_by_role("heading", name="Tooling", level=1).wait_for()
    press(page, page.get_by_role("button", name=re.compile("^Measure")).first)
    # the chain of the last time stands there; the doubtful collet goes back in
    expect(page.get_by_role("combobox", name="Holder")).to_have_text("Dunlin’s chuck")
    expect(page.get_by_role("combobox", name="Collet")).to_have_text("Ground 6 mm")
    chosen(page, "Collet", "Boxed 6 mm C")
    chosen(page, "You read it", re.compile("turned in its seats"))
    press(page, page.get_by_label("collet in its seat"), " ")
    press(page, page.get_by_label("The machine is isolated"), " ")
    press(page, page.get_by_role("button", name="Start reading"))
    page.get_by_label("Reading at").wait_for()
    expect(page.get_by_text("All marks in line.")).to_be_visible()
    rows_typed(shed, 5)
    finding = page.get_by_role("status", name="Finding")
    expect(finding).to_contain_text("Out")
    expect(page.get_by_text(re.compile("Most of it is Boxed 6 mm C"))).to_be_visible()
    chain = page.get_by_role("img", name=re.compile("The spindle adds .*together"))
    expect(chain).to_be_visible()
    adds = {k["slots"][-1]: k["tir"]["value"] for k in shed.finding()["finding"]["links"]}
    assert adds["spindle"] < adds["holder"] < adds["tool"]
    todo = page.get_by_role("region", name="What to do")
    expect(todo).to_contain_text(re.compile(r"Seat Boxed 6 mm C \d+° on from its mark"))
    press(page, page.get_by_role("button", name="Enter it in the logbook"))
    expect(page.get_by_text("This round is in the logbook")).to_be_visible()
    # the rest of the tin against it, all else as it is
    press(page, page.get_by_role("link", name=re.compile("^Tooling")))
    page.get_by_role("heading", name="Tooling", level=1).wait_for()
    press(page, page.get_by_role("button", name=re.compile("^Measure")).first)
    again = page.get_by_role("button", name="Measure it all the same")
    ready = page.get_by_role("combobox", name="You read it", exact=True)
    again.or_(ready).first.wait_for()
    if again.count():
        press(page, again)
    chosen(page, "You read it", re.compile("one piece changed"))
    # those of the last time are ticked; with nothing to compare it with it says so
    others = [page.get_by_role("checkbox", name=n) for n in ("Boxed 6 mm A", "Ground 6 mm")]
    for box in others:
        expect(box).to_be_checked()
        press(page, box, " ")
    press(page, page.get_by_role("checkbox", name="Boxed 6 mm C"), " ")
    press(page, page.get_by_role("button", name="Start reading"))
    expect(page.get_by_text(re.compile("Name at least one collet"))).to_be_visible()
    for box in others:
        press(page, box, " ")
    press(page, page.get_by_role("button", name="Start reading"))
    page.get_by_label("Reading at").wait_for()
    rows_typed(shed, 3)
    expect(todo).to_contain_text("Put in Ground 6 mm")
    tin = page.get_by_role("img", name=re.compile("TIR, (within the limit|beyond it|too close)"))
    assert [i.get_attribute("aria-label").split(":")[0] for i in tin.all()] == [
        "Ground 6 mm",
        "Boxed 6 mm C",
        "Boxed 6 mm A",
    ]
    press(page, page.get_by_role("button", name="Done: measure again"))
    expect(page.get_by_text("round 2").first).to_be_visible()
    assert shed.check()["rounds"][-1]["setup"]["way"] == "plain"
    rows_typed(shed, 1)
    expect(finding).to_contain_text("True")
    press(page, page.get_by_role("button", name="Enter it in the logbook"))
    expect(page.get_by_text("This round is in the logbook")).to_be_visible()
    # and the kit knows it
    press(page, page.get_by_role("link", name="Kit"))
    best = page.get_by_role("region", name="Collets, best to worst").get_by_role("listitem")
    expect(best.first).to_contain_text("Ground 6 mm")
    expect(best.last).to_contain_text("Boxed 6 mm A")
    tooling = page.get_by_role("region", name="Holders, collets and tools")
    record = tooling.get_by_text("Its record").last
    press(page, record)
    expect(page.get_by_role("link", name="Dunlin: tool runout").first).to_be_visible()


def test_a_spindle_is_read_at_two_heights_by_touch(phone: Shed) -> None:
    page = phone.page
    page.get_by_role("button", name="Open the demo workshop").tap()
    open_check(page, "Dunlin", "Spindle", "Spindle runout")
    page.get_by_label("Distances from the nose").fill("10, 90 mm")
    page.get_by_role("combobox", name="The bar is seated").tap()
    page.get_by_role("option", name="once").tap()
    page.get_by_label("Whole turns").fill("1")
    # however long an instrument's name and what is expected of it are, nothing runs off the side
    expect(page.get_by_role("combobox", name="Instrument")).to_have_text(re.compile("±.* mm of"))
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    page.get_by_label("The machine is isolated").check()
    page.get_by_role("button", name="Start reading").tap()
    # a bar that leans: 2 divisions near the nose, 8 far out, high at the first mark
    near, far = (2, 1, -1, -2, -1, 1), (8, 4, -4, -8, -4, 4)
    n = 0
    for turn in (near, far):
        # back at the first mark it closes
        for mark, shown in [*enumerate(turn, 1), (1, turn[0])]:
            expect(page.get_by_text(re.compile(f"until mark {mark} of 6"))).to_be_visible()
            keys = page.get_by_role("group", name="Keys")
            for key in f"{abs(shown)}":
                keys.get_by_role("button", name=key, exact=True).tap()
            if shown < 0:
                keys.get_by_role("button", name="change the sign").tap()
            page.get_by_role("button", name="Enter", exact=True).tap()
            n += 1
            wait_for_readings(page, n)
    found = phone.finding()
    tilt = next(q for q in found["finding"]["quantities"] if q["key"] == "tilt")
    # from 2 to 8 µm off over 80 mm
    assert abs(tilt["estimate"]["value"] - 0.075) < 0.002
    expect(page.get_by_role("img", name=re.compile("10 mm: .*90 mm: .*TIR"))).to_have_count(2)
    width = page.evaluate("document.documentElement.scrollWidth")
    assert width <= 390
