"""Trust before, control after, in the browser: rehearsing, scenarios, the series to oneself, bringing people in, watching,
why and why not, the diary, and that what happens shows by itself."""

import re
from collections.abc import Callable
from io import BytesIO

import pytest
from playwright.sync_api import Page, expect
from pypdf import PdfReader

from tests.story.writing import Writer

Open = Callable[..., Page]


def follow_up(page: Page, name: str, *lines: str, publish: bool = True) -> Writer:
    """A workflow of these lines, written by keys, and published when it shall be."""
    page.get_by_role("heading", name="Workflows").wait_for()
    writer = Writer(page)
    writer.new(name)
    for line in lines:
        writer.line(line)
    writer.kept()
    if publish:
        page.keyboard.press("Alt+p")
        page.get_by_role("button", name=re.compile("Publish version")).click()
        expect(page.get_by_text("Version 1 runs, 0 people inside")).to_be_visible()
    return writer


def look(page: Page, number: int) -> None:
    page.keyboard.press("Escape")
    page.keyboard.press(f"Alt+{number}")


def test_a_rehearsal_is_stepped_through_answered_kept_and_guards_the_next_publish(open_page: Open) -> None:
    page = open_page("/tern-harbour/workflows")
    lines = ("text hello: Hi, keen on a course? Yes or no.", "ask", "email three ways: Here they are")
    writer = follow_up(page, "Guarded", *lines, publish=False)
    writer.in_lane("answers yes")
    writer.line("tag wants a course")
    writer.kept()
    look(page, 2)
    pane = page.get_by_label("Rehearsal")
    expect(pane).to_contain_text("Waits for an answer")

    # A typical few of the account; from a moment that tells; step by step.
    pane.get_by_role("button", name="A typical few of the account").click()
    expect(pane).to_contain_text(re.compile(r"Of \d+ contacts looked at"))
    pane.locator(".few button").first.click()
    expect(pane.get_by_role("button", name=re.compile("▾"))).not_to_contain_text("Robin")
    pane.get_by_role("button", name="on Friday evening").click()
    expect(pane).to_contain_text(re.compile(r"Fri \d+ \w+, 18:00"))
    pane.get_by_role("button", name="Step →").click()
    expect(pane).to_contain_text("to come.")
    expect(page.locator(".line.at")).to_have_count(1)
    writer.lines.first.focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")

    # One answer, taken back, another one; then kept with one key.
    page.get_by_role("button", name="says “no”").click()
    page.get_by_role("button", name=re.compile("Take “says “no”")).click()
    page.get_by_role("button", name="says “yes”").click()
    expect(pane.get_by_text("wants a course", exact=True)).to_be_visible()
    page.keyboard.press("Alt+k")
    expect(pane.get_by_text("Kept as “Says “yes” after 3 hours”.")).to_be_visible()
    expect(page.get_by_role("button", name="1 scenario holds")).to_be_visible()
    expect(pane).to_contain_text(re.compile("No scenario comes to|come to every line"))

    # A change that breaks it is told at once; publishing says so and asks.
    look(page, 1)
    tag = writer.script.get_by_text("Tags wants a course")
    tag.click()
    page.keyboard.press("Delete")
    expect(page.get_by_role("button", name="1 of 1 scenario fails")).to_be_visible()
    writer.kept()
    page.keyboard.press("Alt+p")
    publish = page.get_by_role("button", name="Publish version 1")
    expect(page.get_by_text("does not come true any more")).to_be_visible()
    expect(publish).to_be_disabled()
    page.get_by_label("Publish although it fails").check()
    publish.click()
    expect(page.get_by_text("Version 1 runs")).to_be_visible()


def test_a_reminder_is_rehearsed_with_its_appointment_moved(open_page: Open) -> None:
    page = open_page("/tern-harbour/workflows")
    writer = follow_up(page, "Reminds", "remind", "text soon: See you on {{ appointment.date }}.", publish=False)
    look(page, 2)
    pane = page.get_by_label("Rehearsal")
    expect(pane).to_contain_text("Has no appointment: lines that go by it are left out.")
    pane.get_by_role("button", name="Give them one").click()
    expect(writer.script.locator("blockquote")).to_have_count(1)
    pane.get_by_text("What if it moves?").click()
    pane.get_by_label("After how long it moves").fill("4 days")
    pane.get_by_role("button", name="Move it").click()
    expect(writer.script.locator("blockquote")).to_have_count(2)  # once for each date
    expect(writer.script).to_contain_text("Planned anew, since the date has moved.")
    page.keyboard.press("Alt+k")
    expect(page.get_by_role("button", name="1 scenario holds")).to_be_visible()


