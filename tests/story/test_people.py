"""People in, sorted and respected, in the browser: a dirty file, quick entry by keys, a segment in words, a form from its
making to its answers, a lead and a word from outside, somebody's own page, two who are one."""

import re
from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, Route, expect

from tests.story.test_pages import faults

Open = Callable[..., Page]
PEOPLE = "/tern-harbour/people"
DIRTY = (
    "Full name;E-mail;Telephone;Born on;Unsubscribed\n"
    '"Aldous, Wren";wren.aldous@example.com;07700 900701;13/04/1987;\n'
    "Bess Marl;bess.marl@example.com;07700 900702;31/02/1990;\n"
    "Cass Thorne;cass.thorne@example.com;not a number;;\n"
    "Dilys Vane;dilys.vane@example.com;;25/12/1971;yes\n"
)


@pytest.mark.parametrize(
    "pages",
    [
        ["", "/segments", "/quick", "/bring-in", "/sorting"],
        ["/forms", "/forms/1", "/words", "/leads", "/leads/1", "/duplicates"],
    ],
)
def test_the_pages_of_people_pass_axe_and_fit_a_phone(open_page: Open, pages: list[str]) -> None:
    page = open_page(PEOPLE)
    for path in pages:
        page.goto(page.url.split("/tern-harbour")[0] + PEOPLE + path)
        page.get_by_role("heading", level=1).wait_for()
        page.wait_for_load_state("networkidle")
        assert faults(page) == [], path
        page.set_viewport_size({"width": 390, "height": 800})
        assert page.evaluate("document.documentElement.scrollWidth") <= 390, path
        assert faults(page) == [], f"{path}, on a phone"
        page.set_viewport_size({"width": 1280, "height": 800})


def test_a_dirty_file_is_matched_looked_at_brought_in_and_taken_back(open_page: Open, tmp_path: Path) -> None:
    file = tmp_path / "old members.csv"
    file.write_bytes(DIRTY.encode("cp1252"))
    page = open_page(f"{PEOPLE}/bring-in")
    page.get_by_label("Choose a file, or drop it here").set_input_files(file)
    expect(page.get_by_text("4 rows · CSV · cells: by semicolons")).to_be_visible()
    page.get_by_label("What Born on is").select_option(label="“Born on”, date")
    expect(page.get_by_label("How Born on is read")).to_have_value("day_first")
    expect(page.get_by_text("4 new, 0 changed, 0 left as they are, 0 not taken")).to_be_visible()
    expect(page.get_by_text("“31/02/1990” is no day of the calendar")).to_be_visible()
    page.get_by_label("to emails").check()
    page.get_by_label("How and when they said so").fill("sign-up sheet at the fair")
    page.get_by_label("Tags").last.fill("fair")
    page.get_by_role("button", name="Bring in 4 rows").click()
    expect(page.get_by_role("status").filter(has_text="came in: 4 new")).to_contain_text("2 without some cell")
    expect(page.get_by_role("row").filter(has_text="cass.thorne@example.com")).to_contain_text(
        "“not a number” is not a phone number"
    )
    with page.expect_download() as given:
        page.get_by_role("link", name=re.compile("2 rows to correct")).click()
    text = Path(given.value.path()).read_text(encoding="utf-8-sig")

    # The corrected rows come in as the rest did.
    again = tmp_path / "corrected.csv"
    again.write_text(text.replace("31/02/1990", "28/02/1990").replace("not a number", ""), encoding="utf-8")
    page.get_by_label("Choose a file, or drop it here").set_input_files(again)
    expect(page.get_by_text("matched: as “old members.csv” was")).to_be_visible()
    expect(page.get_by_label("How and when they said so")).to_have_value("sign-up sheet at the fair")
    page.get_by_role("button", name="Bring in 2 rows").click()
    expect(page.get_by_role("status").filter(has_text="came in: 0 new, 1 changed")).to_be_visible()

    page.get_by_role("row").filter(has_text="old members.csv").get_by_role("button", name="Take back…").click()
    page.get_by_role("button", name="Take it back").click()
    expect(page.get_by_role("status").filter(has_text="taken back")).to_contain_text("2 people stayed")
    page.goto(page.url.split("/tern-harbour")[0] + f"{PEOPLE}?tag=fair")
    expect(page.get_by_role("link", name="Bess Marl")).to_be_visible()
    expect(page.get_by_role("link", name="Wren Aldous")).to_have_count(0)


