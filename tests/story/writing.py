"""Writing a script in the browser by keys alone, as the tests of the workflow page do."""

import re

from playwright.sync_api import Locator, Page, expect


class Writer:
    """The workflow page, driven by the keyboard: nothing here clicks."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.keys = page.keyboard
        self.script = page.get_by_role("group", name="The script", exact=True)
        self.lines = self.script.get_by_role("article")

    def new(self, name: str) -> None:
        """From the list of workflows."""
        self.page.get_by_role("button", name="Write a new one").focus()
        self.press("Enter")
        self.keys.type(name)
        self.press("Enter")
        self.script.wait_for()
        expect(self.page.get_by_label("Name of the workflow")).to_have_value(name)
        expect(self.page.get_by_role("combobox", name="The new line")).to_be_focused()  # its first line is open
        self.press("Escape")

    def press(self, *keys: str) -> None:
        for key in keys:
            self.keys.press(key)

    def line(self, words: str) -> None:
        """A line below the one that has the focus; below all when none has."""
        before = self.lines.count()
        self.press("Enter")
        field = self.page.get_by_role("combobox", name="The new line")
        expect(field).to_be_focused()
        self.keys.insert_text(words)
        self.press("Enter")
        expect(field).to_have_count(0)
        expect(self.lines).not_to_have_count(before)

    def in_lane(self, heading: str) -> None:
        """To the words above a lane, by the arrows."""
        head = self.page.locator(".lane-head").filter(has_text=heading)
        expect(head).to_be_visible()
        self.to(head)

    def to(self, place: Locator) -> None:
        """Down, else up, to a line or the words above a lane."""
        for key in ("ArrowDown", "ArrowUp"):
            for _ in range(40):
                if place.evaluate("one => one === document.activeElement"):
                    return
                self.press(key)
        raise AssertionError("the arrows do not lead there")

    def part(self, label: str, words: str, *then: str) -> None:
        """Changes a part of the line, lane or head that has the focus: along its parts to the one of that label."""
        self.to_part(label)
        self.press("Enter")
        self.press("Control+a")
        self.keys.type(words)
        self.press(*(then or ("Enter",)))

    def to_part(self, label: str) -> None:
        """Along the parts, and those that are not said yet, to the one of that label."""
        for _ in range(20):
            if self.page.evaluate("document.activeElement.textContent") == f"+ {label}":
                return
            named = self.page.evaluate("document.activeElement.getAttribute('aria-label') || ''")
            if named.startswith(f"{label}:"):
                return
            on_line = self.page.evaluate("document.activeElement.matches('.line, .lane-head')")
            self.press("ArrowRight" if on_line else "Tab")
        raise AssertionError(f"no part is called “{label}”")

    def start(self, label: str, words: str, values: dict[str, str]) -> None:
        """In place of the starts that are there, one of a kind, with its parts."""
        self.press("Alt+h")
        while (out := self.page.get_by_role("button", name=re.compile("Take start"))).count():
            out.first.focus()
            self.press("Enter")
        self.page.get_by_role("button", name="Add a start").focus()
        self.press("Enter")
        self.keys.type(label)
        self.press("Enter")
        expect(self.page.get_by_role("group", name="How it starts and ends")).to_contain_text(words)
        self.press("Alt+h")
        for part, value in values.items():
            self.part(part, value)

    def kept(self) -> None:
        expect(self.page.get_by_role("status").filter(has_text="kept ").first).to_be_visible()

    def nothing_in_the_way(self) -> None:
        self.press("Escape", "Escape")
        expect(self.page.locator("#notes h2")).to_have_text(re.compile("Nothing is wrong|Worth a look"))

    def days(self) -> list[int]:
        """The day of each line that is no wait, as the ruler reads."""
        found, day = [], ""
        for row in self.script.locator(".line.root").all():
            said = row.locator(".time b").inner_text()
            if said.startswith("Day"):
                day = said
            if not said.startswith("to "):
                found.append(int(day.removeprefix("Day ")))
        return found