def test_something_is_rehearsed_at_a_wait_for_it(open_page: Open) -> None:
    page = open_page("/tern-harbour/workflows")
    writer = follow_up(page, "Waits for a click", "text look: Look here: https://example.com/x", publish=False)
    writer.line("wait for")
    look(page, 2)
    page.get_by_role("button", name=re.compile("they click any link")).click()
    expect(page.get_by_label("Rehearsal")).to_contain_text("Came to the end")
    expect(page.get_by_role("button", name="Say it")).to_have_count(0)  # no words are waited for here


def test_the_whole_series_comes_to_ones_own_phone_marked_as_a_test(open_page: Open) -> None:
    page = open_page("/slipware-lane/workflows")
    follow_up(page, "To myself", "text clay: The clay is ready.", "wait 3 days", "email glaze: And the glaze.")
    look(page, 2)
    page.get_by_label("How far apart").select_option("all at once")
    page.get_by_role("button", name="Send it all to me").click()
    sent = page.get_by_label("What was sent to you").get_by_role("listitem")
    expect(sent.filter(has_text="✓")).to_have_count(2)
    page.get_by_role("link", name="Read them on your simulated phone").click()
    mine = page.get_by_label("Tests to myself")
    expect(mine).to_contain_text("Test: The clay is ready.")
    expect(mine.get_by_role("heading", name=re.compile("Test: "))).to_be_visible()


def test_people_come_in_a_few_at_a_time_paused_stopped_and_taken_back(open_page: Open) -> None:
    page = open_page("/tern-harbour/workflows")
    follow_up(page, "A few at a time", "wait 2 days", "text later: Later.")
    look(page, 3)
    page.get_by_role("button", name="Enrol people…").click()
    page.get_by_label("Tag", exact=True).select_option("taster day")
    expect(page.get_by_text(re.compile(r"\d+ people come in at once"))).to_be_visible()
    tagged = page.get_by_text(re.compile(r"\d+ people come in at once")).inner_text()
    page.get_by_role("radio", name="who fit a condition").check()
    page.get_by_label(re.compile("^tag:")).click()
    page.keyboard.type("taster day")
    page.keyboard.press("Enter")
    expect(page.get_by_text(tagged.split(".")[0])).to_be_visible()  # the same people, by a condition in words
    page.get_by_role("radio", name="a few at a time").check()
    page.get_by_label("How many").fill("2")
    page.get_by_label("Each").select_option("minute")
    page.get_by_label("From", exact=True).fill("00:00")
    page.get_by_label("To", exact=True).fill("23:59")
    for day in ("Sat", "Sun"):
        page.get_by_role("button", name=day, exact=True).click()
    expect(page.get_by_text(re.compile("come in, the last"))).to_be_visible()  # which makes the dialog higher
    page.get_by_label("not on holidays").uncheck()
    page.get_by_role("button", name=re.compile(r"Enrol \d+ people")).click()
    intake = page.get_by_label("Brought in by hand")
    expect(intake).to_contain_text(re.compile(r"2 of \d+ have come in"))
    intake.get_by_role("button", name="pause").click()
    expect(intake).to_contain_text("paused")
    intake.get_by_role("button", name="go on").click()
    expect(intake).to_contain_text(re.compile(r"[24] of \d+ have come in"))
    intake.get_by_role("button", name="stop for good").click()
    page.get_by_role("dialog").get_by_role("button", name="Stop it").click()
    expect(intake).to_contain_text("stopped")
    intake.get_by_role("button", name=re.compile("back, who got nothing yet")).click()
    page.get_by_role("dialog").get_by_role("button", name="Take back").click()
    expect(intake).to_contain_text("taken back")
    expect(page.get_by_role("heading", name="0 people inside")).to_be_visible()


