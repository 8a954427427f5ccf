"""A deal in the browser from the form it came by to the answer that ends its workflow; and what nobody wanted to start by it."""

import re
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Browser, Page, expect

from tests.story.keys import Keys

Open = Callable[..., Page]
FOLLOW_UP = """
format: bluffside-workflow/2
name: After the asking
entry: {each: deal, again: never}
leaves_on: [{kind: replied}]
steps:
  - {id: mail, kind: email, message: {name: You asked, subject: "About {{ deal.name }}", body: "Hi {{ contact.first_name }}, good that you asked."}}
  - {id: wait, kind: wait, duration: 15 minutes}
  - {id: ring, kind: call, about: what they asked, say: "Hi {{ contact.first_name }}"}
  - {id: rest, kind: wait, duration: 9 days}
  - {id: last, kind: note, text: Came to the end}
"""
MOVED = """
format: bluffside-workflow/2
name: Somebody talks
starts: [{kind: stage_changed, pipeline: Courses, into: Talking, by: {who: anyone_but, member: Imogen Farrow}}]
leaves_on: []
steps:
  - {id: say, kind: text, message: {name: In talks, body: "Hi, we are in talks."}}
  - {id: rest, kind: wait, duration: 9 days}
  - {id: last, kind: note, text: Came to the end}
"""


def bring_in(page: Page, name: str, text: str, tmp_path: Path) -> None:
    """A workflow from a file, published as it is."""
    file = tmp_path / "workflow.yaml"
    file.write_text(text)
    page.goto(page.url.split("/tern-harbour")[0] + "/tern-harbour/workflows")
    page.get_by_label("Bring in a file").set_input_files(file)
    expect(page.get_by_label("Name of the workflow")).to_have_value(name)
    page.get_by_role("button", name="Publish…").click()
    page.get_by_role("button", name="Publish version 1").click()
    expect(page.get_by_text("Version 1 runs, 0 people inside")).to_be_visible()


def go_to_deals(page: Page) -> None:
    """Those of some worth alone: of a cell of the table only the first are shown."""
    page.get_by_role("link", name="Deals", exact=True).click()
    least = page.get_by_label("Worth at least")
    least.fill("8000")
    least.press("Enter")
    page.get_by_role("columnheader", name=re.compile("^Talking")).wait_for()


def test_a_deal_comes_by_form_and_leaves_its_workflow_by_its_answer(
    open_page: Open, browser: Browser, tmp_path: Path
) -> None:
    page = open_page("/tern-harbour/people/forms/1")
    page.get_by_label("A deal is made for them").select_option(label="in New of Courses")
    page.get_by_label("What the deal is about").fill("Night sailing")
    page.get_by_label("What the deal is about").blur()
    page.get_by_label("Worth", exact=True).fill("9000")
    with page.expect_response(lambda answer: "9000" in (answer.request.post_data or "")):
        page.get_by_label("Worth", exact=True).blur()
    expect(page.get_by_role("status").first).to_have_text("kept")
    link = page.locator("a[href*='/f/']").first.get_attribute("href") or ""
    bring_in(page, "After the asking", FOLLOW_UP, tmp_path)
    bring_in(page, "Somebody talks", MOVED, tmp_path)

    phone = browser.new_page(viewport={"width": 390, "height": 800})
    phone.goto(link)
    phone.get_by_label("Your name").fill("Gwyn Harrow")
    phone.get_by_label("Your email").fill("gwyn.harrow@example.com")
    phone.get_by_label("Your mobile number").fill("07700 900655")
    phone.wait_for_timeout(4_000)  # at once is how programs send it
    phone.get_by_role("button", name="Keep me a place").click()
    expect(phone.get_by_text("Thank you")).to_be_visible()
    phone.close()

    # Looked at, and enrolled as a deal: mailed at once.
    go_to_deals(page)
    deal = page.get_by_role("article").filter(has_text="Gwyn Harrow")
    keys = Keys(page)
    keys.to(deal)
    page.keyboard.press("e")
    asked = page.get_by_role("dialog", name="Enrol 1 deal")
    asked.get_by_label("In which workflow").select_option(label="After the asking")
    expect(asked.get_by_text("1 deal comes in")).to_be_visible()
    asked.get_by_role("button", name="Enrol 1 deal").press("Enter")
    expect(page.get_by_text("1 deal came in.")).to_be_visible()

    page.get_by_role("link", name="Outside").click()
    page.get_by_label("Whose phone and mailbox").fill("Gwyn Harrow")
    page.get_by_role("button", name="Gwyn Harrow").click()
    page.get_by_role("radio", name=re.compile("^mailbox")).check()
    expect(page.get_by_text("About Night sailing").first).to_be_visible()
    for n in range(20):  # rung a quarter of an hour later, as soon as the team is there: it may be a weekend
        page.get_by_role("button", name="an hour on" if n < 16 else "a day on").click()
        page.wait_for_timeout(2_500)
        page.get_by_role("link", name=re.compile("^Today")).click()
        page.get_by_role("heading", level=1).first.wait_for()
        page.wait_for_load_state("networkidle")
        if page.get_by_role("group", name="Call Gwyn Harrow").count():
            break
        page.get_by_role("link", name="Outside").click()
    expect(page.get_by_role("group", name="Call Gwyn Harrow")).to_contain_text("what they asked")

    # Moved by whom it is not to start by: nothing; taken back, and moved by another: it starts, and what was sent stays sent.
    go_to_deals(page)
    keys.to(deal)
    page.keyboard.press("ArrowRight")
    expect(page.get_by_text("Gwyn Harrow is in Talking")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_text("Taken back.")).to_be_visible()
    team = open_page("/tern-harbour/deals?pipeline=Courses&least=8000", email="mel@example.com")
    theirs = team.get_by_role("article").filter(has_text="Gwyn Harrow")
    Keys(team).to(theirs)
    team.keyboard.press("ArrowRight")
    expect(team.get_by_text("Gwyn Harrow is in Talking")).to_be_visible()
    phone = open_page("/tern-harbour/workflows")
    row = phone.get_by_role("row").filter(has_text="Somebody talks")
    expect(row).to_contain_text(re.compile(r"\b1\b"))
    phone.goto(phone.url.replace("/workflows", "/people"))
    phone.get_by_role("searchbox").first.fill("Gwyn Harrow")
    phone.get_by_role("link", name="Gwyn Harrow").click()
    for _ in range(24):
        if phone.get_by_text("“In talks”").count():
            break
        page.get_by_role("link", name="Outside").click()
        page.get_by_role("button", name="an hour on").click()
        page.wait_for_timeout(2_500)
    expect(phone.get_by_text("“In talks”").first).to_be_visible()
    theirs.focus()
    team.keyboard.press("Control+z")
    expect(team.get_by_text(re.compile("Taken back.*In talks"))).to_be_visible()

    # The answer ends it.
    page.get_by_role("link", name="Outside").click()
    page.get_by_label("Whose phone and mailbox").fill("Gwyn Harrow")
    page.get_by_role("button", name="Gwyn Harrow").click()
    page.get_by_label("Write as Gwyn Harrow").fill("I will come along!")
    page.get_by_role("button", name="Send", exact=True).click()
    expect(phone.get_by_text(re.compile("Left “After the asking”")).first).to_be_visible()
