"""Every page by the keyboard alone: what can be pressed is come to and seen to be; and people are brought in, sorted, and
respected without a mouse."""

import re
from collections.abc import Callable

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.story.keys import Keys, walk

Open = Callable[..., Page]
PEOPLE = "/tern-harbour/people"
SOMEBODY = "the first contact's page"


@pytest.mark.parametrize(
    "paths",
    [
        ["/", "/tern-harbour/today", "/tern-harbour/replies", "/tern-harbour/diary", "/tern-harbour/diary?as=month", "/tern-harbour/outside?contact=1",
         "/tern-harbour/outside?stranger=1", "/tern-harbour/outside?advert=1"],
        [PEOPLE, SOMEBODY, f"{PEOPLE}/segments", f"{PEOPLE}/quick", f"{PEOPLE}/bring-in", f"{PEOPLE}/sorting"],
        ["/tern-harbour/set-up", "/tern-harbour/set-up/hours", "/tern-harbour/set-up/rules", "/tern-harbour/set-up/consent", "/tern-harbour/set-up/assistant",
         f"{PEOPLE}/duplicates", f"{PEOPLE}/forms", f"{PEOPLE}/forms/1", f"{PEOPLE}/words",
         f"{PEOPLE}/leads", f"{PEOPLE}/leads/1"],
        ["/tern-harbour/messages", "/tern-harbour/messages/1", "/tern-harbour/workflows", "/tern-harbour/workflows/2/versions", "/tern-harbour/workflows/starters",
         "/tern-harbour/workflows/uses", "/tern-harbour/workflows/waits"],
    ],
)  # fmt: skip
def test_tab_comes_to_everything_on_every_page_and_is_seen(open_page: Open, paths: list[str]) -> None:
    page = open_page("/")
    start = page.url.rstrip("/")
    for path in paths:
        page.goto(start + (PEOPLE if path is SOMEBODY else path))
        page.get_by_role("heading", level=1).first.wait_for()
        if path is SOMEBODY:
            page.locator("tbody a").first.click()
            page.get_by_role("button", name="Enrol…").wait_for()
        page.wait_for_load_state("networkidle")
        assert walk(page) == [], path


def test_a_contacts_pages_are_walked_by_keys(open_page: Open, browser: Browser) -> None:
    page = open_page(f"{PEOPLE}/forms/1")
    form = page.locator("a[href*='/f/']").first.get_attribute("href") or ""
    page.goto(page.url.split("/tern-harbour")[0] + PEOPLE)
    page.locator("tbody a").first.click()
    page.get_by_text("Their own page, quiet, proof").click()
    own = page.get_by_role("link", name="What they hear, as they see it").get_attribute("href") or ""
    phone = browser.new_page(viewport={"width": 390, "height": 800})
    for address in (form, own):
        phone.goto(address)
        assert walk(phone) == [], address
    phone.close()


def at(page: Page, path: str) -> None:
    page.goto(page.url.split("/tern-harbour")[0] + PEOPLE + path)
    page.get_by_role("heading", level=1).first.wait_for()


def test_people_are_brought_in_sorted_and_taken_back_by_keys(open_page: Open) -> None:
    page = open_page(f"{PEOPLE}/sorting")
    keys = Keys(page)
    keys.button("New field")
    keys.write("Name", "Locker")
    keys.choose("Kind", "number")
    keys.button("Keep")
    expect(page.get_by_role("row").filter(has_text="Locker")).to_contain_text("number")
    for name in ("gull", "gulls"):
        keys.button("New tag")
        keys.write("Name", name)
        keys.button("Keep")
        expect(page.get_by_role("link", name=name, exact=True)).to_be_visible()

    keys.link("Files")
    keys.button("Or paste rows")
    keys.fill(
        "Rows, with or without headings", "Name;Email;Locker\nIvo Tern;ivo.tern@example.com;12\nJo Wick;nowhere;7"
    )
    keys.button("Read the rows")
    keys.choose("What Locker is", "Locker (number)")
    expect(page.get_by_text("1 new, 0 changed, 0 left as they are, 1 not taken")).to_be_visible()
    keys.tick("to emails")
    keys.fill("How and when they said so", "asked at the slip")
    keys.fill(re.compile("^Tags"), "gulls")
    keys.button("Bring in 2 rows")
    expect(page.get_by_role("status").filter(has_text="came in: 1 new")).to_be_visible()

    keys.link("Fields, tags, lists")
    keys.button("Merge…", page.get_by_role("row").filter(has=page.get_by_role("link", name="gulls", exact=True)))
    keys.choose("Whoever has it gets", "gull (0)")
    keys.button("Merge")
    expect(page.get_by_role("link", name="gulls", exact=True)).to_have_count(0)
    keys.link(re.compile("^gull$"))
    expect(page.get_by_role("link", name="Ivo Tern")).to_be_visible()

    keys.tick("Choose Ivo Tern")
    keys.button("List…")
    keys.write("List", "slip")
    keys.button("Put them on it")
    keys.button("Undo")
    expect(page.get_by_role("button", name="Undo")).to_have_count(0)
    keys.link("Ivo Tern")
    expect(page.get_by_role("definition").filter(has_text=re.compile("^12$"))).to_be_visible()
    keys.to(page.get_by_role("button", name="Change", exact=True).last)
    keys.press("Enter")
    keys.fill("Locker", "14")
    keys.press("Enter")
    expect(page.get_by_role("definition").filter(has_text="14")).to_be_visible()

    at(page, "/bring-in")
    keys.button("Take back…")
    keys.button("Take it back")
    expect(page.get_by_role("status").filter(has_text="taken back")).to_contain_text("1 person stayed")