def test_those_inside_are_watched_and_handled_and_held_messages_let_go(open_page: Open) -> None:
    page = open_page("/tern-harbour/workflows")
    writer = follow_up(page, "Held", "text shown first: Somebody looks at this first.", publish=False)
    writer.lines.first.click()
    page.get_by_label("Rehearsal").or_(page.locator("#notes")).get_by_text("As usual, unless changed").click()
    page.locator("#notes").get_by_role("button", name=re.compile("held for a person")).click()
    held = page.get_by_text("held until somebody lets it go")
    if not held.count():
        page.keyboard.press("Enter")
    expect(writer.lines.first).to_contain_text("held until somebody lets it go")
    writer.lines.first.focus()
    writer.line("wait 4 days")
    writer.kept()
    page.keyboard.press("Alt+p")
    page.get_by_role("button", name="Publish version 1").click()
    expect(page.get_by_text("Version 1 runs")).to_be_visible()
    look(page, 3)
    page.get_by_role("button", name="Enrol people…").click()
    page.get_by_label("whom a search finds").check()
    page.get_by_label("Search", exact=True).fill("el")
    enrol = page.get_by_role("button", name=re.compile(r"Enrol \d+ (person|people)"))
    expect(enrol).to_be_enabled()
    count = re.sub(r"\D", "", enrol.inner_text())
    enrol.click()
    team = open_page("/tern-harbour/today", email="mel@example.com")
    # All of them: whose message comes later would still be held when those there are let go. Who cannot be texted is passed over.
    watch = page.url.replace("/tern-harbour/", "/api/accounts/tern-harbour/").split("?")[0] + "/watch"
    for _ in range(120):
        here = [one["here"] for one in page.request.get(watch).json()["lines"]]
        if sum(here) == int(count):
            break
        page.wait_for_timeout(500)
    expect(team.get_by_text(re.compile(rf"\b{here[0]} messages? waits? to be let go"))).to_be_visible()
    waits = page.get_by_label("Held messages")
    expect(waits).to_contain_text("to be let go")
    waits.locator("summary").first.click()
    expect(waits.get_by_text("Somebody looks at this first.").first).to_be_visible()
    waits.get_by_role("button", name=re.compile("Let all|Let it go")).last.click()
    expect(waits).to_have_count(0)
    expect(team.get_by_text(re.compile(r"messages? waits? to be let go"))).to_have_count(
        0
    )  # gone there, too, by itself

    # A number beside a line opens to the people; all of them are paused, with the reason kept.
    # They go on to the wait once it is let go, and not before.
    here = writer.lines.nth(1).get_by_role("button", name=re.compile(r"\d+ here"))
    expect(here).to_be_visible()
    expect(writer.lines.first.get_by_role("button", name=re.compile(r"\d+ here"))).to_have_count(0)
    here.click()
    expect(page.get_by_text("are here")).to_be_visible()
    page.get_by_label("choose all").check()
    page.get_by_label("Why (kept in their story)").fill("The boat is being mended.")
    page.get_by_role("button", name="Pause", exact=True).click()
    notes = page.locator("#notes")
    expect(notes.get_by_text("Paused since").first).to_be_visible()
    page.get_by_label("choose all").check()
    page.get_by_role("button", name="End the wait").click()  # ended, but paused: it goes on when resumed
    expect(page.get_by_text(re.compile("let on"))).to_be_visible()
    page.get_by_label("choose all").check()
    page.get_by_role("button", name="Resume", exact=True).click()
    expect(page.get_by_role("heading", name="0 people inside")).to_be_visible()
    notes.get_by_role("button", name="Show everybody").click()
    notes.locator("li a").first.click()
    expect(page.get_by_text("The boat is being mended.").first).to_be_visible()


