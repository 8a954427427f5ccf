"""Appointments in the browser: a type is set up in sentences; somebody without scripts books it on a phone, moves it and cancels it by
its link; the team books, moves and settles by keys, and deals with a day on which somebody is ill."""

import re
from collections.abc import Callable

from playwright.sync_api import Browser, Page, expect

from tests.story.test_pages import faults

Open = Callable[..., Page]


def test_a_type_is_set_up_and_booked_by_somebody_without_scripts(
    open_page: Open, browser: Browser, address: str
) -> None:
    page = open_page("/")
    page.get_by_role("button", name="New account").click()
    page.keyboard.type("Loom and Shuttle")
    page.keyboard.press("Tab")
    page.keyboard.type("lond")
    expect(page.get_by_label("By the clock of")).to_have_value("Europe/London")
    page.get_by_role("button", name="Make the account").click()
    chapters = page.get_by_role("navigation", name="Set-up")
    chapters.get_by_role("link", name="Appointments").click()
    expect(page.get_by_text("Nothing is free while no hours are set")).to_be_visible()
    page.get_by_role("link", name="open", exact=True).click()
    page.get_by_role("button", name="one more line").click()
    page.get_by_role("button", name="Days of line 1: Monday to Friday").wait_for()
    chapters.get_by_role("link", name="Appointments").click()
    page.get_by_label("Another type").fill("Weaving lesson")
    page.keyboard.press("Enter")
    minutes = page.get_by_label("Weaving lesson: minutes", exact=True)
    minutes.fill("1")
    minutes.press("Enter")
    expect(page.get_by_role("alert").filter(has_text="5")).to_be_visible()
    minutes.fill("90")
    minutes.press("Enter")
    places = page.get_by_label("Weaving lesson: how many at once")
    places.fill("3")
    places.press("Enter")
    page.get_by_label("A room, a boat, a kiln").fill("The big loom")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Weaving lesson: what it needs: nothing").press("Enter")
    page.get_by_role("button", name="The big loom", exact=True).click()
    page.get_by_role("button", name="done").click()
    expect(page.get_by_role("button", name="Weaving lesson: what it needs: The big loom")).to_be_visible()
    assert faults(page) == []
    booked_at = f"/book/{(page.get_by_role('link', name='See it').get_attribute('href') or '').rpartition('/')[2]}"

    visitor = browser.new_context(java_script_enabled=False, viewport={"width": 390, "height": 800})
    phone = visitor.new_page()
    phone.goto(address + booked_at)
    phone.get_by_role("region").nth(4).get_by_role("link").first.click()  # far enough away to be moved by oneself
    book = phone.get_by_role("button", name="Book ")
    book.click()
    expect(phone.get_by_text("Please say who you are.")).to_be_visible()
    phone.get_by_label("Your name").fill("Ana Reyes")
    phone.get_by_label("Your email").fill("ana.reyes@example.com")
    book.click()
    expect(phone.get_by_role("heading", name="It is booked")).to_be_visible()
    expect(phone.get_by_text("Weaving lesson:")).to_be_visible()
    phone.get_by_role("link", name="Move or cancel it").click()
    own = phone.url
    phone.get_by_role("button", name="I shall be there").click()
    expect(phone.get_by_text("We expect you.")).to_be_visible()
    phone.get_by_role("link", name="Choose another time").click()
    phone.get_by_role("region").last.get_by_role("link").last.click()
    phone.get_by_role("button", name="Move it to ").click()
    expect(phone.get_by_text("It is moved.")).to_be_visible()
    expect(phone.get_by_role("link", name="Put it in your calendar")).to_have_attribute(
        "href", re.compile(r"/calendar\.ics$")
    )
    phone.get_by_role("button", name="Cancel ").click()
    expect(phone.get_by_text("It is cancelled.")).to_be_visible()
    phone.goto(own)
    expect(phone.get_by_text("This appointment is cancelled.")).to_be_visible()
    for path in (booked_at, own.removeprefix(address)):
        seen = open_page(path, width=390)
        assert seen.evaluate("document.documentElement.scrollWidth") <= 390
        assert faults(seen) == []
    visitor.close()


def test_the_team_books_and_moves_by_keys_and_says_who_came(open_page: Open) -> None:
    page = open_page("/tern-harbour/people", email="mel@example.com")
    page.locator("tbody a").first.click()
    page.get_by_role("button", name="Book…").press("Enter")
    asked = page.get_by_role("dialog", name="Book an appointment")
    asked.get_by_label("Type", exact=True).select_option(label="Taster sail")
    asked.get_by_role("radio").last.focus()
    page.keyboard.press("Space")
    said = asked.get_by_role("button", name=re.compile("^Book Taster sail for .+, .+"))
    words = said.inner_text().rpartition(" for ")[2]
    said.press("Enter")
    expect(asked).to_have_count(0)
    when = words.partition(", ")[2]
    note = page.get_by_text(when).first
    expect(note).to_be_visible()
    page.get_by_role("button", name="Move… Taster sail").first.press("Enter")
    other = page.get_by_role("dialog", name=re.compile("Another time for"))
    other.get_by_role("button", name="At another time…").press("Enter")
    other.get_by_label("At", exact=True).fill("2030-01-07T07:15")  # nobody is there then, and the team may all the same
    other.get_by_role("button", name=re.compile("^Move it to Mon 7 Jan 2030, 07:15")).press("Enter")
    expect(other).to_have_count(0)
    expect(page.get_by_text(re.compile("Mon 7 Jan 2030, 07:15")).first).to_be_visible()

    page.goto(page.url.split("/people")[0] + "/diary?as=day&day=2030-01-07")
    entry = page.locator(".ec-event.entry")
    entry.focus()
    page.keyboard.press("Enter")
    opened = page.get_by_role("dialog", name=re.compile("Taster sail, Mon 7 Jan"))
    assert faults(page) == []
    opened.get_by_label("At", exact=True).fill("2030-01-07T09:45")
    opened.get_by_role("button", name=re.compile("^Move .+ to Mon 7 Jan 2030, 09:45")).press("Enter")
    expect(opened).to_have_count(0)
    expect(entry).to_contain_text("09:45")
    page.get_by_role("button", name="Somebody cannot come…").press("Enter")
    away = page.get_by_role("dialog", name="Somebody cannot come")
    member = "Mel Rowan" if away.get_by_text("Taster sail").count() else ""
    for name in (member, "Ansel Drewe", "Mel Rowan"):
        if name:
            away.get_by_label("Who", exact=True).select_option(label=name)
        expect(away.get_by_text(re.compile("Taster sail|Nothing of"))).to_be_visible()
        if away.get_by_text("Taster sail").count():
            break
    assert faults(page) == []
    away.get_by_role("button", name=re.compile("to others, call off|cannot be booked")).press("Enter")
    expect(away).to_have_count(0)

    page.goto(page.url.split("/diary")[0] + "/today")
    expect(page.get_by_role("heading", name=re.compile("appointments? today"))).to_be_visible()
    came = page.get_by_role("group", name=re.compile("Taster sail|Evening on the water")).filter(
        has=page.get_by_role("button", name=re.compile("^Came: "))
    )
    if page.get_by_text(re.compile("of this week: did they come")).count():
        page.locator("details.unsaid").evaluate("(one) => (one.open = true)")
    count = came.count()
    assert count
    came.first.focus()
    page.keyboard.press("a")
    expect(came).to_have_count(count - 1)
