"""The workflow page: scripts written as on paper, by real keys, from the sheet to the rehearsal."""

import json
import re
import time
from collections.abc import Callable

from playwright.sync_api import Page, expect

from tests.story.writing import Writer

SHEET = [
    "call today about the visit: How was it? What is still open?",
    "after 5 days text checking in: Hello, how do you get on?",
    "2 days later email three ways: There are three ways to go on. Which is yours?",
    "next day to-do look at what they said",
    "3 days later email places left: Two places are left. Shall I keep one?",
    "2 days later call about a place: Would they like one?",
    "a day later to-do decide what comes next",
]


def test_the_sheet_is_written_checked_and_rehearsed_by_keyboard_in_under_three_minutes(
    open_page: Callable[..., Page],
) -> None:
    page = open_page("/slipware-lane/workflows")
    began = time.monotonic()
    writer = Writer(page)
    writer.new("After the visit")
    page.get_by_role("button", name=re.compile("as if joining at")).focus()
    writer.press("Enter")
    page.get_by_label("as if joining at").fill("2026-03-02T09:30")  # a Monday; the field's own keys differ by locale
    writer.press("Enter", "Escape")
    page.evaluate("document.activeElement.blur()")
    for words in SHEET:
        page.keyboard.press("Enter")
        page.keyboard.type(words)  # key by key
        page.keyboard.press("Enter")
    expect(writer.lines).to_have_count(13)
    expect(writer.script).to_contain_text("Day 14")
    assert writer.days() == [0, 5, 7, 8, 11, 13, 14]
    writer.nothing_in_the_way()
    writer.press("Alt+2")
    expect(page.get_by_role("status").filter(has_text="on day 14")).to_be_visible()
    writer.kept()
    assert time.monotonic() - began < 180


def test_the_opt_in_renewal(open_page: Callable[..., Page]) -> None:
    page = open_page("/tern-harbour/workflows")
    writer = Writer(page)
    writer.new("May we go on, tested")
    writer.line("text may we go on: May we go on writing to you? Yes or no.")
    writer.line("ask 72 hours")
    writer.in_lane("answers yes")
    writer.line("tag opt-in renewed")
    writer.line("text thank you: Thank you, we keep it short.")
    writer.line("hand over Autumn checklist")
    writer.in_lane("answers no")
    writer.line("tag opt-in declined")
    writer.line("consent opted out of text")
    writer.in_lane("says nothing")
    writer.line("tag opt-in unanswered")
    writer.line("hand over to After the taster day")
    expect(writer.script).to_contain_text("Has 72 hours to answer.")
    expect(writer.script).to_contain_text("opted out of texts for marketing")
    expect(page.get_by_role("article", name="Goes on in After the taster day.")).to_be_visible()
    page.keyboard.press("Alt+2")
    page.get_by_role("button", name="“yes”").click()
    expect(page.get_by_label("Rehearsal").get_by_text("opt-in renewed", exact=True)).to_be_visible()


def test_the_visitor_follow_up(open_page: Callable[..., Page]) -> None:
    page = open_page("/tern-harbour/workflows")
    writer = Writer(page)
    writer.new("Visitors, tested")
    writer.start("when a form is sent", "when someone sends the form", {"form": "Open day"})
    writer.press("Escape")
    page.evaluate("document.activeElement.blur()")
    writer.line("email thank you for coming by: It was good to meet you.")
    writer.line("half a minute later text one question: Shall I keep a place? Yes or no.")
    writer.line("deal open day visitor")
    writer.to_part("pipeline")
    writer.part("pipeline", "Courses")
    writer.part("stage", "Talking")
    writer.press("ArrowLeft")
    writer.line("ask 1 day")
    writer.in_lane("answers yes")
    writer.line("tag keen visitor")
    writer.in_lane("answers no")
    writer.line("tag resting visitor")
    last = writer.lines.filter(has_text="to answer")
    writer.to(last)
    writer.line("1 day later at 10")
    writer.line("call about their visit: What did they like?")
    expect(writer.script).to_contain_text("Waits 30 seconds.")
    expect(writer.script).to_contain_text("Makes the deal open day visitor on Courses in Talking")
    expect(writer.script).to_contain_text("Waits 1 day, then goes on at 10:00.")
    expect(page.get_by_text("Starts when someone sends the form Open day")).to_be_visible()
    writer.nothing_in_the_way()


