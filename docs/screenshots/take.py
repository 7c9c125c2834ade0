"""Take the pictures of the main views from the demo data.

Usage, while bin/demo runs: `.venv/bin/python docs/screenshots/take.py [URL] [NAME…]`.
"""

from __future__ import annotations

import re
import sys
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

HERE = Path(__file__).parent
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-dev-shm-usage",
]
DESK = (1280, 800)
PHONE = (390, 844)


def workshop(page: Page) -> None:
    page.get_by_role("heading", name="How the machines stand").wait_for()


def machine(page: Page) -> None:
    page.get_by_role("link", name="Avocet", exact=True).click()
    page.get_by_role("heading", name="Next step, and why").wait_for()


def settle(page: Page) -> None:
    begin(page, "Avocet", "Tram", "Tram")
    page.get_by_label("What to do").wait_for()


def begin(page: Page, machine: str, stage: str, title: str) -> None:
    """Open a check from the plumb line, also where it has been told what that rests on."""
    page.get_by_role("link", name=machine, exact=True).click()
    line = page.get_by_role("navigation", name="Stages of the work")
    line.get_by_role("link", name=re.compile(f"^{stage}")).click()
    section = page.locator("section").filter(
        has=page.get_by_role("heading", name=title, exact=True)
    )
    section.get_by_role("button", name="Measure").or_(
        section.get_by_role("button", name="Go on")
    ).click()
    again = section.get_by_role("button", name="Measure it all the same")
    page.wait_for_timeout(300)
    if again.count():
        again.click()


def job(page: Page) -> None:
    page.get_by_role("link", name="Jobs").click()
    page.get_by_role("link", name="Clock plate", exact=True).click()
    page.get_by_text("Limits that this job needs").click()
    page.get_by_role("button", name="Judge the machine by them").wait_for()


def symptom(page: Page) -> None:
    page.get_by_role("link", name="Curlew", exact=True).click()
    page.get_by_role("link", name="Something comes out wrong?").click()
    page.get_by_role("button", name="Engraving that is half missing").click()
    page.get_by_role("heading", name="What can be behind it").wait_for()


def bed(page: Page) -> None:
    page.get_by_role("link", name="Curlew", exact=True).click()
    page.get_by_role("link", name="Bed & surfacing").click()
    page.get_by_role("heading", name=re.compile("^Takes")).wait_for()


def program(page: Page) -> None:
    page.get_by_role("link", name="Curlew", exact=True).click()
    page.get_by_role("link", name="Bed & surfacing").click()
    page.get_by_role("tab", name="Check a program").click()
    page.get_by_role("button", name="tide-dial-small.nc").click()
    page.get_by_role("heading", name=re.compile("^Do not run it")).wait_for()


def piece(page: Page) -> None:
    page.get_by_role("link", name="Curlew", exact=True).click()
    page.wait_for_load_state("networkidle")
    page.get_by_role("link", name="Test cut").click()
    page.get_by_text("What was foretold, and what the piece says").wait_for()


def set_up(page: Page) -> None:
    begin(page, "Dunlin", "Tram", "Tram")
    page.get_by_label("Swing radius").wait_for()


def read(page: Page) -> None:
    set_up(page)
    page.get_by_label("Swing radius").fill("70")
    page.get_by_label("The machine is isolated").check()
    page.get_by_role("button", name="Start reading").click()
    for _ in range(6):
        with page.expect_response(lambda r: "/readings/" in r.url):
            page.get_by_role("button", name="Ask the simulated dial").click()
    page.get_by_label("Reading at").fill("-12")
    page.get_by_text("read as").wait_for()


def chain(page: Page) -> None:
    begin(page, "Dunlin", "Tooling", "Tool runout")
    page.get_by_role("combobox", name="You read it", exact=True).click()
    page.get_by_role("option", name=re.compile("turned in its seats")).click()
    page.get_by_role("combobox", name="Collet", exact=True).click()
    page.get_by_role("option", name="Boxed 6 mm C").click()
    page.get_by_label("collet in its seat").check()
    page.get_by_label("The machine is isolated").check()
    page.get_by_role("button", name="Start reading").click()
    # five seats of six marks, each come back to
    for _ in range(35):
        with page.expect_response(lambda r: "/readings/" in r.url):
            page.get_by_role("button", name="Ask the simulated dial").click()
    page.get_by_label("What to do").wait_for()


