"""The client's yes on a phone, and the head, wordings and next ones of a message of the library."""

import re
from collections.abc import Callable

from playwright.sync_api import Page, expect

from tests.server.test_mail_heads import PDF
from tests.story.test_pages import faults

Open = Callable[..., Page]


def test_a_script_is_shown_to_the_client_who_remarks_and_agrees_on_a_phone(open_page: Open, address: str) -> None:
    page = open_page("/tern-harbour/workflows/2")
    page.get_by_role("button", name="Show it to the client").press("Enter")
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Whom", exact=True).fill("Wren Abbot")
    dialog.get_by_label("What you say with it").fill("Is the price right?")
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    link = dialog.get_by_label("Link for Wren Abbot")
    expect(link).to_have_value(re.compile("/s/"))
    assert faults(page) == []
    phone = page.context.browser.new_page(viewport={"width": 390, "height": 800})  # type: ignore[union-attr]  # somebody who is not signed in
    phone.goto(link.input_value())
    expect(phone.get_by_role("heading", name="After the taster day")).to_be_visible()
    expect(phone.get_by_text("Is the price right?")).to_be_visible()
    expect(phone.frame_locator("iframe").first.get_by_text("[first name, or “sailor”]")).to_be_visible()
    assert faults(phone) == []
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    phone.get_by_text("Say something about this line").first.press("Enter")
    phone.get_by_label("Your remark").first.fill("Could it say which weekend?")
    phone.get_by_label("Your name").first.fill("Wren Abbot")
    phone.get_by_role("button", name="Send the remark").first.press("Enter")
    expect(phone.get_by_text("Your remark is kept, and will be read.")).to_be_visible()
    expect(dialog.get_by_text("Could it say which weekend?")).to_be_visible()  # by itself
    dialog.get_by_label("Answer to Wren Abbot").fill("It does now")
    page.keyboard.press("Enter")
    expect(dialog.get_by_label("Answer to Wren Abbot")).to_have_count(0)
    phone.reload()
    expect(phone.get_by_text("It does now")).to_be_visible()
    phone.get_by_label("Your name").last.fill("Wren Abbot")
    phone.get_by_role("button", name="I agree").press("Enter")
    expect(phone.get_by_text(re.compile("Wren Abbot agreed on"))).to_be_visible()
    expect(dialog.get_by_text(re.compile("Wren Abbot agreed"))).to_be_visible()
    dialog.get_by_role("button", name="Close").click()
    expect(page.get_by_text(re.compile("Wren Abbot agreed"))).to_be_visible()
    assert faults(page) == []
    phone.close()


def test_an_email_has_a_head_wordings_by_shares_and_next_ones(open_page: Open) -> None:
    page = open_page("/tern-harbour/messages")
    page.get_by_role("button", name="Write a message").click()
    page.get_by_label("As the team calls it").fill("Week one")
    page.get_by_role("button", name="Write it").press("Enter")
    page.get_by_label("Subject", exact=True).fill("Week one on the water")
    page.get_by_label("Words of the email").fill("We begin in April. See https://tern-harbour.example.com/weeks")
    page.get_by_role("button", name=re.compile("^answers go to")).press("Enter")
    page.get_by_label("answers go to").fill("mel@example.com")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="answers go to: mel@example.com")).to_be_focused()
    page.get_by_label("Attach a file").set_input_files(
        files=[{"name": "tides.pdf", "mimeType": "application/pdf", "buffer": PDF}]
    )
    expect(page.get_by_role("link", name="tides.pdf")).to_be_visible()
    expect(page.get_by_text("carries a file")).to_be_visible()
    page.get_by_role("button", name="Other wording").press("Enter")
    page.get_by_label("Wording 2", exact=True).fill("April is when we begin.")
    page.get_by_label("How the wordings are given out").select_option("yes")
    page.get_by_label("Share of wording 2").fill("3")
    page.keyboard.press("Enter")
    expect(page.get_by_text("75%")).to_be_visible()
    assert faults(page) == []
    page.get_by_role("button", name="Write it as a letter, in lines: wording 2").press("Enter")
    expect(page.get_by_label("paragraph: words")).to_have_text("April is when we begin.")
    page.get_by_role("button", name="Back to the message").press("Enter")
    expect(page.get_by_text(re.compile("A letter of 1 line: “April is when we begin.”"))).to_be_visible()
    page.get_by_role("button", name="Make the next ones from this").press("Enter")
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Words that change").fill("week one;April\nweek two;May\nweek three")
    expect(dialog.get_by_text("Line 3")).to_be_visible()
    dialog.get_by_label("Words that change").fill("week one;April\nweek two;May\nweek three;June")
    expect(dialog.get_by_text("June is when we begin.")).to_be_visible()
    dialog.get_by_label("Write a script that says").check()
    dialog.get_by_label("From", exact=True).fill("2030-04-02")
    assert faults(page) == []
    dialog.get_by_role("button", name="Write 2 messages").press("Enter")
    expect(page.get_by_text("2 messages written from “Week one”.")).to_be_visible()
    expect(page.get_by_role("article").filter(has_text="On 2 April 2030 at 10:00")).to_be_visible()
    expect(page.get_by_role("article").filter(has_text="Week three")).to_be_visible()