def test_the_old_list_of_six_texts(open_page: Callable[..., Page]) -> None:
    """The second to the sixth are copies: a text with its wait is copied, pasted and swapped."""
    page = open_page("/tern-harbour/workflows")
    writer = Writer(page)
    writer.new("Old list, tested")
    writer.line("text word one: Word one from us. Still there?")
    writer.line("ask 4 days")
    for lane in ("answers no", "says nothing"):
        writer.in_lane(lane)
        writer.press("Delete")
    writer.in_lane("answers yes")
    writer.line("call about what they once asked for: They answered today.")
    writer.line("end")
    writer.in_lane("answers anything else")
    writer.line("notice they wrote something else")
    writer.line("end")
    writer.to(writer.lines.first)
    writer.press("Shift+ArrowDown")
    expect(page.get_by_role("heading", name="2 lines")).to_be_visible()
    writer.press("Control+c")
    for pasted in range(1, 6):
        writer.press("Control+v")
        expect(writer.script.locator(".line.root")).to_have_count(2 * (pasted + 1))
    names = ["two", "three", "four", "five", "six"]
    texts = writer.script.locator(".line.root").filter(has_text="Texts")
    for number, name in enumerate(names, start=1):
        writer.to(texts.nth(number))
        writer.press("n")
        expect(page.get_by_role("textbox", name="Words of the text")).to_be_focused()
        page.get_by_label("Text, as the team calls it").press("Control+a")
        page.keyboard.type(f"Word {name}")
        writer.press("Escape")
    expect(texts).to_contain_text(["Word one", *(f"Word {name}" for name in names)])
    writer.nothing_in_the_way()
    expect(writer.script).to_contain_text("until Day 24")
    page.keyboard.press("Alt+2")
    for answered in range(1, 7):
        page.get_by_role("button", name="says nothing", exact=True).click()
        expect(page.get_by_role("button", name="Take “says nothing” back")).to_have_count(answered)
    expect(page.get_by_role("status").filter(has_text="on day 24")).to_be_visible()


def test_the_dated_greeting(open_page: Callable[..., Page]) -> None:
    page = open_page("/tern-harbour/workflows")
    writer = Writer(page)
    writer.new("Birthdays, tested")
    writer.start("when a date comes round", "on", {"field with a date": "birthday"})
    writer.to_part("time of day")
    writer.part("time of day", "8:30")
    writer.press("Escape")
    page.evaluate("document.activeElement.blur()")
    writer.line("email happy birthday: All of us wish you a good year.")
    expect(page.get_by_text("on birthday").first).to_be_visible()
    expect(page.get_by_role("group", name="How it starts and ends")).to_contain_text("each year, at 08:30")
    writer.nothing_in_the_way()


def test_lines_go_to_another_account_and_what_they_use_is_matched(open_page: Callable[..., Page]) -> None:
    page = open_page("/tern-harbour/workflows")
    writer = Writer(page)
    writer.new("To be carried over")
    writer.line("tag only at the harbour")
    writer.line("to-do tidy the deck")
    writer.press("Shift+ArrowUp", "Control+c")
    page.goto(page.url.replace("tern-harbour", "two-brakes").rsplit("/", 1)[0])
    other = Writer(page)
    other.new("Carried over")
    other.press("Control+v") if other.lines.count() else page.get_by_role("button", name="Paste").press("Enter")
    ask = page.get_by_role("dialog", name="These lines name things that are not here")
    field = ask.get_by_role("combobox", name="tag in place of only at the harbour")
    field.press("Control+a")
    page.keyboard.type("workshop regular")
    ask.get_by_role("button", name="Paste the lines").press("Enter")
    expect(other.lines).to_contain_text(["Tags workshop regular.", "Tidy the deck"])


def test_undo_goes_on_after_a_reload(open_page: Callable[..., Page]) -> None:
    page = open_page("/slipware-lane/workflows")
    writer = Writer(page)
    writer.new("Undone")
    for words in ("tag one", "tag two", "tag three"):
        writer.line(words)
    writer.kept()
    page.wait_for_timeout(1_000)
    page.reload()
    expect(writer.lines).to_have_count(3)
    page.wait_for_timeout(1_000)
    writer.press("Control+z", "Control+z")
    expect(writer.lines).to_have_count(1)
    writer.press("Control+y")
    expect(writer.lines).to_have_count(2)


