"""Appointments in the browser, further: a visitor far away finds the times of their own zone and waits for a place; a form asks for a time;
the diary is dragged with the mouse; calendars go out and come in; a mail program answers."""

import re
from collections import Counter
from collections.abc import Callable
from datetime import date, timedelta
from pathlib import Path
from typing import Any

from playwright.sync_api import Browser, Locator, Page, expect

from tests.story.test_pages import faults

Open = Callable[..., Page]
BUSY = """BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//A dentist//EN\r\nBEGIN:VEVENT\r\nUID:1@dentist.example\r
DTSTAMP:20260301T090000Z\r\nDTSTART:20300107T113000Z\r\nDTEND:20300107T120000Z\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"""


def test_a_visitor_far_away_waits_for_a_place_in_their_own_zone_or_another(
    open_page: Open, browser: Browser, address: str
) -> None:
    set_up = open_page("/tern-harbour/set-up/appointments")
    url = set_up.get_by_role("link", name="See it: Evening on the water").get_attribute("href") or ""
    visitor = browser.new_context(timezone_id="Australia/Hobart", viewport={"width": 390, "height": 800})
    phone = visitor.new_page()
    phone.goto(address + "/book/" + url.rpartition("/")[2])
    expect(phone).to_have_url(re.compile(r"zone=Australia%2FHobart"))
    zone = phone.get_by_label("Times in")
    expect(zone).to_have_value("Australia/Hobart")
    assert phone.get_by_role("link", name="18:30").count() == 0 and faults(phone) == []
    zone.select_option(value="Europe/London")
    phone.get_by_role("button", name="Show").press("Enter")
    expect(zone).to_have_value("Europe/London")  # what they chose stays, whatever their browser says
    full = phone.get_by_role("listitem").filter(has_text="full")
    expect(full.first).to_have_text(re.compile("18:30"))
    full.first.get_by_role("link").click()
    phone.get_by_label("Your name").fill("Noor Halden")
    phone.get_by_label("Your email").fill("noor.halden@example.com")
    phone.get_by_role("button", name=re.compile("^Wait for a place")).press("Enter")
    expect(phone.get_by_role("heading", name="You are on the waiting list")).to_be_visible()
    phone.get_by_role("link", name="Leave the list").press("Enter")
    assert faults(phone) == []
    phone.get_by_role("button", name="Leave the list").press("Enter")
    expect(phone.get_by_text("You do not wait any more.")).to_be_visible()
    visitor.close()


def test_a_form_asks_for_a_time_and_whoever_sends_it_is_in_the_diary(
    open_page: Open, browser: Browser, address: str
) -> None:
    page = open_page("/tern-harbour/people/forms")
    page.get_by_role("link", name=re.compile("Open day")).first.click()
    page.get_by_role("button", name="One more question").press("Enter")
    number = page.get_by_label(re.compile(r"^Question \d+$")).count()
    with page.expect_response(lambda one: "appointment:Taster sail" in (one.request.post_data or "")) as kept:
        page.get_by_label(f"What question {number} fills").select_option(label="a time for “Taster sail”")
    assert kept.value.ok
    expect(page.get_by_label(f"Question {number}", exact=True)).to_have_value("When would you like to come?")
    expect(page.get_by_label("The form as it will be")).to_contain_text("one of the next free times, by day")
    assert faults(page) == []
    link = page.locator("a[href*='/f/']").first.get_attribute("href") or ""
    visitor = browser.new_context(java_script_enabled=False, viewport={"width": 390, "height": 800})
    phone = visitor.new_page()
    phone.goto(f"{address}/f/{link.rpartition('/')[2]}")
    when = phone.get_by_label("When would you like to come?")
    time = when.locator("optgroup").last.locator("option").last
    said = str(time.inner_text())
    when.select_option(value=time.get_attribute("value"))
    phone.get_by_label(re.compile("^Your name")).fill("Piet Marlow")
    phone.get_by_label(re.compile("^Your email")).fill("piet.marlow@example.com")
    phone.wait_for_timeout(3_100)  # sooner it would look like a program's
    phone.get_by_role("button").last.click()
    expect(phone.get_by_role("status")).to_contain_text(said)
    visitor.close()
    page.goto(f"{address}/tern-harbour/people?q=Piet")
    page.get_by_role("link", name="Piet Marlow").first.click()
    expect(page.get_by_text(re.compile(f"Taster sail.*{said}|{said}.*Taster sail")).first).to_be_visible()


