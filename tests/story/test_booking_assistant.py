"""The booking assistant, as who sets it up and who reads along live through it: its words are tried, a conversation is rehearsed line by line,
an old lead who says yes is in the diary three messages later, and somebody takes over before it answers."""

import re
from collections.abc import Callable
from contextlib import suppress

from playwright.sync_api import Page, TimeoutError, expect

from tests.story.test_pages import faults
from tests.story.test_replies import comes_in

Open = Callable[..., Page]


def phone_of(page: Page, who: str) -> None:
    page.get_by_role("link", name="Outside").click()
    page.get_by_label("Whose phone and mailbox").fill(who)
    page.get_by_role("button", name=who).click()


def says(page: Page, who: str, words: str, answer: str) -> None:
    """By their simulated phone; and waits until that is answered."""
    page.get_by_label(f"Write as {who}").fill(words)
    page.get_by_role("button", name="Send", exact=True).click()
    expect(page.get_by_role("log").get_by_text(answer)).to_be_visible()


def found(page: Page, who: str) -> None:
    page.goto(f"{page.url.split('/tern-harbour')[0]}/tern-harbour/people?q={who}")
    page.get_by_role("link", name=who).first.click()


def enrol(page: Page, who: str) -> None:
    found(page, who)
    page.get_by_role("button", name="Enrol…").click()
    page.get_by_label("In which workflow").select_option(label="Old sign-ups, woken up")
    page.get_by_role("button", name="Enrol 1 person").click()


def is_asked(page: Page) -> None:
    """In the night the first text waits for the morning: the demo's clock is moved there."""
    asks = page.get_by_role("log").get_by_text("Is that still on your mind?")
    for _ in range(14):
        with suppress(TimeoutError):
            asks.wait_for(timeout=15_000)
            break
        page.get_by_role("button", name="an hour on").click()
    expect(asks).to_be_visible()


def test_its_words_are_the_accounts_and_tried_before_anybody_hears_them(open_page: Open) -> None:
    page = open_page("/tern-harbour/set-up/assistant")
    page.get_by_label("Seconds before it answers").fill("0")
    page.keyboard.press("Enter")
    page.get_by_label("To a no, it says").fill("Fair winds, then.")
    page.keyboard.press("Enter")
    page.get_by_label("What a contact writes").fill("do you take dogs?")
    page.keyboard.press("Enter")
    talk = page.get_by_role("log", name="The conversation")
    expect(talk).to_contain_text("Dogs are welcome ashore.")
    page.get_by_label("What a contact writes").fill("no thanks")
    page.keyboard.press("Enter")
    expect(talk).to_contain_text("Fair winds, then.")
    assert faults(page) == []
    page.goto(page.url.replace("/assistant", "/changes"))
    expect(page.get_by_text("the booking assistant: what it says to a no")).to_be_visible()


def test_an_old_lead_is_in_the_diary_three_messages_later_and_somebody_goes_on_with_another(open_page: Open) -> None:
    page = open_page("/tern-harbour/set-up/assistant")
    page.get_by_label("Seconds before it answers").fill("0")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Seconds before it answers")).to_have_value("0")
    comes_in(page, "Alva", "Thirl", "07700 900871")
    comes_in(page, "Bodil", "Thirl", "07700 900872")
    enrol(page, "Alva Thirl")
    enrol(page, "Bodil Thirl")
    phone_of(page, "Alva Thirl")
    is_asked(page)
    says(page, "Alva Thirl", "Yes please", "Have you sailed before, and how many of you would come?")
    says(page, "Alva Thirl", "never, just me", "Which one?")
    says(page, "Alva Thirl", "the second one", "Booked:")
    found(page, "Alva Thirl")
    expect(page.get_by_text("Taster sail").first).to_be_visible()
    expect(page.get_by_text("woken up").first).to_be_visible()

    page.goto(page.url.split("/tern-harbour")[0] + "/tern-harbour/set-up/assistant")
    page.get_by_label("Seconds before it answers").fill("600")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Seconds before it answers")).to_have_value("600")
    phone_of(page, "Bodil Thirl")
    page.get_by_label("Write as Bodil Thirl").fill("yes")
    page.get_by_role("button", name="Send", exact=True).click()
    page.get_by_role("link", name=re.compile("^Replies")).click()
    with_it = page.get_by_role("region", name="with the assistant")
    with_it.get_by_role("link", name="Bodil Thirl").click()
    talks = page.get_by_role("region", name="The booking assistant")
    expect(talks).to_contain_text("Its next answer goes in")
    assert faults(page) == []
    talks.get_by_role("button", name="Change it").click()
    expect(talks).to_have_count(0)
    expect(page.get_by_label("Answer Bodil")).to_have_value(re.compile("Have you sailed before"))
    expect(with_it.get_by_role("link", name="Bodil Thirl")).to_have_count(0)


def test_a_conversation_is_rehearsed_answer_by_answer(open_page: Open) -> None:
    page = open_page("/tern-harbour/workflows")
    page.get_by_role("link", name="Old sign-ups, woken up").first.click()
    page.get_by_role("tab", name="Rehearse").click()
    own = page.get_by_label("Other words")
    for words, answer in (
        ("yes but mornings only", "Have you sailed before"),
        ("a little", "Which one?"),
        ("the first one", "Booked:"),
    ):
        own.fill(words)
        own.press("Enter")
        expect(page.locator(".happened").get_by_text(answer).first).to_be_visible()
    expect(page.get_by_text(re.compile("Booked for .* Takes the lane")).first).to_be_visible()
    page.get_by_role("button", name=re.compile("Take “says “the first one”")).click()
    expect(page.get_by_text(re.compile("Booked for .* Takes the lane"))).to_have_count(0)
    assert faults(page) == []
