"""Who may only look is offered nothing that would be refused: every button of every page is pressed, and nothing is asked of the
server but what reads."""

import re
from collections.abc import Callable

import pytest
from playwright.sync_api import Page, Route, expect

HERE = "/tern-harbour/"
PAGES = ["today", "people", "people/segments", "people/forms", "people/words", "people/leads", "people/sorting", "set-up", "set-up/hours", "set-up/rules", "set-up/consent",
         "people/duplicates", "workflows", "workflows/uses", "workflows/starters", "workflows/waits", "diary", "results", "results/messages", "results/team"]  # fmt: skip
# Asked by POST since what is asked about is long; nothing is changed by it. What one is told oneself, one may put away.
READS = re.compile(
    r"/(notices/\d+/seen|read|find|rehearse|preview|tried|try|look|count|understand|typical|scenarios|why-not|words/tried|segments/look)$"
)


def as_viewer(page: Page, refused: list[str]) -> None:
    """The page is told that it may only look; whatever it would write goes nowhere, and is noted."""

    def details(route: Route) -> None:
        told = route.fetch().json()
        route.fulfill(json=told | {"rights": ["see"], "role": "viewer"})

    def writes(route: Route) -> None:
        request = route.request
        if request.method == "GET" or READS.search(request.url):
            return route.fallback()
        refused.append(f"{request.method} {request.url}")
        return route.fulfill(status=403, json={"detail": "You may not do that."})

    page.route("**/api/accounts/tern-harbour/**", writes)
    page.route("**/api/accounts/tern-harbour/", details)


@pytest.mark.parametrize("path", [*PAGES, "people/1st", "workflows/1st"])
def test_who_may_only_look_is_offered_nothing_that_is_refused(
    open_page: Callable[..., Page], address: str, path: str
) -> None:
    refused: list[str] = []
    page = open_page(None)
    as_viewer(page, refused)
    list_, first, _ = path.partition("/1st")
    page.goto(address + HERE + list_)
    if first:
        page.locator("tbody a").first.click()
        page.wait_for_url(re.compile(r"/\d+$"))
    main = page.locator("main")
    expect(main.locator("h1, .title input").first).to_be_visible()
    page.wait_for_load_state("networkidle")
    for name in dict.fromkeys(main.get_by_role("button").all_inner_texts()):
        button = main.get_by_role("button").filter(has_text=name.strip()).first
        if name.strip() and button.is_visible() and button.is_enabled():
            button.click(timeout=5_000)
            page.keyboard.press("Escape")
    assert not refused


def test_who_may_only_look_reads_every_message_of_a_script(open_page: Callable[..., Page], address: str) -> None:
    page = open_page(None)
    as_viewer(page, [])
    page.goto(address + HERE + "workflows")
    page.get_by_role("link", name="After the taster day").click()
    script = page.get_by_role("group", name="The script", exact=True)
    script.get_by_role("article").filter(has_text="Thanks for coming").first.click()
    notes = page.locator("#notes")
    expect(notes.get_by_label("Words of the text")).to_contain_text("Yes or no is plenty")
    expect(notes.get_by_label("Words of the text")).to_have_attribute("contenteditable", "false")
    expect(page.get_by_role("button", name="Publish…")).to_have_count(0)