def test_the_diary_is_dragged_and_asks_before_it_moves_anybody(open_page: Open, address: str) -> None:
    page = open_page("/tern-harbour/today", email="mel@example.com")
    booked = _of_mel(page, address)
    page.goto(f"{address}/tern-harbour/diary?as=day&day={booked['start'][:10]}")
    entry = page.locator(".ec-event.entry.ec-draggable", has_text=booked["people"][0]["contact"])
    before = entry.locator(".ec-event-time").inner_text()
    asked = page.get_by_role("dialog")
    _drag_to_the_top(page, entry)
    asked.get_by_role("button", name="Leave it").press("Enter")
    expect(asked).to_have_count(0)
    expect(entry.locator(".ec-event-time")).to_have_text(before)  # it went back
    _drag_to_the_top(page, entry)
    asked.get_by_role("checkbox", name=re.compile("^Tell ")).press("Space")
    moves = asked.get_by_role("button", name=re.compile("^Move .+ to "))
    to = moves.inner_text()[-5:]
    assert to < before
    moves.press("Enter")
    expect(asked).to_have_count(0)
    expect(entry.locator(".ec-event-time")).to_have_text(to)
    expect(entry).to_have_accessible_name(re.compile(r"\w+ \d+ \w+$"))  # the day, for who does not see its column


def _drag_to_the_top(page: Page, entry: Locator) -> None:
    box, body = entry.bounding_box(), page.locator(".ec-body").first.bounding_box()
    assert box and body
    x = box["x"] + box["width"] / 2
    page.mouse.move(x, box["y"] + 8)
    page.mouse.down()
    page.mouse.move(x, box["y"] - 20, steps=4)
    page.mouse.move(x, body["y"] + 12, steps=6)
    page.mouse.up()


def test_calendars_go_out_and_come_in(open_page: Open, tmp_path: Path) -> None:
    page = open_page("/tern-harbour/set-up/appointments")
    own = page.get_by_text("Your own appointments")
    expect(own).to_contain_text("are followed by nobody")
    page.get_by_role("button", name="Make an address").first.press("Enter")
    address = page.get_by_role("status").locator("code")
    expect(address).to_have_text(re.compile(r"/calendar/\S+\.ics$"))
    feed = page.request.get(re.sub(r"^https?://[^/]+", page.url.split("/tern")[0], address.inner_text()))
    assert feed.headers["content-type"].startswith("text/calendar") and "BEGIN:VCALENDAR" in feed.text()
    page.get_by_role("button", name="Take it away: Your own appointments").press("Enter")
    expect(own).to_contain_text("are followed by nobody")
    file = tmp_path / "dentist.ics"
    file.write_text("no calendar at all")
    chooser = page.get_by_label("or a file (.ics)")
    chooser.set_input_files(file)
    expect(page.get_by_text("it is no calendar (iCalendar, .ics)").first).to_be_visible()
    file.write_text(BUSY, newline="")
    chooser.set_input_files(file)
    line = page.get_by_text("is busy when “dentist.ics” says so")
    expect(line).to_be_visible()
    assert faults(page) == []
    page.get_by_role("button", name="Take out dentist.ics").press("Enter")
    expect(line).to_have_count(0)


def test_a_mail_program_declines_and_the_team_is_told(open_page: Open, address: str) -> None:
    page = open_page("/tern-harbour/outside")
    decline = page.get_by_role("button", name="decline")
    for name in _with_mel_alone(page, address):
        page.get_by_label("Whose phone and mailbox").fill(name)
        page.get_by_role("button", name=re.compile(f"^{name}")).first.press("Enter")
        mailbox = page.get_by_role("radio", name=re.compile("^mailbox"))
        expect(page.get_by_role("region", name=f"Phone and mailbox of {name}")).to_be_visible()
        if mailbox.count():
            mailbox.check()
            page.wait_for_load_state("networkidle")
        if decline.count() == 1:
            break
    expect(decline).to_be_visible()
    assert faults(page) == []
    with page.expect_response(lambda one: "/entries/" in one.url) as answered:
        decline.press("Enter")
    assert answered.value.ok
    today = open_page("/tern-harbour/today", email="mel@example.com")
    expect(today.get_by_text(re.compile(f"{name} cannot come: ")).first).to_be_visible()


def _with_mel_alone(page: Page, address: str) -> list[str]:
    """Who has a taster sail with Mel in the days to come, and nothing else there: Mel hears of what their mail program answers."""
    known, mel = _to_come(page, address)
    people = Counter(who["contact"] for one in known for who in one["people"])
    with_mel = [
        one for one in known if (one["member"], one["type"]) == (mel, "Taster sail") and len(one["people"]) == 1
    ]
    return [name for one in with_mel if people[name := one["people"][0]["contact"]] == 1]


def _of_mel(page: Page, address: str) -> dict[str, Any]:
    """A taster sail with Mel in the days to come."""
    known, mel = _to_come(page, address)
    sails = [one for one in known if (one["member"], one["type"]) == (mel, "Taster sail")]
    return next(one for one in reversed(sails) if one["start"][11:13] > "08")


def _to_come(page: Page, address: str) -> tuple[list[dict[str, Any]], int]:
    """What stands in the diary by the account's clock, which another story may have moved; and Mel's number."""
    api = f"{address}/api/accounts/tern-harbour"
    today = date.fromisoformat(page.request.get(f"{api}/").json()["local_now"][:10])
    known = page.request.get(f"{api}/calendar?days=20&start={today + timedelta(days=1)}").json()
    return known["entries"], next(one["id"] for one in known["members"] if one["name"] == "Mel Rowan")