def test_a_check_is_mended_by_one_key(open_page: Callable[..., Page]) -> None:
    page = open_page("/slipware-lane/workflows")
    writer = Writer(page)
    writer.new("To be mended")
    writer.line("text hello: Hello there.")
    writer.line("text again: And again.")
    expect(writer.script.get_by_text("goes out right after")).to_be_visible()
    writer.press("Alt+m")
    expect(writer.lines).to_contain_text(["Hello", "Waits 1 day", "Again"])
    expect(writer.script.get_by_text("goes out right after")).to_have_count(0)
    writer.press("Control+z")
    expect(writer.lines).to_have_count(2)


def test_words_are_found_and_replaced_in_all_messages_and_a_next_one_is_made(open_page: Callable[..., Page]) -> None:
    page = open_page("/slipware-lane/workflows")
    writer = Writer(page)
    writer.new("A series")
    writer.line("email week one: This is week one of the wheel class.")
    writer.press("n")
    page.get_by_role("button", name="Make the next one from this").press("Enter")
    page.get_by_label("words 1", exact=True).fill("week one")
    page.get_by_label("in place of words 1").fill("week two")
    expect(page.get_by_text("This is week two of the wheel class.")).to_be_visible()
    page.get_by_role("button", name="Write it below").press("Enter")
    expect(writer.lines).to_contain_text(["Week one", "Waits 7 days", "Week two"])
    writer.press("Alt+r")
    page.get_by_label("Find", exact=True).fill("wheel class")
    page.get_by_label("Put in its place").fill("throwing course")
    page.get_by_role("button", name="Replace in 2 texts").press("Enter")
    expect(page.get_by_text("2 texts changed")).to_be_visible()
    page.get_by_role("button", name="Back to the script").press("Enter")
    writer.to(writer.lines.first)
    expect(page.get_by_label("Words of the email")).to_have_text("This is week one of the throwing course.")


def test_a_running_workflow_is_changed_and_those_inside_are_moved(open_page: Callable[..., Page]) -> None:
    """Published with somebody inside, who is moved; the versions stand side by side, and one goes back."""
    page = open_page("/two-brakes/workflows")
    writer = Writer(page)
    writer.new("Moved along")
    writer.start("when a tag is added", "when someone is tagged", {"tags": "to be moved"})
    page.evaluate("document.activeElement.blur()")
    writer.line("wait 30 days")
    writer.line("tag waited")
    writer.kept()
    page.evaluate(TAG_SOMEBODY, "to be moved")
    writer.press("Alt+p")
    page.get_by_label("1 person matches this already.").check()
    page.get_by_role("button", name="Publish version 1").press("Enter")
    expect(page.get_by_text("1 person came in.")).to_be_visible()
    expect(page.get_by_text("1 person inside")).to_be_visible(timeout=20_000)
    writer.to(writer.lines.first)
    writer.line("tag in between")
    writer.kept()
    page.wait_for_timeout(3_000)  # the worker brings them to the wait
    writer.press("Alt+p")
    page.get_by_label("They are moved to the new one, step by step:").check()
    expect(page.get_by_text("Gains: Tags in between.")).to_be_visible()
    page.get_by_role("button", name="Publish version 2").press("Enter")
    expect(page.get_by_text("1 person was moved to it.")).to_be_visible()
    page.get_by_role("link", name="Versions").click()
    row = page.get_by_role("row").filter(has_text="whoever comes in gets this one")
    expect(row).to_contain_text("New: Tags in between.")
    page.get_by_role("button", name="Compare").nth(1).click()
    beside = page.get_by_role("region", name="Side by side")
    expect(beside).to_contain_text("1 difference")
    page.get_by_role("link", name="Make it the draft again").nth(1).click()
    expect(writer.lines).to_have_count(2)
    writer.press("Control+z")  # what was in the draft is not lost
    expect(writer.lines).to_have_count(3)


TAG_SOMEBODY = """async (tag) => {
  const account = location.pathname.split("/")[1];
  const token = document.cookie.match(/csrftoken=([^;]+)/)[1];
  const post = (what, body) => fetch(`/api/accounts/${account}/contacts/${what}`, {
    method: "POST",
    headers: { "Content-Type": "application/json", "X-CSRFToken": token },
    body: JSON.stringify(body),
  });
  const found = await (await post("find", { who: {} })).json();
  await post("tag", { who: { ids: [found.rows[0].id] }, tag });
}"""


