"""A page whose reads are refused, broken, unanswered or late says that, and nothing about people or messages that is not so."""

import re
import time
from collections.abc import Callable

import pytest
from launcher.shots import PASSWORD
from playwright.sync_api import Page, Route, expect

HERE = "/tern-harbour/"
PAGES = [
    "today", "people", "people/1", "people/bring-in", "people/segments", "people/sorting", "set-up", "set-up/hours", "set-up/rules", "set-up/consent", "set-up/changes", "people/duplicates",
    "people/forms", "people/forms/1", "people/words", "people/leads", "people/leads/1", "messages", "messages/1", "workflows", "workflows/2",
    "workflows/2/versions", "workflows/starters", "workflows/uses", "workflows/waits", "diary", "outside",
]  # fmt: skip
FRAME = re.compile(
    r"/api/(session|accounts/[\w-]+/(pulse)?)(\?|$)"
)  # who is signed in, and where: read before the page is
# What would be a statement about what was read: that there is none, nobody, nothing, or how many there are.
CLAIM = re.compile(
    r"\b(nobody|none|nothing (waits|is|has|more|to do)|no [a-z]+ (yet|now|wait|is|says)|\d+ [a-z]+)\b", re.I
)
STANDS = ("could not be read", "Not yours to open", "Opening…")
# Words that a page says of itself, whatever was read.
OF_ITSELF = {
    "workflows/waits": "Nothing here is lost, and nothing is sent twice.",
    "workflows/starters": "Nothing is sent before you publish it",
    "outside": "nothing here leaves this machine",
}


def answer(page: Page, how: Callable[[Route], None]) -> None:
    page.route("**/api/**", lambda route: route.continue_() if FRAME.search(route.request.url) else how(route))


def said(page: Page, path: str) -> str:
    """What the page says below its strip, without the clock and what it says of itself."""
    text = page.locator("main").inner_text()
    for words in (
        OF_ITSELF.get(path, "—"),
        *re.findall(r"\d+ (?:Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec)\b", text),
    ):
        text = text.replace(words, "")
    return re.sub(r"Nothing was (lost|changed)", "", text)


def broken(route: Route) -> None:
    route.fulfill(status=500, body="<h1>Server Error (500)</h1>")


def refused(route: Route) -> None:
    route.fulfill(status=403, json={"detail": "Only consultants may read this."})


@pytest.mark.parametrize(
    ("how", "words", "pages"),
    [
        (broken, "could not be read", PAGES),
        (refused, "Only consultants may read this.", PAGES[:4]),
        (lambda route: route.abort(), "The server cannot be reached", PAGES[:4]),
    ],
    ids=["broken", "refused", "unanswered"],
)
def test_what_could_not_be_read_is_said_and_nothing_untrue(
    open_page: Callable[..., Page], how: Callable[[Route], None], words: str, pages: list[str]
) -> None:
    page = open_page(HERE + "diary")
    expect(page.get_by_role("heading", name="Diary")).to_be_visible()
    answer(page, how)
    for path in pages:
        page.goto(page.url.split(HERE)[0] + HERE + path)
        expect(page.locator("main").get_by_text(words).first).to_be_visible()
        assert not (claims := CLAIM.findall(said(page, path))), (path, claims)


def test_a_page_whose_answers_are_late_claims_nothing_before_they_come(open_page: Callable[..., Page]) -> None:
    page = open_page(HERE + "diary")
    expect(page.get_by_role("heading", name="Diary")).to_be_visible()
    waiting: list[Route] = []
    answer(page, waiting.append)
    for path in PAGES:
        waiting.clear()
        page.goto(page.url.split(HERE)[0] + HERE + path)
        expect(page.locator("main").get_by_text("Opening…").first).to_be_visible()
        assert not (claims := CLAIM.findall(said(page, path))), (path, claims)


