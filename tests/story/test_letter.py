"""A letter in lines, from an email of plain words to somebody's mailbox, written by keys."""

import random
import re
from collections.abc import Callable

from playwright.sync_api import Browser, Page, expect

from bluffside.core.letters.compiling import filled
from bluffside.core.letters.document import Letter
from tests.core.test_letters import BELOW, LOOK, PIECES
from tests.server.test_letters import png
from tests.story.test_pages import faults

Open = Callable[..., Page]


def test_an_email_becomes_a_letter_is_read_as_somebody_and_arrives(open_page: Open, address: str) -> None:
    page = open_page("/tern-harbour/workflows")
    page.get_by_role("button", name="Write a new one").click()
    page.get_by_label(re.compile("called|Name")).first.fill("Spring letter")
    page.keyboard.press("Enter")
    line = page.get_by_label("The new line")
    line.fill("email")
    line.press("Enter")
    page.get_by_label("as the team calls it").fill("Spring dates")
    page.get_by_label("Subject", exact=True).fill("The dates are out")
    page.get_by_label("Words of the email").fill("Hello *all*,")
    page.get_by_role("button", name="Write it as a letter, in lines").press("Enter")
    first = page.get_by_label("paragraph: words")
    expect(first).to_have_text("Hello *all*,")
    expect(page.get_by_text(re.compile("^1 line"))).to_be_visible()
    first.press("End")
    first.press("Enter")
    second = page.get_by_label("paragraph: words").nth(1)
    expect(second).to_be_focused()
    page.keyboard.type("Boats are ")
    page.keyboard.press("Control+b")
    page.keyboard.type("ready")
    added = page.get_by_label("The next line of the letter")
    added.fill("button")
    added.press("Enter")
    button = page.get_by_label("button: words")
    expect(button).to_be_focused()
    page.keyboard.type("Hold me a place")
    page.get_by_label("button: leads to").fill("https://tern-harbour.example.com/courses")
    mail = page.frame_locator("iframe")
    expect(mail.get_by_role("link", name="Hold me a place")).to_be_visible()
    expect(mail.locator("strong", has_text="ready")).to_be_visible()
    expect(mail.get_by_text("Hello *all*,")).to_be_visible()
    assert faults(page) == []
    page.get_by_role("group", name="button", exact=True).press("Alt+ArrowUp")
    expect(page.get_by_label(re.compile("^(button|paragraph): words")).nth(1)).to_have_text("Hold me a place")
    page.keyboard.press("Control+z")
    expect(page.get_by_label(re.compile("^(button|paragraph): words")).nth(2)).to_have_text("Hold me a place")
    added.fill("picture")
    added.press("Enter")
    page.get_by_label("Another file").or_(page.get_by_label("Bring in a file")).set_input_files(
        files=[{"name": "quay.png", "mimeType": "image/png", "buffer": png((40, 20))}]
    )
    expect(page.get_by_text("quay.png, 40 × 20")).to_be_visible()
    kinds = page.locator(".line > .kind")
    page.get_by_role("button", name="picture", exact=True).drag_to(page.get_by_role("button", name="paragraph").first)
    expect(kinds.first).to_have_text("picture")
    page.keyboard.press("Control+z")
    expect(kinds.last).to_have_text("picture")
    page.get_by_role("button", name="nothing known").click()
    expect(page.get_by_text("somebody of whom nothing is known")).to_be_visible()
    page.get_by_role("button", name="printed").click()
    page.get_by_role("button", name="plain words").click()
    expect(page.get_by_text("Hold me a place: https://tern-harbour.example.com/courses")).to_be_visible()
    page.get_by_role("button", name="Send it to me").click()
    expect(page.get_by_text(re.compile("marked as a test"))).to_be_visible()
    expect(page.get_by_text(re.compile("kept "))).to_be_visible()
    page.reload()
    expect(page.get_by_label("button: words")).to_have_text("Hold me a place")
    expect(mail.get_by_role("link", name="Hold me a place")).to_be_visible()
    page.get_by_role("button", name="Back to the script").click()
    expect(page.get_by_text(re.compile("A letter of 4 lines"))).to_be_visible()
    page.set_viewport_size({"width": 390, "height": 800})
    page.get_by_role("button", name="Open the letter").click()
    expect(page.get_by_label("button: words")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390


def test_pasted_html_that_means_harm_asks_for_nothing_and_runs_nothing(browser: Browser) -> None:
    """Shown by Chromium as a mail program would, with every request written down: pictures of the web are all that is asked for."""
    page, asked = browser.new_page(), set[str]()
    page.on("request", lambda request: asked.add(request.url))
    page.on("dialog", lambda dialog: asked.add(dialog.message))
    page.route("**/*", lambda route: route.abort())
    for seed in range(12):
        pieces = list(PIECES) + [
            "<img src=x onerror=alert(2)>",
            "<body onload=alert(3)>",
            "<meta http-equiv=refresh content='0;url=https://spy.example.com/m'>",
        ]
        random.Random(seed).shuffle(pieces)
        pasted = {"kind": "pasted", "id": "h", "html_as_pasted": "<p>Ahoy</p>" + "".join(pieces)}
        html = filled(Letter.model_validate({"lines": [pasted]}), LOOK, BELOW)
        page.set_content(html)
        page.wait_for_timeout(50)
    assert page.get_by_text("Ahoy").is_visible()
    assert asked <= {"https://example.com/a.png"}, asked
    page.close()
