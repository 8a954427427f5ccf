"""Set-up in the browser: sentences changed in place, what was changed taken back, and who changed it."""

import re
from collections.abc import Callable

from playwright.sync_api import Page, expect

from tests.story.test_pages import faults

SET_UP = "/huon-street/set-up"  # no other story writes there
Open = Callable[..., Page]


def kept(page: Page) -> None:
    expect(page.get_by_role("status").filter(has_text="Kept.")).to_be_visible()


def test_its_pages_pass_axe_and_fit_a_phone(open_page: Open) -> None:
    page = open_page(SET_UP)
    for chapter in (
        "The business",
        "Hours and days off",
        "House rules",
        "Consent",
        "Appointments",
        "Connections",
        "What changed",
    ):
        page.get_by_role("navigation", name="Set-up").get_by_role("link", name=chapter).click()
        expect(page.get_by_role("heading", name=chapter, level=1)).to_be_visible()
        page.wait_for_load_state("networkidle")
        assert faults(page) == [], chapter
        page.set_viewport_size({"width": 390, "height": 800})
        assert page.evaluate("document.documentElement.scrollWidth") <= 390, chapter
        assert faults(page) == [], f"{chapter}, on a phone"
        page.set_viewport_size({"width": 1280, "height": 800})


def test_the_business_is_set_by_keys_and_a_detail_of_its_own_is_a_merge_field(open_page: Open) -> None:
    page = open_page(SET_UP)
    page.get_by_label("Trade", exact=True).fill("bicycles, mended")
    page.keyboard.press("Enter")
    kept(page)
    page.get_by_role("button", name="Time zone: Australia/Hobart").press("Enter")
    page.keyboard.type("phoen")
    expect(page.get_by_role("option", name=re.compile("Phoenix"))).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Time zone: America/Phoenix")).to_be_focused()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name="Time zone: Australia/Hobart")).to_be_visible()
    number = page.get_by_label("Telephone", exact=True)
    number.fill("12")
    number.press("Enter")
    expect(page.get_by_role("alert").filter(has_text="“12”")).to_be_visible()
    number.press("Escape")
    page.get_by_role("button", name="one more detail").click()
    page.keyboard.type("Where to park")
    page.keyboard.press("Tab")
    page.keyboard.type("Beside the pump")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Where to park", exact=True)).to_have_value("Beside the pump")
    expect(page.get_by_text("A merge field, in no workflow yet.")).to_be_visible()
    page.get_by_role("navigation", name="Set-up").get_by_role("link", name="What changed").click()
    row = page.get_by_role("row").filter(has_text="the detail “Where to park”")
    expect(row).to_contain_text("Imogen Farrow")
    page.get_by_label("With the words").fill("Phoenix")
    expect(page.get_by_role("row").filter(has_text="the time zone")).to_have_count(2)  # there, and back


def test_hours_quiet_and_holidays_are_sentences_and_six_weeks_show_them(open_page: Open) -> None:
    page = open_page(f"{SET_UP}/hours")
    expect(page.get_by_text("No hours are set", exact=False).first).to_be_visible()
    page.get_by_role("button", name="one more line").click()
    expect(page.get_by_text(re.compile(r"^Open 40 hours a week\. In these six weeks 30 days are open"))).to_be_visible()
    page.get_by_role("button", name="Days of line 1: Monday to Friday").click()
    page.get_by_role("button", name="Monday", exact=True).click()
    page.get_by_role("button", name="done").click()
    expect(page.get_by_role("button", name="Days of line 1: Tuesday to Friday")).to_be_focused()
    expect(page.get_by_text(re.compile("Open 32 hours a week"))).to_be_visible()
    closes = page.get_by_label("Line 1 closes")
    closes.fill("08:00")
    closes.press("Enter")
    expect(page.get_by_role("alert").filter(has_text="end after they begin")).to_be_visible()
    closes.fill("18:30")
    closes.press("Enter")
    expect(page.get_by_text(re.compile("Open 38 hours a week"))).to_be_visible()
    page.get_by_role("button", name="one more quiet line").click()
    expect(page.get_by_label("Quiet line 1 begins")).to_have_value("20:00")
    page.get_by_role("button", name="Purposes of quiet line 1: any purpose").click()
    page.get_by_role("button", name="what they booked or asked for").click()
    page.get_by_role("button", name="done").click()
    expect(page.get_by_role("button", name="Purposes of quiet line 1: news and offers")).to_be_visible()
    page.get_by_label("Holidays of the country").select_option(label="United States")
    tick = page.get_by_label("Thanksgiving Day")
    expect(tick).to_be_checked()
    tick.uncheck()
    expect(page.get_by_label("Thanksgiving Day")).not_to_be_checked()
    page.reload()
    expect(page.get_by_label("Thanksgiving Day")).not_to_be_checked()
    expect(page.get_by_label("Line 1 closes")).to_have_value("18:30")


def test_a_house_rule_that_refuses_keeps_a_workflow_from_being_published(open_page: Open) -> None:
    page = open_page(f"{SET_UP}/rules")
    page.get_by_label("The first text says who writes", exact=True).select_option(label="says")
    page.get_by_label("A first text that does not say who writes").select_option(label="is not published")
    kept(page)
    days = page.get_by_label("A workflow takes at most … days")
    days.fill("1")
    days.press("Enter")
    breaks = page.locator(".set-line").filter(has_text="A workflow takes at most")
    expect(breaks).to_contain_text("break it")
    breaks.get_by_role("link").first.click()
    page.get_by_text(re.compile(r"the house rule is 1 at the longest")).first.wait_for()


def test_a_connection_is_tried_and_switched_off_and_whoever_publishes_is_told(open_page: Open) -> None:
    page = open_page(f"{SET_UP}/connections")
    texts = page.get_by_role("row").filter(has_text="Texts")
    used_by = texts.get_by_role("link").first
    expect(used_by).to_be_visible()
    assert faults(page) == []
    mail = page.get_by_role("row").filter(has_text="Mail coming in")
    mail.get_by_role("button", name="Try it").click()
    expect(page.get_by_role("status").filter(has_text="When it comes in here, answers do, too.")).to_be_visible()
    expect(mail).to_contain_text("the test came in", timeout=20_000)
    often = page.get_by_label("Mail coming in: something comes at least every so many days")
    often.fill("3")
    often.press("Enter")
    expect(mail).to_contain_text("days apart at most")
    texts.get_by_role("button", name="Switch off").press("Enter")
    expect(texts).to_contain_text("by Imogen Farrow")
    used_by.click()
    expect(page.get_by_text("Texts: switched off by Imogen Farrow.", exact=False).first).to_be_visible()
    page.go_back()
    texts.get_by_role("button", name="Switch on").press("Enter")
    expect(texts.get_by_role("button", name="Switch off")).to_be_visible()
    page.get_by_role("navigation", name="Set-up").get_by_role("link", name="What changed").click()
    expect(page.get_by_role("row").filter(has_text="Texts").first).to_contain_text("Imogen Farrow")


def test_the_key_that_signs_is_made_and_shown_once(open_page: Open) -> None:
    page = open_page(f"{SET_UP}/connections")
    page.get_by_role("button", name="Make a key to check them by…").click()
    page.get_by_role("dialog").get_by_role("button", name="Make a new key").click()
    expect(page.get_by_text(re.compile("^whsec_"))).to_be_visible()
    page.reload()
    expect(page.get_by_role("button", name="Make a key to check them by…")).to_be_visible()
    expect(page.get_by_text(re.compile("^whsec_"))).to_have_count(0)