def stale(page: Page) -> None:
    page.get_by_role("link", name="Curlew", exact=True).click()
    page.get_by_role("button", name="Something happened").click()
    page.get_by_role("menuitem", name="It was moved").click()
    page.get_by_text("Logged:").wait_for()


def stage(page: Page) -> None:
    page.get_by_role("link", name="Avocet", exact=True).click()
    line = page.get_by_role("navigation", name="Stages of the work")
    line.get_by_role("link", name="Tram").click()
    page.get_by_text("How it is done").first.wait_for()


def describe(page: Page) -> None:
    page.get_by_role("link", name="Curlew", exact=True).click()
    page.get_by_role("link", name="Describe it").click()
    page.get_by_role("button", name="Keep the changes").wait_for()


def evening(page: Page) -> None:
    page.get_by_role("link", name="Avocet", exact=True).click()
    page.get_by_role("link", name="Plan an evening").click()
    page.get_by_role("button", name="Start the evening").click()
    page.get_by_role("button", name="Stop for tonight").wait_for()


def logbook(page: Page) -> None:
    page.get_by_role("link", name="Logbook").click()
    page.get_by_role("heading", name="Logbook").wait_for()


def kit(page: Page) -> None:
    page.get_by_role("link", name="Kit").click()
    page.get_by_role("heading", name="Shim stock").wait_for()


VIEWS: dict[str, tuple[Callable[[Page], None] | None, tuple[int, int], str]] = {
    "sign-in": (None, DESK, "light"),
    "workshop": (workshop, DESK, "light"),
    "machine": (machine, DESK, "light"),
    "machine-stale-night": (stale, DESK, "dark"),
    "stage": (stage, DESK, "light"),
    "describe": (describe, DESK, "light"),
    "evening": (evening, DESK, "light"),
    "check-set-up": (set_up, DESK, "light"),
    "check-read": (read, DESK, "light"),
    "check-read-phone": (read, PHONE, "light"),
    "check-settle": (settle, DESK, "light"),
    "test-piece": (piece, DESK, "light"),
    "symptom-phone": (symptom, PHONE, "dark"),
    "bed": (bed, DESK, "light"),
    "program": (program, DESK, "dark"),
    "tool-chain": (chain, DESK, "light"),
    "job": (job, DESK, "light"),
    "logbook": (logbook, DESK, "light"),
    "kit": (kit, DESK, "light"),
}


WHOLE = {
    "test-piece",
    "job",
    "rails",
    "symptom-phone",
    "vice",
    "machine",
    "tool-chain",
    "kit",
}
"""Pictures of the whole page, where the figures stand below the fold."""


def main() -> None:
    url = sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8010"
    wanted = sys.argv[2:] or list(VIEWS)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium-headless-shell", args=FLAGS
        )
        for name in wanted:
            go, (width, height), scheme = VIEWS[name]
            context = browser.new_context(
                viewport={"width": width, "height": height},
                color_scheme="dark" if scheme == "dark" else "light",
                has_touch=width < 500,
                reduced_motion="reduce",
            )
            page = context.new_page()
            page.goto(url)
            opener = page.get_by_role("button", name="Open the demo workshop")
            opener.wait_for()
            if go:
                opener.click()
                workshop(page)
                page.request.post(
                    f"{url}/api/v1/demo/reset",
                    headers={"X-CSRFToken": csrf(page), "Referer": url},
                )
                page.goto(url)
                workshop(page)
                go(page)
            page.wait_for_timeout(300)
            page.screenshot(path=HERE / f"{name}.png", full_page=name in WHOLE)
            context.close()
        browser.close()


def csrf(page: Page) -> str:
    return next(c["value"] for c in page.context.cookies() if c["name"] == "csrftoken")


if __name__ == "__main__":
    main()