def test_a_notebook_is_typed_in_by_keys_alone(open_page: Open) -> None:
    page = open_page(f"{PEOPLE}/quick")
    page.get_by_label("A line a person").wait_for()
    page.keyboard.type(
        "Enid Rook 07700 900711 enid.rook@example.com asked about evenings #notebook\nfinn at the slip\nUna 07700 9007"
    )
    expect(page.get_by_label("First name of line 1")).to_have_value("Enid")
    expect(page.get_by_text("no email and no number yet")).to_be_visible()
    expect(page.get_by_label("Mobile of line 3")).to_have_value("07700 9007")  # as it was typed, to be corrected
    expect(page.get_by_role("button", name="Keep 1 person")).to_be_enabled()
    page.keyboard.press("Tab")
    page.keyboard.press("Tab")
    page.keyboard.type("Rooke")
    page.keyboard.press("Control+Enter")
    expect(page.get_by_text("1 new person, 0 known before.")).to_be_visible()
    expect(page.get_by_label("A line a person")).to_have_value("finn at the slip\nUna 07700 9007")
    page.get_by_label("Mobile of line 2").fill("07700 900712")
    page.keyboard.press("Control+Enter")
    expect(page.get_by_label("A line a person")).to_have_value("finn at the slip")
    page.goto(page.url.split("/tern-harbour")[0] + f"{PEOPLE}?tag=notebook")
    page.get_by_role("link", name="Enid Rooke").click()
    expect(page.get_by_text("asked about evenings")).to_be_visible()


def test_nobody_is_chosen_by_an_answer_to_what_was_asked_before(open_page: Open) -> None:
    """On a slow line the rows of the last question stay in sight until the next answer: they can't be chosen by mistake."""
    page = open_page(PEOPLE)
    everybody = page.get_by_label("Choose all on this page")
    expect(everybody).to_be_enabled()
    held: list[Route] = []
    page.route("**/contacts/find", lambda route: held.append(route))
    page.get_by_label("With the tag").select_option("taster day")
    expect(page.get_by_text("looking…")).to_be_visible()
    expect(everybody).to_be_disabled()
    expect(page.get_by_role("row").nth(1).get_by_role("checkbox")).to_be_disabled()
    for request in held:
        request.continue_()
    page.unroute("**/contacts/find")
    everybody.check()
    shown = page.get_by_role("row").count() - 1
    expect(page.get_by_text(f"{shown} people chosen", exact=True)).to_be_visible()
    expect(page.get_by_text(f"{shown} contacts found", exact=True)).to_be_visible()


def test_a_segment_is_written_in_words_counted_while_editing_and_used(open_page: Open) -> None:
    page = open_page(f"{PEOPLE}/segments")
    page.get_by_role("button", name="New segment").click()
    page.get_by_label("Name").fill("Texts, taster day")
    expect(page.get_by_role("status")).to_contain_text("no tag is named")
    page.get_by_role("button", name="tag: …").click()
    page.keyboard.type("taster day")
    page.keyboard.press("Enter")
    expect(page.get_by_role("status")).to_contain_text(re.compile(r"^\d+ people"))
    many = int(page.get_by_role("status").inner_text().split()[0])
    page.get_by_role("button", name="one more test").click()
    page.get_by_label("What is tested").last.select_option(label="whether they can be reached")
    expect(page.get_by_role("status")).to_have_attribute("aria-busy", "false")  # counted, and not being counted
    few = int(page.get_by_role("status").inner_text().split()[0])
    assert 0 < few < many
    page.get_by_role("button", name="Keep the segment").click()
    row = page.get_by_role("row").filter(has_text="Texts, taster day")
    expect(row).to_contain_text("has the tag “taster day” and can be reached by text")
    row.get_by_role("link").click()
    expect(page.get_by_text(f"{few} contacts found", exact=True)).to_be_visible()
    page.get_by_label("Choose all on this page").check()
    page.get_by_role("button", name="List…").click()
    page.get_by_label("List", exact=True).fill("texted in spring")
    page.get_by_role("button", name="Put them on it").click()
    expect(page.get_by_text(f"{few} contacts came onto the list")).to_be_visible()
    page.get_by_role("button", name="Give to…").click()
    page.get_by_label("Member").select_option(label="Mel Rowan")
    page.get_by_role("button", name="Give them to Mel Rowan").click()
    expect(page.get_by_text("now with Mel Rowan")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("Taken back.")).to_be_visible()

    # Another begins from it.
    page.goto(page.url.split("/tern-harbour")[0] + f"{PEOPLE}/segments")
    page.get_by_role("button", name="New segment").click()
    page.get_by_label("What is tested").last.select_option(label="Texts, taster day")
    expect(page.get_by_role("status")).to_contain_text(f"{few} people")


