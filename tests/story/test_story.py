"""The main job, once through, in the browser: from a spreadsheet to a call on the team's list, with the reasons."""

from collections.abc import Callable

from playwright.sync_api import Page, expect

PEOPLE = """Name,Mobile number,Email address,Shoe size
Ada Marshall,07700 900700,ada.marshall@example.com,38
Bo Quill,07700 900701,bo.quill@example.com,44
Cy Brand,not a number,not an address,41
"""


def add_line(page: Page, words: str) -> None:
    field = page.get_by_role("combobox", name="The new line")
    field.fill(words)
    field.press("Enter")


def test_from_a_spreadsheet_to_a_call_with_its_reasons(open_page: Callable[..., Page]) -> None:
    page = open_page("/tern-harbour/people")

    # A spreadsheet of people comes in; the bad row is told, and holds nobody up.
    page.get_by_role("link", name="Bring in a file").click()
    file = {"name": "open-day.csv", "mimeType": "text/csv", "buffer": PEOPLE.encode()}
    page.get_by_label("Choose a file, or drop it here").set_input_files(file)  # type: ignore[arg-type]
    expect(page.get_by_label("What Mobile number is")).to_have_value("mobile")
    expect(page.get_by_role("cell", name="07700 900700", exact=True)).to_be_visible()
    page.get_by_label("to emails").check()
    page.get_by_label("to texts").check()
    page.get_by_label("Tags", exact=True).fill("slip visit")
    page.get_by_label("How and when they said so").fill("sign-up sheet at the open day")
    page.get_by_role("button", name="Bring in 3 rows").click()
    expect(page.get_by_text("3 of 3 rows, came in")).to_be_visible()
    expect(page.get_by_text("“not a number” is not a phone number")).to_be_visible()

    # A workflow is written as on paper.
    page.get_by_role("link", name="Workflows").click()
    page.get_by_role("button", name="Write a new one").click()
    page.get_by_label("What is it called").fill("After the open day")
    page.get_by_role("button", name="Write it").click()
    expect(page.get_by_role("combobox", name="The new line")).to_be_focused()
    add_line(page, "text good to meet you")
    words = page.get_by_role("textbox", name="Words of the text")
    words.click()
    page.keyboard.type("Hi {")
    page.keyboard.press("Enter")
    page.keyboard.type(", Mel from Tern Harbour. Shall I ring you about a taster day? Yes or no?")
    expect(page.get_by_text("Hi Robin, Mel from Tern Harbour.")).to_be_visible()
    page.get_by_role("button", name="Write the next line").click()
    add_line(page, "ask")
    yes_lane = page.locator(".lane").filter(has_text="answers yes")
    yes_lane.get_by_role("button", name="Write a line in this lane").click()
    add_line(page, "tag wants a ring")
    yes_lane.get_by_role("button", name="Write a line in this lane").click()
    add_line(page, "call about the taster day")
    expect(page.get_by_text("until Day 3")).to_be_visible()

    # Rehearsed before anybody is written to.
    page.get_by_role("tab", name="Rehearse").click()
    page.get_by_role("button", name="“yes”").click()
    expect(page.get_by_text("Came to the end", exact=False).first).to_be_visible()
    expect(page.get_by_label("Rehearsal").get_by_text("wants a ring", exact=True)).to_be_visible()

    # Published, which writes to nobody.
    page.get_by_role("tab", name="Write").click()
    page.get_by_role("button", name="Publish…").click()
    page.get_by_role("button", name="Publish version 1").click()
    expect(page.get_by_text("Version 1 runs, 0 people inside")).to_be_visible()

    # Enrolled: who would come in is said before.
    page.get_by_role("link", name="People", exact=True).click()
    page.get_by_label("With the tag").select_option("slip visit")
    expect(page.get_by_text("2 contacts found", exact=True)).to_be_visible()
    page.get_by_label("Choose all on this page").check()
    page.get_by_role("button", name="Enrol…").click()
    page.get_by_label("In which workflow").select_option(label="After the open day")
    expect(page.get_by_text("2 people come in")).to_be_visible()
    page.get_by_role("button", name="Enrol 2 people").click()
    expect(page.get_by_text("2 people came in.")).to_be_visible()

    # Outside of sending hours the text would wait: the demo's clock moves to when it goes out.
    page.get_by_role("link", name="Outside").click()
    page.get_by_label("Whose phone and mailbox").fill("Ada Marshall")
    page.get_by_role("button", name="Ada Marshall").click()
    for _ in range(24):
        if page.get_by_text("Hi Ada, Mel from Tern Harbour.").count():
            break
        page.get_by_role("button", name="an hour on").click()
        page.wait_for_timeout(2_500)
    expect(page.get_by_text("Hi Ada, Mel from Tern Harbour.")).to_be_visible()
    page.get_by_label("Write as Ada Marshall").fill("Yes, gladly!")
    page.get_by_role("button", name="Send", exact=True).click()

    # The right lane, the tag, the reasons.
    page.get_by_role("link", name="People", exact=True).click()
    page.get_by_label("With the tag").select_option("slip visit")
    page.get_by_role("link", name="Ada Marshall").click()
    expect(page.get_by_text("“yes” counts as yes", exact=False)).to_be_visible()
    expect(page.get_by_text("Tagged “wants a ring”.")).to_be_visible()
    expect(page.get_by_text("Text “Good to meet you” delivered")).to_be_visible()

    # The call on the team's list, settled with one key by the member.
    team = open_page("/tern-harbour/today", email="mel@example.com")
    call = team.get_by_role("group", name="Call Ada Marshall")
    expect(call).to_contain_text("07700 900700")
    expect(call).to_contain_text("the taster day")
    expect(team.get_by_role("link", name="Answer Ada Marshall")).to_have_count(0)  # the workflow has answered it
    call.focus()
    team.keyboard.press("1")
    expect(team.get_by_text("Ada Marshall: reached.")).to_be_visible()
    expect(call).to_have_count(0)


