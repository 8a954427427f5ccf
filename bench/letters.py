"""./bluffside bench letters: a letter of 60 lines, filled for each of 1,000 people, and written by real keys in headless Chromium.

filled    what a decision and a hand-over do for each person (each merge field rendered, the HTML put together), in interleaved rounds with
          one plain template of the same words and merge fields: rendered by Liquid, and by the quick way that plain fields have
compiled  laid out by MJML, once for a letter and a look
written   from a key to the end of the frame that shows what it did; the floor is the same on a bare text field
"""

import gc
import time
from collections.abc import Callable
from statistics import median
from typing import Any

from bench.ground import fresh_database, served
from bench.page import TIMES, floor, give_password, press, say_times, sign_in
from bluffside.core.facts import Account, Contact, Facts, Member
from bluffside.core.letters import compiling
from bluffside.core.letters.document import Letter
from bluffside.core.letters.sheet import Look
from bluffside.core.messages.merge import render, render_with_liquid

LINES, PEOPLE, ROUNDS = 60, 1_000, 9
FIELDS = (
    '{{ contact.first_name | default: "there" }}', "{{ account.name }}", "{{ member.first_name }}", "{{ contact.fields.boat }}", "{{ contact.last_name }}",
)  # fmt: skip


def some_letter() -> Letter:
    """Paragraphs, headings, lists, buttons and quotations in turn, merge fields in all of them."""
    lines: list[dict[str, Any]] = []
    for n in range(LINES):
        field, id = FIELDS[n % len(FIELDS)], f"l{n}"
        kinds: list[dict[str, Any]] = [
            {"kind": "paragraph", "words": f"Word {n} is for {field}, who reads **all** of it and then [the rest](https://example.com/{n})."},
            {"kind": "heading", "words": f"Heading {n}", "size": "small"},
            {"kind": "list", "items": [f"One of {field}", "Another", "A third"]},
            {"kind": "button", "words": "See it", "leads_to": f"https://example.com/see/{n}"},
            {"kind": "quotation", "words": f"We were there, says {field}.", "who": "Ines"},
        ]  # fmt: skip
        lines.append(kinds[n % len(kinds)] | {"id": id})
    return Letter.model_validate({"preview": "What is new", "lines": lines})


def somebody(number: int) -> Facts:
    return Facts(
        Contact(f"Name {number}", "Vane", id=str(number), fields={"boat": f"Boat {number}"}),
        Account("Tern Harbour Sailing"),
        Member("Mel", "Mel Rowan"),
    )


def _fill() -> None:
    letter, look = some_letter(), Look("Tern Harbour Sailing")
    plain, people = letter.plain(), [somebody(number) for number in range(PEOPLE)]
    began = time.perf_counter()
    pieces = compiling.compiled(letter, look)
    compiled = time.perf_counter() - began

    def letters(facts: Facts) -> str:
        one = compiling.addressed(letter, lambda text: render(text, facts))
        return compiling.filled(letter, look, dict(one.values))

    ways: dict[str, Callable[[Facts], str]] = {
        "a letter": letters,
        "a plain template, by Liquid": lambda facts: render_with_liquid(plain, facts),
        "a plain template, the quick way": lambda facts: render(plain, facts),
    }
    taken: dict[str, list[float]] = {name: [] for name in ways}
    for _ in range(ROUNDS):
        for name, way in ways.items():
            gc.disable()
            began = time.perf_counter()
            for facts in people:
                way(facts)
            taken[name].append(time.perf_counter() - began)
            gc.enable()
    size = len(letters(people[0])) // 1024
    print(
        f"\nA letter of {LINES} lines, {size} kB of HTML in {len(pieces)} pieces; laid out once in {compiled * 1000:.0f} ms"
    )
    for name, times in taken.items():
        ratios = [first / each for first, each in zip(taken["a letter"], times, strict=True)]
        print(f"  {name:<34}{median(times) / PEOPLE * 1e6:>8.0f} µs each   a letter takes {median(ratios):.2f} of it")


def _written() -> None:
    url = fresh_database()
    from launcher.shots import open_browser
    from playwright.sync_api import sync_playwright
    from tests.server.conftest import make_house

    from bluffside.core.workflow.files import parse_workflow
    from bluffside.server.workflows import writing

    house = make_house()
    give_password(house)
    message = {"name": "Long", "subject": "Long", "letter": some_letter().model_dump(mode="json")}
    step = {"kind": "email", "id": "mail", "message": message}
    workflow = writing.create(house.sailing, parse_workflow({"name": "Letter", "steps": [step]}), house.consultant)
    with served(url) as address, sync_playwright() as playwright:
        browser = open_browser(playwright)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, locale="en-GB")
        rows = [floor(page)]
        sign_in(page, address, house)
        page.goto(f"{address}/{house.sailing.slug}/workflows/{workflow.id}?letter=mail.message")
        words = page.get_by_label("paragraph: words")
        words.nth(11).wait_for()
        page.wait_for_timeout(2_000)
        page.evaluate(TIMES)
        words.nth(6).click()
        rows.append(press(page, "words of a line typed", list("abcde") * 12))
        rows.append(press(page, "a line moved", ["Alt+ArrowDown", "Alt+ArrowUp"] * 10, 250))
        rows.append(press(page, "the next line", ["Enter"] * 20, 400))
        rows.append(press(page, "undone", ["Control+z"] * 10, 250))
        browser.close()
    say_times(f"A letter of {LINES} lines as it is written", rows)


if __name__ == "__main__":
    _fill()
    _written()