def test_what_a_condition_is_about_is_picked_from_the_names_there_are(open_page: Open) -> None:
    page = open_page(f"{PEOPLE}/segments")
    page.get_by_role("button", name="New segment").click()
    page.get_by_label("What is tested").last.select_option(label="how often something happened")
    page.get_by_role("button", name="what is counted: calls").click()
    page.get_by_label("what is counted").select_option(label="forms")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="+ about").click()
    page.keyboard.type("open")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="about: Open day")).to_be_visible()
    expect(page.get_by_role("status")).to_contain_text(
        re.compile("[3-9] people")
    )  # those who sent it in the demo, and in another story


def test_a_form_is_made_filled_in_on_a_phone_and_its_answers_come_by_themselves(
    open_page: Open, browser: Browser
) -> None:
    page = open_page(f"{PEOPLE}/forms")
    page.get_by_role("button", name="New form").click()
    page.get_by_label("Name, by which workflows know it").fill("Night sail")
    page.get_by_role("button", name="Make it").click()
    page.get_by_role("button", name="One more question").click()
    page.get_by_label("Question 3", exact=True).fill("Which boat?")
    page.get_by_label("What question 3 fills").select_option(label="Boat")
    page.get_by_role("button", name="ask for emails").click()
    page.get_by_label("many fill it in on one device").check()
    preview = page.get_by_label("The form as it will be")
    expect(preview).to_contain_text("Keelboat")
    page.get_by_label("Title").fill("Sail by night")
    expect(preview).to_contain_text("Sail by night")
    expect(page.get_by_role("status").first).to_have_text("kept")
    link = page.locator("a[href*='/f/']").first.get_attribute("href") or ""
    page.get_by_role("button", name="rename").press("Enter")
    page.keyboard.type("Open day")  # in the place of the old one, which is marked
    page.keyboard.press("Enter")
    expect(page.get_by_text("There is a form “Open day” already.")).to_be_visible()
    page.get_by_label("Name of the form").fill("Night sailing")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Night sailing")).to_be_visible()

    phone = browser.new_page(viewport={"width": 390, "height": 800})
    phone.goto(f"{link}?source=poster")
    assert faults(phone) == []
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    phone.get_by_label("Your name").fill("Gwyn Harrow")
    phone.get_by_label("Your email").fill("no address")
    phone.get_by_label("Keelboat").check()
    phone.get_by_role("button", name="Send").click()
    expect(phone.get_by_text("“no address” is not an email address.")).to_be_visible()
    assert faults(phone) == []
    phone.get_by_label("Your email").fill("gwyn.harrow@example.com")
    phone.get_by_label(re.compile("may send me emails")).check()
    phone.get_by_role("button", name="Send").click()  # at once: on one device that is no sign of a program
    expect(phone.get_by_text("Thank you.")).to_be_visible()

    row = page.get_by_role("row").filter(has_text="Gwyn Harrow")
    expect(row).to_contain_text("Which boat? Keelboat")
    expect(row).to_contain_text("poster")
    row.get_by_role("link").click()
    expect(page.get_by_text("Sent the form “Night sailing”")).to_be_visible()
    expect(page.get_by_text("Agreed to email")).to_be_visible()

    # Who knows no more than their address changes nothing: the team decides, with Tab and Enter.
    phone.goto(link)
    phone.get_by_label("Your name").fill("Gwen Harrow-Lee")
    phone.get_by_label("Your email").fill("gwyn.harrow@example.com")
    phone.get_by_role("button", name="Send").click()
    expect(phone.get_by_text("Thank you.")).to_be_visible()
    phone.close()
    decide = page.get_by_label("To decide on")
    expect(decide).to_contain_text("Gwen instead of Gwyn")
    expect(page.get_by_role("heading", name="Gwyn Harrow", exact=True)).to_be_visible()
    first = decide.get_by_role("button", name="Take it up").first
    first.focus()
    page.keyboard.press("Enter")
    expect(decide.get_by_role("button", name="Take it up")).to_have_count(1)
    decide.get_by_role("button", name="Leave it as it is").focus()
    page.keyboard.press("Enter")
    expect(decide).to_have_count(0)
    expect(page.get_by_role("heading", name=re.compile("Gwen Harrow$|Gwyn Harrow-Lee$"))).to_be_visible()