def test_a_starter_is_read_taken_copied_and_put_away(open_page: Callable[..., Page]) -> None:
    page = open_page("/huon-street/workflows")
    page.get_by_role("link", name="Begin from a script").click()
    page.get_by_role("button", name="Review request").click()
    expect(page.get_by_role("region", name="The script")).to_contain_text("How was it? Good,")
    page.get_by_role("button", name="Use this one").click()
    expect(page.get_by_label("Name of the workflow")).to_have_value("Review request")
    page.get_by_role("link", name="Workflows").click()
    page.get_by_role("button", name="Copy Review request").click()
    page.get_by_role("button", name="Archive: Review request, copy").click()
    page.get_by_role("button", name="In the archive: 1").click()
    expect(page.get_by_role("link", name="Review request, copy")).to_be_visible()
    page.get_by_role("link", name="Where things are used").click()
    page.get_by_label("Search by name").fill("how was it")
    expect(page.get_by_role("row").filter(has_text="Review request")).to_be_visible()


def test_a_test_goes_to_oneself_and_is_counted_nowhere(open_page: Callable[..., Page]) -> None:
    page = open_page("/tern-harbour/workflows")
    page.get_by_role("link", name="After the taster day").click()
    writer = Writer(page)
    expect(writer.lines.first).to_be_visible()
    page.keyboard.press("ArrowDown")
    expect(page.get_by_role("button", name="Send it to me")).to_be_visible()
    page.keyboard.press("Alt+t")
    expect(page.get_by_text("Sent to imogen@example.com, marked as a test.")).to_be_visible()


def test_the_script_is_had_on_paper_and_as_a_flowchart(open_page: Callable[..., Page]) -> None:
    page = open_page("/tern-harbour/workflows")
    page.get_by_role("link", name="After the taster day").click()
    with page.expect_download() as download:
        page.get_by_role("link", name="On paper (PDF)").click()
    assert download.value.path().read_bytes().startswith(b"%PDF-")
    with page.expect_download() as download:
        page.get_by_role("link", name="Flowchart (Mermaid)").click()
    assert download.value.path().read_text().startswith("flowchart TD")


IN_NOTES = "document.querySelector('#notes').contains(document.activeElement)"
LABEL = "document.querySelectorAll('.line .part.open, .head .part.open')[{number}]?.getAttribute('aria-label')"


def test_every_kind_of_line_and_start_has_editors_for_all_its_parts(open_page: Callable[..., Page]) -> None:
    """Each part of every line of every kind opens an editor, or leads to the notes; so does each of every start."""
    page = open_page("/slipware-lane/workflows")
    writer = Writer(page)
    writer.new("Everything")
    catalogue = json.loads(
        page.evaluate(
            "(async () => (await fetch(location.pathname.replace(/^\\/([^/]+).*/, '/api/accounts/$1/catalogue'))).text())()"
        )
    )
    kinds = catalogue["written_with"]["kinds"]
    token = page.evaluate("document.cookie.match(/csrftoken=([^;]+)/)[1]")
    steps = [{**kind["blank"], "id": f"s-{number}"} for number, kind in enumerate(kinds)]
    for number, step in enumerate(steps):
        for at, lane in enumerate(step.get("lanes", ())):
            lane["id"] = f"l-{number}-{at}"
    starts = [kind["blank"] for kind in catalogue["written_with"]["triggers"]]
    document = {"name": "Everything", "steps": steps, "starts": starts}
    made = page.request.post(
        page.url.replace("/slipware", "/api/accounts/slipware").rsplit("/", 1)[0] + "/from-file",
        data={"text": json.dumps(document)},
        headers={"X-CSRFToken": token, "Referer": page.url},
    )
    assert made.ok, made.text()
    page.goto(page.url.rsplit("/", 1)[0] + f"/{made.json()['id']}")
    expect(writer.lines).to_have_count(len(kinds))
    expect(writer.script.get_by_text("…", exact=False).first).to_be_visible()
    parts = page.locator(".line .part.open, .head .part.open")
    labels = [part.get_attribute("aria-label") for part in parts.all()]
    assert len(labels) > 80
    for number in range(len(labels)):
        part = parts.nth(number)
        part.focus()
        page.keyboard.press("Enter")
        opened = (
            f"document.querySelector('.edit') || {IN_NOTES} || {LABEL.format(number=number)} !== {labels[number]!r}"
        )
        page.wait_for_function(f"() => {opened}", timeout=3_000)
        page.keyboard.press("Escape")