def test_why_ana_got_it_is_answered_in_three_clicks_and_why_somebody_did_not_too(open_page: Open) -> None:
    page = open_page("/tern-harbour/today")
    page.get_by_role("link", name="People", exact=True).click()  # one
    page.get_by_label("With the tag").select_option("taster day")
    own = page.url.split("/tern")[0] + "/api/accounts/tern-harbour"

    def was_sent_something(contact: int) -> bool:
        story = page.request.get(f"{own}/contacts/{contact}/story").json()
        return any(item["kind"] == "message" and item["enrolment"] for item in story)

    [asks] = [one["id"] for one in page.request.get(f"{own}/workflows").json() if one["name"] == "After the taster day"]
    inside = [
        one["contact_id"] for one in page.request.get(f"{own}/workflows/{asks}/watch?only=inside").json()["enrolments"]
    ]
    expect(page.locator("tbody a").first).to_be_visible()
    shown = page.locator("tbody a").evaluate_all("links => links.map(link => Number(link.href.split('/').pop()))")
    waits = next(one for one in inside if one in shown and was_sent_something(one))
    page.locator(f"tbody a[href$='/people/{waits}']").click()  # two: somebody who was asked, and is inside
    page.get_by_role("button", name="why?").last.click()  # three
    expect(page.get_by_label("Why it went out")).to_contain_text("Joined:")

    page.get_by_role("button", name="Why not…").click()
    page.get_by_label("Of which workflow").first.select_option(label="Season letter")
    answer = page.get_by_label("Why not", exact=True)
    expect(answer).to_contain_text(re.compile("never came into|was in it and left|They are inside"))
    page.get_by_role("button", name="Pause all").click()
    expect(page.get_by_text("Paused since").first).to_be_visible()
    page.get_by_role("button", name="Resume all").click()
    expect(page.get_by_text("Paused since")).to_have_count(0)


def test_the_diary_shows_what_goes_out_as_month_week_and_list(open_page: Open) -> None:
    page = open_page("/tern-harbour/diary")
    expect(page.locator(".ec-col-head")).to_have_count(7)
    expect(page.get_by_text(re.compile(r"\d+ messages? goe?s? out by"))).to_be_visible()
    expect(page.locator(".ec-event.entry").first).to_be_visible()
    page.get_by_role("button", name="month").click()
    expect(page.locator(".ec-day").nth(27)).to_be_visible()
    page.keyboard.press("ArrowLeft")  # the keys: earlier, later, today
    page.keyboard.press("t")
    expect(page.locator(".ec-day.ec-highlight")).to_have_count(1)
    page.get_by_role("button", name="list").click()
    expect(page.locator(".date.today")).to_be_visible()
    page.get_by_label("Of which workflow").select_option(label="Season letter")
    expect(page.get_by_text("as things stand and if nobody answers")).to_be_visible()


@pytest.mark.parametrize("width", [1280, 390])
def test_what_happens_shows_with_no_reload(open_page: Open, width: int) -> None:
    """A reply that comes while the team looks at Today."""
    team = open_page("/tern-harbour/today", email="mel@example.com", width=width)
    team.get_by_role("heading", name="Today", exact=True).wait_for()
    outside = open_page("/tern-harbour/outside")
    outside.get_by_label("Whose phone", exact=True).locator("li button").first.click()
    words = f"Is it windy? {width}"
    outside.get_by_placeholder(re.compile("Write as")).fill(words)
    with outside.expect_response(re.compile("/say$")):
        outside.get_by_role("button", name="Send", exact=True).click()
    expect(team.get_by_text(words).first).to_be_visible()


def test_what_may_be_a_refusal_and_a_call_to_ring_back_are_settled_by_keys(open_page: Open) -> None:
    outside = open_page("/tern-harbour/outside")
    outside.get_by_label("Whose phone", exact=True).locator("li button").nth(4).click()
    name = outside.get_by_label("Whose phone", exact=True).locator("li button").nth(4).inner_text().split("\n")[0]
    outside.get_by_placeholder(re.compile("Write as")).fill("Who gave you my number")
    with outside.expect_response(re.compile("/say$")):
        outside.get_by_role("button", name="Send", exact=True).click()
    team = open_page("/tern-harbour/today", email="mel@example.com")
    group = team.get_by_role("group", name=re.compile("may want no more"))
    expect(group).to_contain_text("Marketing to them by text waits until you say.")
    group.focus()
    team.keyboard.press("1")
    expect(team.get_by_role("status").filter(has_text="is opted out")).to_be_visible()
    expect(group).to_have_count(0)
    assert name

    call = team.get_by_role("group", name=re.compile("^Call ")).first
    who = (call.get_attribute("aria-label") or "").removeprefix("Call ")
    call.focus()
    team.keyboard.press("5")
    expect(team.get_by_label("Ring back on")).to_have_value(re.compile(r"^2\d{3}-\d\d-\d\dT10:00$"))
    team.get_by_label("Ring back on").fill("2030-05-06T11:30")
    team.keyboard.press("Enter")
    said = team.get_by_role("status").filter(has_text=f"{who}: ring back, comes back Mon 6 May 2030, 11:30.")
    expect(said).to_be_visible()