def test_a_segment_a_form_and_a_rule_are_made_by_keys(open_page: Open) -> None:
    page = open_page(f"{PEOPLE}/segments")
    keys = Keys(page)
    keys.button("New segment")
    keys.write("Name", "Harbour folk")
    keys.button("tag: …")
    expect(page.get_by_role("combobox", name="tag")).to_be_focused()
    keys.type("taster day")
    keys.press("Enter")
    expect(page.get_by_role("status")).to_contain_text(re.compile(r"^\d+ people"))
    keys.button("Keep the segment")
    expect(page.get_by_role("row").filter(has_text="Harbour folk")).to_contain_text("has the tag “taster day”")

    keys.link("Forms")
    keys.button("New form")
    keys.write("Name, by which workflows know it", "Harbour fair")
    keys.button("Make it")
    keys.button("One more question")
    keys.fill("Question 3", "Which boat?")
    keys.choose("What question 3 fills", "Boat")
    keys.button("ask for emails")
    expect(page.get_by_label("The form as it will be")).to_contain_text("Keelboat")
    expect(page.get_by_role("status").first).to_have_text("kept")

    keys.link("Incoming words")
    keys.button("New rule")
    keys.fill("Words, by comma", "oars, paddles")
    keys.fill("Gets the tags", "rowing")
    keys.button("Keep the rule")
    rule = page.get_by_role("row").filter(has_text="oars")
    expect(rule).to_contain_text("tags “rowing”")
    keys.fill("Try a text", "Paddles")
    expect(page.get_by_role("status").first).to_have_text("Rule 3 acts: tags “rowing”.")
    keys.button("Rule 3 up")
    expect(page.get_by_role("status").first).to_have_text("Rule 2 acts: tags “rowing”.")
    keys.button("Drop", rule)
    expect(page.get_by_role("dialog").get_by_text("What it did stays done.")).to_be_visible()
    page.keyboard.press("Enter")
    expect(rule).to_have_count(0)


def test_strangers_leads_and_consent_are_handled_by_keys(open_page: Open) -> None:
    page = open_page("/tern-harbour/outside")
    keys = Keys(page)
    keys.button("Somebody nobody knows")
    keys.to(page.get_by_role("radio", name="by text"))
    keys.press("ArrowDown")
    keys.fill("From the address", "petra.holm@example.com")
    keys.fill("Their name", "Petra Holm")
    keys.fill("What they write", "Do you rent out dinghies?")
    keys.button("Send it")
    expect(page.get_by_text("Kept apart: nobody here knows the writer.")).to_be_visible()
    keys.link("Today")
    keys.link("2 emails from people nobody here knows")
    keys.button("Make them a contact")
    keys.link("Petra Holm")
    expect(page.get_by_text("Do you rent out dinghies?").first).to_be_visible()
    keys.to(page.get_by_text("Their own page, quiet, proof"))
    keys.press("Enter")
    keys.button("4 weeks")
    expect(page.get_by_text("Asked for quiet until").first).to_be_visible()

    at(page, "/leads")
    keys.link("Spring advert")
    keys.choose("How person.full name is taken", "split into first and last")
    expect(page.get_by_role("status")).to_contain_text("first name")

    keys.link("Set-up")
    keys.link("Consent")
    keys.choose("News and offers: whom this account writes to", "only to who agreed")
    expect(page.get_by_role("status").filter(has_text="Kept.")).to_be_visible()
    keys.choose("News and offers: whom this account writes to", "to everybody until they object")
    expect(page.get_by_label("News and offers: whom this account writes to")).to_have_value("until_they_object")


def test_ctrl_k_leads_to_a_person_an_act_and_back_to_where_one_was(open_page: Callable[..., Page]) -> None:
    page = open_page("/tern-harbour/diary")
    expect(page.get_by_role("heading", name="Diary")).to_be_visible()
    page.keyboard.press("Control+k")
    sought = page.get_by_role("combobox", name="A person, a workflow")
    expect(sought).to_be_focused()
    page.keyboard.type("quinn elv")
    page.keyboard.press("Enter")  # before the answer can be there: it is waited for
    expect(page.get_by_role("heading", name="Quinn Elver")).to_be_visible()
    page.keyboard.press("Control+k")
    found = page.get_by_role("listbox", name="Found").get_by_role("option")
    expect(found.first).to_contain_text("Quinn Elver")  # where one went last
    page.keyboard.type("write new")
    expect(found).to_have_count(1)
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog", name="A new workflow")).to_be_visible()
    page.keyboard.type("Regatta")  # the first letter, too, is its name's
    expect(page.get_by_label("What is it called")).to_have_value("Regatta")
    page.keyboard.press("Escape")
    expect(page).to_have_url(re.compile("/workflows$"))
    page.keyboard.press("Control+k")
    page.keyboard.type("taster")
    expect(found.filter(has_text="After the taster day")).to_be_visible()
    expect(found.filter(has_text="tag").first).to_be_visible()
    page.keyboard.press("ArrowDown")
    expect(found.nth(1)).to_have_attribute("aria-selected", "true")
    page.keyboard.type(" nothing like it")
    expect(page.get_by_text("Nothing here is called that.")).to_be_visible()
