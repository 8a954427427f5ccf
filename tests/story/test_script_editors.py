"""Editors in the script itself, where they stand in a line, a lane or the head: each sort can be used to the end, by keys and
by hand, and what was chosen is in the script."""

import time
from collections.abc import Callable

from playwright.sync_api import Page, expect

from tests.story.writing import Writer


def test_every_kind_of_test_can_be_chosen_and_edited_within_the_script(open_page: Callable[..., Page]) -> None:
    page = open_page("/slipware-lane/workflows")
    writer = Writer(page)
    writer.new("Conditions in place")
    writer.line("choose")
    head = page.locator(".lane-head").first
    head.locator(".part.open").first.click()
    kind = page.get_by_label("What is tested").first
    for number in range(kind.locator("option").count()):
        kind.focus()
        kind.select_option(index=number)
        expect(kind).to_be_focused()
        parts = page.locator(".edit.condition .said .part.open")
        for part in parts.all():
            part.click()
            if page.locator(".edit.condition .edit").count():  # what is one thing or the other turns over at once
                page.keyboard.press("Escape")
            expect(page.locator(".edit.condition")).to_be_visible()
    kind.select_option(label="the lead score")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(head).to_contain_text("score")
    # Tests joined, and one of them edited by keys alone.
    head.locator(".part.open").first.press("Enter")
    page.get_by_role("button", name="and another test").press("Enter")
    part = page.locator(".condition.inner .part.open").last
    part.press("Enter")
    page.keyboard.type("keen on kilns")
    page.keyboard.press("Control+Enter")
    page.get_by_role("button", name="Keep", exact=True).press("Enter")
    expect(head).to_contain_text("keen on kilns")
    expect(page.get_by_text("kept", exact=False).first).to_be_visible()


def test_words_that_no_part_takes_are_never_dropped(open_page: Callable[..., Page]) -> None:
    page = open_page("/slipware-lane/workflows")
    writer = Writer(page)
    writer.new("Nothing dropped")
    writer.line("on day 2 at 10:30 text tip one: Keep your clay damp")  # two lines, the second with its words
    expect(writer.lines).to_have_count(2)
    expect(writer.lines.last).to_contain_text("Texts Tip one")
    writer.to(writer.lines.last)
    expect(page.get_by_label("Words of the text")).to_have_text("Keep your clay damp")
    writer.line("wait 1 hour 30 minutes")
    expect(writer.lines.last).to_contain_text("Waits 90 minutes")
    writer.line("opt out of texts")
    expect(writer.lines.last).to_contain_text("opted out of texts")
    writer.press("Enter")
    page.keyboard.type("wait 3 days or so, whichever suits")
    expect(page.get_by_role("option").first).to_contain_text(
        "Not understood, and kept to be written: “or so, whichever suits”"
    )
    writer.press("Enter")
    expect(page.get_by_role("combobox", name="The new line")).to_have_value("or so, whichever suits")
    expect(writer.lines.last).to_contain_text("Waits 3 days")


def test_keys_do_what_is_meant_and_no_more(open_page: Callable[..., Page]) -> None:
    page = open_page("/slipware-lane/workflows")
    writer = Writer(page)
    writer.new("Keys")
    writer.line("ask")
    lanes = page.locator(".lane-head")
    expect(lanes.first).to_be_visible()
    before, lines = lanes.count(), writer.lines.count()
    writer.to(lanes.first)
    writer.press("Delete", "Delete")  # two lanes, and not the line above them
    expect(lanes).to_have_count(before - 2)
    expect(writer.lines).to_have_count(lines)
    writer.line("tag wheel class")
    writer.press("ArrowRight")
    writer.press("Escape")  # from the part back to its line
    expect(writer.lines.filter(has_text="wheel class")).to_be_focused()
    page.locator("main").click(position={"x": 1000, "y": 700})  # blank paper
    writer.press("Enter")
    expect(page.get_by_role("combobox", name="The new line")).to_be_focused()
    page.keyboard.type("email hello: Hello ")
    writer.press("Enter")
    words = page.get_by_label("Words of the email")
    words.click()
    writer.press("End")
    page.keyboard.type("{last")
    expect(page.get_by_role("listbox", name="Merge fields").get_by_role("option")).to_have_count(1)
    writer.press("Enter")
    expect(words).to_contain_text("last name")
    looks = page.get_by_role("tab")
    looks.first.focus()
    writer.press("ArrowRight", "ArrowRight")
    expect(page.get_by_role("tab", name="Watch", selected=True)).to_be_focused()


def test_a_name_that_fits_is_taken_by_enter_and_a_new_one_by_a_key_that_says_so(open_page: Callable[..., Page]) -> None:
    page = open_page("/tern-harbour/workflows")
    # The account's names arrive after the keys: what fits is taken all the same.
    page.route("**/api/accounts/*/names", lambda route: (time.sleep(1.5), route.continue_()))
    writer = Writer(page)
    writer.new("Names")
    for typed, keys, stands in (("tast", "Enter", "Tags taster day"), ("tast", "Control+Enter", "Tags tast.")):
        writer.line("tag x")
        writer.press("ArrowRight", "Enter", "Control+a")
        page.keyboard.type(typed)
        writer.press(keys)
        expect(writer.lines.last).to_contain_text(stands)
        writer.press("Escape")


def test_pages_that_are_typed_on_take_keys_at_once(open_page: Callable[..., Page]) -> None:
    page = open_page("/tern-harbour/people")
    page.get_by_role("link", name="Quick entry").click()
    expect(page.get_by_label("A line a person")).to_be_focused()
    page.goto(page.url.replace("people/quick", "today"))
    calls = page.locator(".call.open")
    expect(calls).to_be_visible()
    page.keyboard.press("5")  # asks when to ring back, and writes nothing down yet
    expect(page.locator(".call.open input[type='datetime-local']")).to_be_focused()
    page.goto(page.url.replace("today", "diary"))
    expect(page.get_by_role("heading", name="Diary")).to_be_visible()
    page.keyboard.press("?")
    keys = page.get_by_role("dialog", name="Keys")
    expect(keys).to_contain_text("to today")
    page.keyboard.press("Escape")
    expect(keys).to_have_count(0)
