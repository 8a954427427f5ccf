"""From three answers to a live account, in the browser; put away and brought back."""

import gzip
import json
import re
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.story.test_pages import faults

Open = Callable[..., Page]


def test_an_account_is_made_set_up_and_goes_live(open_page: Open) -> None:
    page = open_page("/")
    page.get_by_role("button", name="New account").click()
    page.keyboard.type("Kauri Kayaks")
    page.keyboard.press("Tab")
    page.keyboard.type("auckl")
    expect(page.get_by_label("By the clock of")).to_have_value("Pacific/Auckland")
    page.get_by_label("What does it do?").fill("kayaks for hire")
    page.get_by_label("House rules, hours and brand").select_option(label="as Tern Harbour Sailing has them")
    assert faults(page) == []
    page.get_by_role("button", name="Make the account").click()
    expect(page.get_by_role("heading", name="The business", level=1)).to_be_visible()
    expect(page.get_by_label("Country", exact=True)).to_have_value("NZ")
    line = page.get_by_role("status").filter(has_text="Not live yet.")
    expect(line).to_contain_text("Messages reach your own team alone.")

    # A workflow from the starter set says what is missing.
    page.goto(page.url.split("/set-up")[0] + "/workflows/starters")
    page.get_by_role("button", name="Use this one").click()
    page.get_by_role("button", name=re.compile("^Publish")).click()
    page.get_by_role("dialog").get_by_role("button", name=re.compile("^Publish")).click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    line.get_by_role("link", name="What is still missing").click()
    expect(page.get_by_role("heading", name="Going live", level=1)).to_be_visible()
    expect(page.get_by_role("button", name="Go live…")).to_be_disabled()
    assert faults(page) == []
    page.get_by_role("link", name=re.compile("Set it: Commercial email")).click()
    page.get_by_label("Postal address", exact=True).fill("2 Wharf Road, Auckland")
    page.keyboard.press("Enter")
    expect(page.get_by_role("status").filter(has_text="Kept.")).to_be_visible()

    # Whom its messages come from: an address that is confirmed by a code, and a number.
    page.get_by_role("navigation", name="Set-up").get_by_role("link", name="Senders").click()
    for channel, label, value in [
        ("an address: emails", "Address", "hello@kauri.example.com"),
        ("a number: texts and voicemails", "Number", "+64 21 555 0100"),
    ]:
        page.get_by_role("button", name="Another sender").click()
        ask = page.get_by_role("dialog", name="Another sender")
        ask.get_by_label("Messages come from").select_option(label=channel)
        ask.get_by_label(label, exact=True).fill(value)
        page.keyboard.press("Enter")
        expect(ask).to_have_count(0)
    expect(page.get_by_text("Nothing comes from it before it is confirmed.")).to_be_visible()
    assert faults(page) == []
    other = open_page("/mailbox")
    other.get_by_label("To", exact=True).fill("hello@kauri.example.com")
    mail = other.get_by_role("article").first
    expect(mail).to_contain_text("within an hour", timeout=20_000)
    code = re.search(r"an hour: (\d{6})", mail.inner_text())
    page.get_by_label("The code that was mailed to it").fill(code[1] if code else "")
    page.keyboard.press("Enter")
    expect(page.get_by_text("hello@kauri.example.com is confirmed")).to_be_visible()
    page.get_by_role("navigation", name="Set-up").get_by_role("link", name="Going live").click()
    page.get_by_role("button", name="Go live…").click()
    page.get_by_role("dialog").get_by_role("button", name="Go live").click()
    expect(page.get_by_text("Its messages reach everybody they are meant for.")).to_be_visible()
    expect(line).to_have_count(0)
    page.get_by_role("navigation", name="Set-up").get_by_role("link", name="What changed").click()
    row = page.get_by_role("row").filter(has_text="tried out")
    expect(row).to_contain_text("live")

    # Put away, and brought back.
    page.goto("/".join(page.url.split("/")[:3]))
    row = page.get_by_role("row").filter(has_text="Kauri Kayaks")
    expect(row).to_contain_text("live")
    row.get_by_role("button", name="Put away…").click()
    page.get_by_role("dialog").get_by_role("button", name="Put it away").click()
    expect(row).to_have_count(0)
    page.get_by_role("button", name=re.compile(r"^\d+ put away$")).click()
    row.get_by_role("button", name="Bring back").click()
    expect(page.get_by_role("row").filter(has_text="Kauri Kayaks")).to_contain_text("stopped")
    page.set_viewport_size({"width": 390, "height": 800})
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    assert faults(page) == []


def test_an_account_is_taken_out_and_deleted_for_good_and_nobody_finds_it_again(open_page: Open) -> None:
    page = open_page("/")
    page.get_by_role("button", name="New account").click()
    page.keyboard.type("Fleeting Ferries")
    page.keyboard.press("Tab")
    page.keyboard.type("lond")
    expect(page.get_by_label("By the clock of")).to_have_value("Europe/London")
    page.get_by_role("button", name="Make the account").click()
    expect(page.get_by_role("heading", name="The business", level=1)).to_be_visible()
    there = page.url
    page.goto("/".join(there.split("/")[:3]))
    row = page.get_by_role("row").filter(has_text="Fleeting Ferries")
    row.get_by_role("button", name="Put away…").click()
    page.get_by_role("button", name="Put it away").click()
    page.get_by_role("button", name=re.compile(r"^\d+ put away$")).click()
    row.get_by_role("button", name="Delete for good…").press("Enter")
    ask = page.get_by_role("dialog", name="Delete Fleeting Ferries for good")
    delete = ask.get_by_role("button", name="Delete it for good")
    expect(ask.get_by_text("Make a file of everything it owns first.")).to_be_visible()
    expect(delete).to_be_disabled()
    ask.get_by_role("button", name="Make the file").click()
    with page.expect_download() as taken:
        ask.get_by_role("link", name="Take it").click()
    lines = gzip.decompress(Path(taken.value.path()).read_bytes()).decode().splitlines()
    assert json.loads(lines[0])["account"]["name"] == "Fleeting Ferries"
    typed = ask.get_by_label("Type “Fleeting Ferries”")
    expect(typed).to_be_enabled()
    assert faults(page) == []
    typed.fill("Fleeting")
    expect(delete).to_be_disabled()
    typed.fill("Fleeting Ferries")
    delete.click()
    gone = page.get_by_role("list", name="Deleted accounts").get_by_text(
        "Fleeting Ferries was deleted by Imogen Farrow"
    )
    expect(gone).to_be_visible(timeout=20_000)
    expect(row).to_have_count(0)
    page.goto(there)
    expect(page.get_by_text("Fleeting Ferries")).to_have_count(0)
