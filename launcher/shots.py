"""./bluffside shots: takes the pictures of docs/screenshots from a running demo. Runs in the virtual environment. (Those of
a file come from ./bluffside bench dirty.)

./bluffside shots ADDRESS [NAME …]
"""

import os
import shutil
import sys
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Browser, Page, sync_playwright

from bluffside.server.demo.cast import CONSULTANT, PARTS, PASSWORD

FOLDER = Path(os.environ.get("BLUFFSIDE_SHOTS", Path(__file__).resolve().parent.parent / "docs" / "screenshots"))
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


def open_browser(playwright: object) -> Browser:
    """Debian’s Chromium in its form without windows, which takes a third less time."""
    path = shutil.which("chromium-headless-shell")
    return playwright.chromium.launch(executable_path=path, args=FLAGS)  # type: ignore[attr-defined,no-any-return]


def sign_in(page: Page, address: str, email: str = CONSULTANT[1]) -> None:
    page.goto(address)
    page.get_by_label("Email").fill(email)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    page.locator("main#here").wait_for()


def workflow(page: Page, name: str) -> None:
    page.get_by_role("link", name="Workflows").click()
    page.get_by_role("link", name=name).click()
    page.get_by_role("group", name="The script", exact=True).wait_for()
    page.wait_for_timeout(900)


def _write(page: Page) -> None:
    workflow(page, "After the taster day")
    page.get_by_role("article").filter(has_text="Thanks for coming").click(position={"x": 500, "y": 10})


def _letter(page: Page) -> None:
    workflow(page, "After the taster day")
    page.get_by_role("article").filter(has_text="Your day on the water").click(position={"x": 500, "y": 10})
    page.get_by_role("button", name="Open the letter").click()
    page.get_by_label("paragraph: words").nth(1).click()
    page.frame_locator("iframe").get_by_role("link", name="See the next weekends").wait_for()


def _rehearse(page: Page) -> None:
    workflow(page, "After the taster day")
    page.get_by_role("tab", name="Rehearse").click()
    page.get_by_role("button", name="“yes”").click()
    page.wait_for_timeout(700)


def _watch(page: Page) -> None:
    workflow(page, "After the taster day")
    page.get_by_role("tab", name="Watch").click()
    page.get_by_role("button", name="here").first.click()


def _contact(page: Page) -> None:
    page.get_by_role("link", name="People").click()
    page.get_by_label("With the tag").select_option("wants a course")
    page.wait_for_timeout(600)
    page.locator("tbody a").first.click()
    page.get_by_role("heading", name="What happened").wait_for()
    page.get_by_role("button", name="why?").first.click()


def _outside(page: Page) -> None:
    page.get_by_role("link", name="Outside").click()
    page.get_by_role("button", name="Livia Dunmore").click()


def _set_up(chapter: str) -> Callable[[Page], None]:
    def opened(page: Page) -> None:
        page.get_by_role("link", name="Set-up").click()
        page.get_by_role("navigation", name="Set-up").get_by_role("link", name=chapter).click()
        page.get_by_role("heading", name=chapter, level=1).wait_for()

    return opened


def _area(name: str) -> Callable[[Page], None]:
    return lambda page: page.get_by_role("link", name=name).click()


def _people(page: Page, name: str) -> None:
    page.get_by_role("link", name="People").click()
    page.get_by_role("link", name=name, exact=True).click()


def _replies(page: Page) -> None:
    page.get_by_role("link", name="Replies").click()
    page.locator("article a.name").first.click()
    page.get_by_role("log").wait_for()


def _deals(page: Page) -> None:
    page.get_by_role("link", name="Deals").click()
    page.get_by_role("article").nth(3).click()


def _results(page: Page) -> None:
    page.get_by_role("link", name="Results").click()
    page.get_by_role("heading", name="Results", level=1).wait_for()
    page.get_by_role("link", name="After the taster day", exact=True).click()
    page.get_by_role("row").filter(has_text="Thanks for coming").wait_for()


def _own_page(page: Page) -> None:
    """What a contact sees on a phone."""
    page.get_by_role("link", name="People").click()
    page.get_by_label("With the tag").select_option("wants a course")
    page.wait_for_timeout(600)
    page.locator("tbody a").first.click()
    page.get_by_text("Their own page, quiet, proof").click()
    link = page.get_by_role("link", name="What they hear, as they see it").get_attribute("href") or ""
    page.set_viewport_size({"width": 390, "height": 1_100})
    page.goto(link)


def _booking(page: Page) -> None:
    """What anybody books on, on a phone, with a time chosen."""
    _set_up("Appointments")(page)
    link = page.get_by_role("link", name="See it").last.get_attribute("href") or ""
    page.set_viewport_size({"width": 390, "height": 1_100})
    page.goto(link)
    page.locator(".day a").nth(6).click()


VIEWS: dict[str, Callable[[Page], None]] = {
    "workflow-write": _write,
    "workflow-rehearse": _rehearse,
    "workflow-watch": _watch,
    "workflows": _area("Workflows"),
    "people": _area("People"),
    "contact": _contact,
    "today": _area("Today"),
    "replies": _replies,
    "outside": _outside,
    "diary": _area("Diary"),
    "deals": _deals,
    "messages": _area("Messages"),
    "results": _results,
    "own-page": _own_page,
    "set-up": _set_up("The business"),
    "booking": _booking,
    "letter": _letter,
    "score": _set_up("Lead score"),
}


def main(address: str, names: list[str]) -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        browser = open_browser(playwright)
        for name in names or VIEWS:
            page = browser.new_page(viewport={"width": 1280, "height": 800}, locale="en-GB")
            sign_in(page, address)
            page.goto(f"{address}/{PARTS[0].slug}/workflows")
            VIEWS[name](page)
            page.wait_for_timeout(900)
            page.get_by_text("Opening…").first.wait_for(state="hidden")
            page.evaluate("scrollTo(0, 0)")
            page.screenshot(path=FOLDER / f"{name}.png")
            page.close()
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1], sys.argv[2:])
