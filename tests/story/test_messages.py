"""The library of messages: looked at, other words published to those who say it, kept from a line and made a line's own again."""

import re
from collections.abc import Callable

from playwright.sync_api import Page, expect

from tests.story.test_pages import faults

Open = Callable[..., Page]


def test_other_words_go_to_all_who_say_them_and_a_line_keeps_or_takes_a_message(open_page: Open) -> None:
    page = open_page("/tern-harbour/messages")
    table = page.get_by_role("table", name="Messages")
    season = table.get_by_role("row").filter(has_text="What the harbour is doing")
    expect(season).to_contain_text("changes not published")
    expect(season).to_contain_text("Season letter")
    page.get_by_label("Search the messages").fill("under any tree")
    expect(table.get_by_role("row")).to_have_count(2)  # the heads, and the one that says so
    page.get_by_label("Search the messages").fill("")
    season.get_by_role("link", name="What the harbour is doing").focus()
    notes = page.get_by_role("complementary", name="Notes")
    expect(notes.get_by_role("heading", name="What the harbour is doing")).to_be_visible()
    expect(notes).to_contain_text("A change reaches")
    assert faults(page) == []
    page.keyboard.press("Enter")
    expect(page).to_have_title(re.compile("What the harbour is doing"))
    page.get_by_label("Words of the email").press("End")
    page.keyboard.type(" Bring a hat.")
    expect(page.get_by_text(re.compile("2 changes|1 change")).first).to_be_visible()
    page.get_by_role("button", name="Publish…").click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("“Season letter” says it from now on")
    expect(dialog).to_contain_text("scenarios of it hold")
    dialog.get_by_role("button", name=re.compile("Publish version 2")).click()
    expect(page.get_by_text("Version 2 is what is said from now on.")).to_be_visible()
    assert faults(page) == []
    page.get_by_role("complementary").get_by_role("link", name="Season letter").click()
    page.get_by_text("from the library").first.click()
    said = page.get_by_role("complementary", name="Notes")
    expect(said.get_by_text("Bring a hat.")).to_be_visible()
    said.get_by_role("button", name="Make it this line’s own").press("Enter")
    expect(said.get_by_label("Words of the email")).to_contain_text("Bring a hat.")
    said.get_by_role("button", name="Keep it in the library").press("Enter")
    named = said.get_by_label("In the library it is called")
    expect(named).to_have_value("What the harbour is doing")
    named.press("Enter")
    expect(said.get_by_text("There is a message “What the harbour is doing” already")).to_be_visible()
    named.fill("Winter at the harbour")
    named.press("Enter")
    expect(said.get_by_role("heading", name="Winter at the harbour")).to_be_visible()
    assert faults(page) == []
    page.get_by_role("link", name="Messages", exact=True).click()
    expect(table.get_by_role("row").filter(has_text="Winter at the harbour")).to_contain_text("Season letter")
    expect(season).to_contain_text("Season letter")  # the version that runs says it until the draft is published


def test_words_are_replaced_over_the_library_where_they_are_ticked(open_page: Open) -> None:
    page = open_page("/tern-harbour/messages")
    page.get_by_role("button", name="Find and replace").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Find").fill("tern-harbour.example.com")
    dialog.get_by_label("Say instead").fill("sailing.example.com")
    dialog.get_by_role("checkbox", name="A voucher for the tree").uncheck()
    assert faults(page) == []
    dialog.get_by_role("button", name=re.compile(r"Replace in \d messages?")).click()
    expect(page.get_by_text(re.compile(r"\d drafts? changed. What is said stays"))).to_be_visible()
    page.get_by_role("link", name="A voucher for the tree").click()
    expect(page.get_by_label("Words of the email")).to_contain_text("tern-harbour.example.com/vouchers")


def test_a_message_is_written_from_nothing_and_has_another_name_everywhere(open_page: Open) -> None:
    page = open_page("/tern-harbour/messages", width=390)
    page.get_by_role("button", name="Write a message").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("As the team calls it").fill("Still thinking")
    dialog.get_by_label("It goes by").select_option(label="text")
    dialog.get_by_role("button", name="Write it").click()
    expect(dialog.get_by_text("There is a message “Still thinking” already")).to_be_visible()
    dialog.get_by_label("As the team calls it").fill("Rain on Saturday")
    page.keyboard.press("Enter")
    page.get_by_label("Words of the text").fill("It rains on Saturday. Shall we make it Sunday?")
    expect(page.get_by_text(re.compile("1 part"))).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    assert faults(page) == []
    page.get_by_role("button", name="Publish…").click()
    page.get_by_role("dialog").get_by_role("button", name=re.compile("Publish version 1")).click()
    expect(page.get_by_text("Version 1 is what is said from now on.")).to_be_visible()
    page.get_by_role("button", name="Write it once to some people").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("with a tag").check()
    dialog.get_by_label("Tag", exact=True).select_option("wants a course")
    dialog.get_by_role("button", name=re.compile(r"Write it to \d+ (person|people)")).click()
    expect(page.get_by_text(re.compile(r"It is written to \d+"))).to_be_visible()
    page.get_by_role("button", name=re.compile("^rename")).click()
    page.get_by_label("Name of the message").fill("Rain at the weekend")
    page.keyboard.press("Enter")
    expect(page.get_by_text("It is called “Rain at the weekend” everywhere now.")).to_be_visible()
    page.get_by_role("link", name="All messages").click()
    expect(page.get_by_role("link", name="Rain at the weekend", exact=True)).to_be_visible()
    expect(page.get_by_role("table", name="Written once")).to_contain_text("Rain on Saturday, ")
