"""Going about a page by the keyboard alone: nothing here clicks, and nothing is focused but by Tab."""

import re
from typing import Any

from playwright.sync_api import Locator, Page, expect

MARK = """() => {
  const shown = (one) => one.checkVisibility({ visibilityProperty: true }) && !one.closest("[inert], :disabled");
  const can = [...document.querySelectorAll("a[href], button, input:not([type=hidden]), select, textarea, summary, [tabindex]")];
  const stops = can.filter((one) => shown(one) && one.tabIndex >= 0);
  // Of radio buttons with one name, Tab comes to the chosen one alone, or to the first; arrows lead to the others.
  const group = (one) => stops.filter((two) => two.type === "radio" && one.name && two.name === one.name && two.form === one.form);
  window.stops = stops.filter((one) => one.type !== "radio" || one === (group(one).find((two) => two.checked) ?? group(one)[0]));
  // What a mouse can press and the keyboard cannot: something with a listener of its own, and no stop in or around it.
  const pressed = [...document.querySelectorAll("*")].filter((one) => shown(one) && Object.entries(one).concat(
    Object.getOwnPropertySymbols(one).map((key) => [key, one[key]])).some(([, held]) => held && typeof held === "object" && "onClick" in held));
  const lost = pressed.filter((one) => !one.closest("a[href], button, label, summary, [tabindex], dialog, [role=dialog]") && !one.querySelector("a[href], button, input, [tabindex]"));
  return { count: window.stops.length, lost: lost.map((one) => one.outerHTML.slice(0, 120)) };
}"""
# Tab goes on from where it was last, and a page may have put the focus somewhere.
FROM_THE_TOP = (
    "() => { document.body.tabIndex = -1; document.body.focus(); document.body.removeAttribute('tabindex'); }"
)
# A field that becomes a date's when it is come to gets its focus back from the browser a moment later.
WHERE = """async () => {
  const here = document.activeElement, since = performance.now();
  const shown = () => { const style = getComputedStyle(here); return style.outlineStyle !== "none" && parseFloat(style.outlineWidth) > 0; };
  while (here !== document.body && !shown() && performance.now() - since < 500) await new Promise((done) => setTimeout(done, 20));
  return { at: window.stops.indexOf(here), away: here === document.body || !here, shown: shown(), what: here.outerHTML.slice(0, 160) };
}"""
MISSED = """(came) => window.stops.filter((one, at) => one.isConnected && !one.disabled && !came.includes(at))
  .map((one) => one.outerHTML.slice(0, 120))"""


def walk(page: Page) -> list[str]:
    """Tab through the whole page; what is wrong with it, in words: something that can be pressed or filled in and is not
    come to in its order (WCAG 2.2: 2.1.1, 2.1.2, 2.4.3), or is not seen to have the focus (2.4.7)."""
    page.evaluate(FROM_THE_TOP)
    marked: dict[str, Any] = page.evaluate(MARK)
    wrong = [f"only a mouse presses it: {one}" for one in marked["lost"]]
    came: list[int] = []
    for _ in range(3 * marked["count"] + 10):  # what has the focus may open something with stops of its own
        page.keyboard.press("Tab")
        here = page.evaluate(WHERE)
        if here["away"] or here["at"] in came[:-1]:
            break
        if (
            here["at"] in came
        ):  # a date's day, month and year are stops of one field; who is caught here is told by what is missed
            continue
        if here["at"] >= 0:  # a part that scrolls is a stop of the browser's own
            came.append(here["at"])
        if not here["shown"]:
            wrong.append(f"the focus is not seen: {here['what']}")
    missed = page.evaluate(MISSED, came)
    if missed or came != sorted(came):
        wrong.append(f"{len(came)} of {marked['count']} stops come, {came}; not {missed[:5]}")
    return wrong


class Keys:
    """A page, driven by the keyboard."""

    def __init__(self, page: Page) -> None:
        self.page, self.press, self.type = page, page.keyboard.press, page.keyboard.type

    def to(self, place: Locator) -> None:
        """By Tab to a place, however often it takes."""
        expect(place).to_be_visible()
        for _ in range(400):
            if place.evaluate("one => one === document.activeElement"):
                return
            self.press("Tab")
        raise AssertionError(f"Tab does not lead to {place}")

    def button(self, name: Any, within: Locator | None = None) -> None:
        place = (within or self.page).get_by_role("button", name=name, exact=True).first
        expect(place).to_be_enabled()
        self.to(place)
        self.press("Enter")

    def link(self, name: Any) -> None:
        """An area of the strip may say how much waits there, too."""
        said = re.compile(rf"^{re.escape(name)}(\s*\d+ waiting)?$") if isinstance(name, str) else name
        self.to(self.page.get_by_role("link", name=said).first)
        self.press("Enter")

    def fill(self, label: Any, words: str, within: Locator | None = None) -> None:
        self.to((within or self.page).get_by_label(label).first)
        self.press("Control+a")
        self.type(words)

    def write(self, label: Any, words: str) -> None:
        """Into a field that has the focus by itself."""
        expect(self.page.get_by_label(label, exact=True).last).to_be_focused()
        self.type(words)

    def tick(self, label: Any, within: Locator | None = None) -> None:
        place = (within or self.page).get_by_label(label).first
        before = place.is_checked()
        self.to(place)
        self.press("Space")
        expect(place).to_be_checked(checked=not before)

    def choose(self, label: Any, option: str, within: Locator | None = None) -> None:
        """In a list that one chooses from, by the first letters."""
        place = (within or self.page).get_by_label(label).first
        self.to(place)
        self.type(option)
        self.press("Enter")
        expect(place.locator("option:checked")).to_have_text(option)