def test_a_workflow_with_people_inside_is_put_away_with_what_becomes_of_them(open_page: Open) -> None:
    page = open_page("/slipware-lane/workflows")
    follow_up(page, "Put away", "wait 9 days", "text later: Later.")
    page.get_by_role("link", name="People", exact=True).click()
    page.locator("tbody a").first.click()
    page.get_by_role("button", name="Enrol…").click()
    page.get_by_label("In which workflow").select_option(label="Put away")
    page.get_by_role("button", name="Enrol 1 person").click()
    page.get_by_role("link", name="Workflows").click()
    row = page.get_by_role("row").filter(has_text="Put away")
    expect(row.locator(".num").first).to_have_text("1")
    row.get_by_role("button", name="Archive: Put away").click()
    page.get_by_role("button", name="They leave now").click()
    expect(row).to_have_count(0)
    page.get_by_role("button", name=re.compile("In the archive")).click()
    expect(page.get_by_role("row").filter(has_text="Put away").locator(".num").first).to_have_text("0")


def test_letters_that_are_due_are_printed_as_one_pdf(open_page: Open) -> None:
    page = open_page("/slipware-lane/workflows")
    follow_up(page, "By post", "letter to print welcome: Dear friend, welcome to the pottery.")
    page.get_by_role("link", name="People", exact=True).click()
    page.locator("tbody a").first.click()
    page.locator("dl").get_by_role("button", name="Change").click()
    page.get_by_label("Postal address").fill("3 Kiln Row, Port Example")
    page.get_by_role("button", name="Keep").click()
    expect(page.get_by_text("3 Kiln Row, Port Example")).to_be_visible()
    page.get_by_role("button", name="Enrol…").click()
    page.get_by_label("In which workflow").select_option(label="By post")
    page.get_by_role("button", name="Enrol 1 person").click()
    page.get_by_role("link", name="Today").click()
    letters = page.get_by_role("link", name=re.compile(r"Print \d+ letters?"))
    expect(letters).to_be_visible()
    pdf = page.request.get(page.url.split("/slipware")[0] + (letters.get_attribute("href") or ""))
    assert pdf.headers["content-type"] == "application/pdf"
    text = "".join(sheet.extract_text() for sheet in PdfReader(BytesIO(pdf.body())).pages)
    assert "3 Kiln Row" in text and "welcome to the pottery" in text


def test_somebody_who_does_not_exist_is_rehearsed_without_a_mobile_number(open_page: Open) -> None:
    page = open_page("/slipware-lane/workflows")
    follow_up(page, "No number", "text hi: Hello there.", publish=False)
    look(page, 2)
    page.get_by_text("Who does not exist: what they have").click()
    page.get_by_label("a mobile number").uncheck()
    expect(page.get_by_role("group", name="The script", exact=True)).to_contain_text("no mobile number")


def test_all_sending_is_stopped_by_one_act_lifted_and_what_fell_due_is_decided_upon(open_page: Open) -> None:
    page = open_page("/two-brakes/workflows")
    page.get_by_role("button", name="Stop all sending…").focus()
    page.keyboard.press("Enter")
    page.keyboard.type("The price is wrong")
    page.keyboard.press("Enter")
    stopped = page.get_by_role("alert").filter(has_text="All sending is stopped")
    expect(stopped).to_contain_text("by Imogen Farrow: The price is wrong")

    follow_up(page, "Bells", "text bells: A new bell for you?")
    look(page, 3)
    page.get_by_role("button", name="Enrol people…").click()
    page.get_by_label("whom a search finds").check()
    page.get_by_label("Search", exact=True).fill("el")
    page.get_by_role("button", name=re.compile(r"Enrol \d+ (person|people)")).click()
    stopped.get_by_role("link", name="What fell due").click()
    row = page.get_by_role("row").filter(has_text="“bells”")
    expect(row).to_contain_text("at its line of “Bells”")
    expect(row.get_by_role("button")).to_have_count(0)  # not while it is stopped
    stopped.get_by_role("button", name="Lift it…").click()
    page.get_by_role("button", name="Lift the stop").click()
    expect(stopped).to_have_count(0)
    row.get_by_role("button", name="Do not send “bells”").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("status").filter(has_text="does not go to")).to_be_visible()
    expect(row).to_have_count(0)