def test_a_script_is_written_by_keyboard_alone(open_page: Callable[..., Page]) -> None:
    """Lines are added, changed in place, moved, removed, undone and redone; the draft keeps itself."""
    page = open_page("/slipware-lane/workflows")
    page.get_by_role("button", name="Write a new one").focus()
    page.keyboard.press("Enter")
    page.keyboard.type("Two weeks")
    page.keyboard.press("Enter")
    expect(page.get_by_role("combobox", name="The new line")).to_be_focused()  # its first line is open
    page.keyboard.type("call how it went")
    page.keyboard.press("Enter")
    lines = ["wait 5 days", "to-do look again", "wait 2 days", "email places left"]
    for line in lines:
        page.keyboard.press("Enter")  # the line just written has the focus
        page.keyboard.type(line)
        page.keyboard.press("Enter")
    script = page.get_by_role("group", name="The script", exact=True)
    sentences = script.get_by_role("article")

    def said(*words: str) -> None:
        expect(sentences).to_contain_text(list(words))

    said("Calls about how it went", "5 days", "Has to: Look again", "2 days", "Places left")
    expect(script).to_contain_text("Day 7")
    page.keyboard.press("Alt+ArrowUp")
    said("Calls", "5 days", "Look again", "Places left", "2 days")
    page.keyboard.press("Delete")
    said("Calls", "5 days", "Look again", "2 days")
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    said("Calls", "5 days", "Look again", "2 days", "Places left")
    page.keyboard.press("Control+y")
    said("Calls", "5 days", "Look again", "Places left", "2 days")

    # A part in place: the first wait becomes three weeks.
    sentences.nth(1).click()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Enter")
    page.keyboard.type("3")
    page.keyboard.press("Tab")
    page.keyboard.type("week")
    page.keyboard.press("Enter")
    said("Calls", "3 weeks")
    page.keyboard.press("Escape")
    expect(page.get_by_text("kept ")).to_be_visible()
    page.reload()
    said("Calls", "3 weeks", "Look again", "Places left", "2 days")
