"""./bluffside bench page: the workflow page with a script of 200 lines, driven by real keys in headless Chromium.

Measured from the key's event to the end of the frame that shows what it did. The floor, in the same run: the same
measure for a key on a bare text field of an empty page.
"""

from collections.abc import Sequence
from typing import Any

from bench.ground import fresh_database, served

LINES = 200
PASSWORD = "long-enough-1"
TIMES = """() => {
  window.times = [];
  window.addEventListener("keydown", () => {
    const began = performance.now();
    requestAnimationFrame(() => {
      const after = new MessageChannel();
      after.port1.onmessage = () => window.times.push(performance.now() - began);
      after.port2.postMessage(0);
    });
  }, true);
}"""


def script() -> dict[str, Any]:
    """Waits, texts, emails, tags, and every few lines a question with two lanes."""
    steps: list[dict[str, Any]] = []
    count = 0
    while count < LINES:
        body = f'Hello {{{{ contact.first_name | default: "there" }}}}, this is word {count} from us.'
        message = {"name": f"Word {count}", "body": body}
        ask = {
            "kind": "wait_for_reply",
            "limit": "3 days",
            "lanes": [
                {"id": f"y-{count}", "answer": "yes", "words": ["yes"], "steps": [tag(f"a-{count}")]},
                {"id": f"n-{count}", "answer": "none", "words": [], "steps": [tag(f"b-{count}")]},
            ],
        }
        kinds: list[dict[str, Any]] = [
            {"kind": "wait", "duration": "2 days"},
            {"kind": "text", "message": message},
            {"kind": "email", "message": message | {"subject": "Hello"}},
            ask,
            {"kind": "call", "about": "it", "say": "Hello"},
        ]
        step = kinds[len(steps) % 5]
        steps.append(step | {"id": f"s-{count}"})
        count += 3 if "lanes" in step else 1
    return {"name": "Two hundred lines", "steps": steps}


def tag(id: str) -> dict[str, str]:
    return {"kind": "tag", "id": id, "tag": "keen"}


def main() -> None:
    url = fresh_database()
    from launcher.shots import open_browser
    from playwright.sync_api import sync_playwright
    from tests.server.conftest import make_house

    from bluffside.core.workflow.files import parse_workflow
    from bluffside.server.workflows import writing

    house = make_house()
    give_password(house)
    workflow = writing.create(house.sailing, parse_workflow(script()), house.consultant)
    with served(url) as address, sync_playwright() as playwright:
        browser = open_browser(playwright)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, locale="en-GB")
        rows = [floor(page), *_page(page, address, house, workflow.id)]
        browser.close()
    say_times(f"The workflow page with {LINES} lines", rows)


Row = tuple[str, list[float]]


def give_password(house: Any) -> None:
    from django.contrib.auth.hashers import Argon2PasswordHasher

    hasher = Argon2PasswordHasher()  # the tests' houses have a quick one, which the web server does not know
    house.consultant.password = hasher.encode(PASSWORD, hasher.salt())
    house.consultant.save()


def sign_in(page: Any, address: str, house: Any) -> None:
    page.goto(address)
    page.get_by_label("Email").fill(house.consultant.email)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    page.locator("main#here").wait_for()


def say_times(what: str, rows: Sequence[Row]) -> None:
    print(f"\n{what}: from a key to the end of the frame that shows it, in ms")
    print(f"  {'':<44}{'median':>9}{'19 of 20':>10}{'longest':>9}")
    for words, times in rows:
        at = sorted(times)
        print(f"  {words:<44}{at[len(at) // 2]:>9.1f}{at[int(len(at) * 0.95)]:>10.1f}{at[-1]:>9.1f}")


def press(page: Any, words: str, keys: Sequence[str], pause: int = 120) -> Row:
    page.evaluate("window.times = []")
    for key in keys:
        page.keyboard.press(key)
        page.wait_for_timeout(pause)
    return words, page.evaluate("window.times")


def floor(page: Any) -> Row:
    page.set_content("<textarea></textarea>")
    page.evaluate(TIMES)
    page.locator("textarea").focus()
    return press(page, "floor: a bare text field", list("abcde") * 12)


def _page(page: Any, address: str, house: Any, workflow: int) -> list[Row]:
    sign_in(page, address, house)
    page.goto(f"{address}/{house.sailing.slug}/workflows/{workflow}")
    lines = page.get_by_role("group", name="The script", exact=True).get_by_role("article")
    lines.nth(LINES - 1).wait_for()
    page.wait_for_timeout(2_000)
    page.evaluate(TIMES)
    lines.nth(40).click()
    rows = [
        press(page, "from line to line", ["ArrowDown"] * 40),
        press(page, "several lines chosen", ["Shift+ArrowDown", "Shift+ArrowUp"] * 10),
        press(page, "a line moved", ["Alt+ArrowDown", "Alt+ArrowUp"] * 10, 250),
        press(page, "undone", ["Control+z"] * 10, 250),
    ]
    lines.nth(1).click()
    page.keyboard.press("n")
    page.wait_for_timeout(400)
    rows.append(press(page, "a message typed", list("abcde") * 12))
    page.keyboard.press("Escape")
    page.keyboard.press("Enter")
    page.wait_for_timeout(400)
    rows.append(press(page, "a new line typed", list("after3daystext")))
    return rows


if __name__ == "__main__":
    main()