def test_a_lead_and_a_word_come_in_from_outside(open_page: Open) -> None:
    page = open_page("/tern-harbour/outside?advert=1")
    page.get_by_label("Full name").fill("hal penry")
    page.get_by_label("Email").fill("hal.penry@example.com")
    page.get_by_role("button", name="Send it").click()
    expect(page.get_by_text("It came in as a contact.")).to_be_visible()
    page.goto(page.url.split("/tern-harbour")[0] + f"{PEOPLE}/leads")
    page.get_by_role("link", name="Spring advert").click()
    expect(page.get_by_role("link", name="Hal Penry")).to_be_visible()
    page.get_by_label("How person.full name is taken").select_option(label="split into first and last")
    expect(page.get_by_role("status")).to_contain_text("first name")
    page.get_by_role("link", name="Incoming words").click()
    page.get_by_label("Try a text").fill("Sail?")
    expect(page.get_by_role("status")).to_have_text(
        "Rule 1 acts: tags “poster”, puts on the list “courses”, answers at once."
    )
    page.get_by_label("Try a text").fill("STOP")
    expect(page.get_by_role("status")).to_contain_text("Opts them out at once")


def test_a_contact_decides_by_themselves_and_the_team_sees_it(open_page: Open, browser: Browser) -> None:
    page = open_page(f"{PEOPLE}?q=orla")
    page.get_by_role("link", name="Orla Penrose").click()
    page.get_by_text("Their own page, quiet, proof").click()
    link = page.get_by_role("link", name="What they hear, as they see it").get_attribute("href") or ""
    own = browser.new_page(viewport={"width": 390, "height": 800})
    own.goto(link)
    assert faults(own) == []
    assert own.evaluate("document.documentElement.scrollWidth") <= 390
    own.get_by_label("Email: news and offers").uncheck()
    own.get_by_label("Race days and results").check()
    own.get_by_label("Pause").select_option(label="for 4 weeks")
    own.get_by_role("button", name="Keep these").click()
    expect(own.get_by_text("Kept. This is how it is now.")).to_be_visible()
    expect(own.get_by_label("Email: news and offers")).not_to_be_checked()
    assert faults(own) == []
    own.close()
    expect(page.get_by_text("Opted out of email")).to_be_visible()
    expect(page.get_by_text("Asked for quiet until").first).to_be_visible()
    expect(page.get_by_label("Take off the list race days")).to_be_visible()


def test_two_who_are_one_are_made_one(open_page: Open) -> None:
    page = open_page(f"{PEOPLE}/duplicates")
    pair = page.get_by_role("article").filter(has_text="Mabel Strand")
    expect(pair).to_contain_text("the same name")
    pair.get_by_label("m.strand@example.org").check()
    pair.get_by_role("button", name="Make them one").click()
    expect(page.get_by_text("Mabel Strand is one person now.")).to_be_visible()
    expect(pair).to_have_count(0)
    page.goto(page.url.split("/tern-harbour")[0] + f"{PEOPLE}?q=mabel")
    page.get_by_role("link", name="Mabel Strand").click()
    expect(page.get_by_text("m.strand@example.org", exact=True)).to_be_visible()
    page.get_by_text("Further addresses (").click()
    expect(page.get_by_text("mabel.strand@example.com").first).to_be_visible()


def test_enrolments_and_outside_lists_are_handled_on_the_contacts_page(open_page: Open) -> None:
    page = open_page(f"{PEOPLE}?tag=taster day")
    page.locator("tbody a").first.click()
    page.get_by_role("button", name="Enrol…").click()
    page.get_by_label("In which workflow").select_option(label="Season letter")
    page.get_by_role("button", name="Enrol 1 person").click()
    note = page.locator("aside .note").filter(has_text="Season letter").filter(has_text="Waits").first
    note.get_by_role("button", name="Pause").click()
    expect(note).to_contain_text("Paused since")
    note.get_by_role("button", name="Resume").click()
    expect(note).not_to_contain_text("Paused since")
    note.get_by_role("button", name="Move…").click()
    expect(note.get_by_label("Move to which line").locator("option")).not_to_have_count(1)
    page.get_by_text("Lists in outside services").click()
    page.get_by_label("Name of the list or series").fill("News")
    page.get_by_label("Outside service").fill("Gull Post")
    page.get_by_role("button", name="Put on").click()
    expect(page.get_by_text("list “News” at Gull Post")).to_be_visible()
    page.get_by_label("Take off the list News").click()
    expect(page.get_by_text("list “News” at Gull Post")).to_have_count(0)
