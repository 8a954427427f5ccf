"""Appointments in the browser: a type is set up in sentences, and somebody without scripts books it on a phone."""

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
    phone.get_by_role("region").first.get_by_role("link").first.click()
    book = phone.get_by_role("button", name="Book ")
    book.click()
    expect(phone.get_by_text("Please say who you are.")).to_be_visible()
    phone.get_by_label("Your name").fill("Ana Reyes")
    phone.get_by_label("Your email").fill("ana.reyes@example.com")
    book.click()
    expect(phone.get_by_role("heading", name="It is booked")).to_be_visible()
    phone.goto(address + booked_at)
    expect(phone.get_by_text("2 places").first).to_be_visible()
    seen = open_page(
        address.partition("//")[2].partition("/")[1] + address.partition("//")[2].partition("/")[2], width=390
    )
    assert seen.evaluate("document.documentElement.scrollWidth") <= 390
    assert faults(seen) == []
    visitor.close()
    page.reload()
    expect(page.get_by_text("1 time booked ahead")).to_be_visible()