def test_a_read_that_broke_is_tried_again_and_one_that_breaks_later_leaves_what_was_read(
    open_page: Callable[..., Page],
) -> None:
    page = open_page(HERE + "diary")
    page.route("**/api/**/segments*", broken)
    page.goto(page.url.split(HERE)[0] + HERE + "people/segments")
    expect(page.get_by_text("The segments could not be read")).to_be_visible()
    with page.expect_request("**/api/**/segments*"):  # while it is broken: an open page asks again by itself, too
        page.get_by_role("button", name="Try again").click()
    page.unroute("**/api/**/segments*")
    page.evaluate("[...document.querySelectorAll('button')].find((one) => one.innerText === 'Try again')?.click()")
    expect(page.get_by_role("rowheader", name="Can be texted").first).to_be_visible()
    page.route("**/api/**/segments*", broken)
    page.evaluate("window.dispatchEvent(new Event('visibilitychange'))")
    time.sleep(1.2)  # what was read a second ago is not asked again
    page.evaluate("window.dispatchEvent(new Event('visibilitychange'))")
    expect(page.get_by_text("This may be old:")).to_be_visible()
    expect(page.get_by_role("rowheader", name="Can be texted").first).to_be_visible()


def test_what_is_refused_is_said_where_one_acts_and_never_as_done(open_page: Callable[..., Page]) -> None:
    page = open_page(HERE + "people/segments")
    page.route("**/api/**/segments/*", lambda route: route.fulfill(status=409, json={"detail": "A workflow uses it."}))
    page.get_by_role("button", name=re.compile("^Drop")).first.click()
    expect(page.get_by_role("alert").get_by_text("A workflow uses it.")).to_be_in_viewport()
    expect(page.get_by_text("is gone")).to_have_count(0)
    page.route("**/contacts/export/*", broken)
    page.get_by_role("link", name="Everybody").click()
    page.get_by_text(re.compile("^Export")).click()
    page.get_by_role("menuitem", name="as CSV").click()
    expect(page.get_by_role("alert").get_by_text("The server has a fault of its own.")).to_be_in_viewport()


def test_a_session_that_has_ended_says_so_keeps_what_was_typed_and_goes_on(open_page: Callable[..., Page]) -> None:
    page = open_page(HERE + "people")
    page.locator("tbody a").first.click()
    note = page.get_by_label("A note", exact=True)
    note.fill("Rang back; wants the weekend in May.")
    page.context.clear_cookies(name="sessionid")
    asked = page.get_by_role("dialog", name="You have been signed out")
    expect(asked).to_be_visible()  # the page asks for news each second: it finds out without a press
    page.keyboard.press("Escape")  # to look at the page first: it is not asked again by itself
    page.wait_for_timeout(2_500)
    expect(asked).to_have_count(0)
    page.get_by_role("button", name="Note it").click()
    expect(asked).to_be_visible()
    asked.get_by_label("Email").fill("imogen@example.com")
    asked.get_by_label("Password").fill(PASSWORD)
    asked.get_by_label("Password").press("Enter")
    expect(page.get_by_text("You are signed in again.")).to_be_visible()
    expect(note).to_have_value("Rang back; wants the weekend in May.")
    page.get_by_role("button", name="Note it").click()
    expect(page.locator("main").get_by_text("Rang back; wants the weekend in May.")).to_be_visible()


def test_what_a_role_may_not_do_is_not_offered_and_a_refusal_says_who_may(open_page: Callable[..., Page]) -> None:
    page = open_page(HERE + "people/leads", email="mel@example.com")
    expect(page.get_by_role("heading", name="Leads")).to_be_visible()
    expect(page.get_by_role("link", name="Spring advert").or_(page.get_by_text("No source yet")).first).to_be_visible()
    expect(page.get_by_role("button", name="Make its address")).to_have_count(0)
    page.goto(page.url.replace("leads", "bring-in"))
    expect(page.get_by_text("Managers and consultants bring files in here.")).to_be_visible()
    refused = page.evaluate(
        """async () => (await fetch('/api/accounts/tern-harbour/lead-sources', {method: 'POST', body: '{"name": "x"}', headers: {
           'Content-Type': 'application/json', 'X-CSRFToken': document.cookie.match(/csrftoken=([^;]+)/)[1]}})).json()"""
    )
    assert refused["detail"].endswith("you may not do that; consultants and managers may.")
