"""Replies, as who works the front desk lives through it: who waits is found, decided by a key, answered in place; and at a phone's width."""

import re
from collections.abc import Callable

from playwright.sync_api import Page, expect

from tests.story.test_pages import faults

Open = Callable[..., Page]


def writes(page: Page, who: str, words: str) -> None:
    """By their simulated phone."""
    page.get_by_role("link", name="Outside").click()
    page.get_by_label("Whose phone and mailbox").fill(who)
    page.get_by_role("button", name=who).click()
    page.get_by_label(f"Write as {who}").fill(words)
    page.get_by_role("button", name="Send", exact=True).click()
    expect(page.get_by_text(words)).to_be_visible()


def comes_in(page: Page, first: str, last: str, mobile: str) -> None:
    page.get_by_role("link", name="People", exact=True).click()
    page.get_by_role("button", name="Add one").click()
    asked = page.get_by_role("dialog", name="Add one")
    for label, value in (("First name", first), ("Last name", last), ("Mobile", mobile)):
        asked.get_by_label(label).fill(value)
    asked.get_by_role("button", name="Add").click()
    expect(asked).to_have_count(0)


def test_who_waits_is_found_decided_by_a_key_and_answered_in_place(open_page: Open) -> None:
    page = open_page("/tern-harbour/people")
    comes_in(page, "Bram", "Thole", "07700 900861")
    comes_in(page, "Nell", "Thole", "07700 900862")
    writes(page, "Bram Thole", "this is spam, who gave you my number")
    writes(page, "Nell Thole", "What does a weekend cost for two?")
    page.get_by_role("link", name=re.compile("^Replies")).click()
    decide = page.get_by_role("region", name="to decide")
    expect(decide.get_by_role("article", name="Bram Thole")).to_contain_text("Reads like a refusal")
    assert faults(page) == []
    page.get_by_role("heading", name="Replies", level=1).focus()
    page.keyboard.press("ArrowDown")
    expect(page.get_by_role("heading", name="Bram Thole", level=2)).to_be_visible()
    page.keyboard.press("1")
    expect(page.get_by_role("article", name="Bram Thole")).to_have_count(0)
    expect(page.get_by_text("no text: opted out")).to_be_visible()

    page.get_by_role("link", name="Nell Thole").click()
    said = page.get_by_role("log")
    expect(said).to_contain_text("What does a weekend cost for two?")
    page.keyboard.press("d")
    expect(page.get_by_role("article", name="Nell Thole")).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("Taken back.")).to_be_visible()
    with page.expect_response(re.compile(r"/api/.*/replies/\d+$")):  # as it stands now
        page.get_by_role("article", name="Nell Thole").get_by_role("link").first.click()
    page.get_by_label("Answer Nell").fill("It is 300 for two")
    page.keyboard.press("Control+Enter")
    night = page.get_by_role("button", name="Send it now all the same")
    expect(night.or_(said.get_by_text("It is 300 for two"))).to_be_visible()
    if night.count():  # the demo's clock may stand in the night
        night.click()
    expect(said).to_contain_text("It is 300 for two")
    expect(page.get_by_role("article", name="Nell Thole")).to_have_count(0)
    assert faults(page) == []

    page.get_by_label("a note for the team").check()
    page.get_by_label("A note about Nell").fill("Rings on Friday")
    page.keyboard.press("Control+Enter")
    expect(said).to_contain_text("Rings on Friday")
    page.get_by_role("button", name="Find words").click()
    page.get_by_label("Words that were said").fill("weekend cost")
    page.get_by_role("navigation", name="Which replies").get_by_role("link", name="All").click()


def test_on_a_phone_one_reads_who_waits_and_goes_in_and_back(open_page: Open) -> None:
    page = open_page("/tern-harbour/replies", email="mel@example.com", width=390)
    first = page.get_by_role("article").first.get_by_role("link").first
    name = first.inner_text()
    first.click()
    expect(page.get_by_role("heading", name=name, level=2)).to_be_visible()
    expect(page.get_by_role("textbox")).to_be_visible()
    assert faults(page) == []
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    page.get_by_role("link", name="All replies").click()
    expect(page.get_by_role("article", name=name)).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
