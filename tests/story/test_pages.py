"""Every main view passes axe-core (WCAG 2.2 AA rules), at 1280 and, where the team or a contact uses it, at 390 wide."""

import re
from collections.abc import Callable

import pytest
from django.conf import settings
from playwright.sync_api import Page, expect

AXE = settings.ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js"
RULES = "{runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']}"


def faults(page: Page) -> list[str]:
    page.evaluate(AXE.read_text())
    found = page.evaluate(f"axe.run(document, {RULES})")
    return [
        f"{one['id']}: {node['target']} {node['failureSummary']}"
        for one in found["violations"]
        for node in one["nodes"]
    ]


def script(page: Page, tab: str) -> None:
    page.get_by_role("link", name="After the taster day").click()
    page.get_by_role("group", name="The script", exact=True).wait_for()
    page.get_by_role("tab", name=tab).click()
    page.get_by_role("article").first.click()


def publishing(page: Page) -> None:
    script(page, "Write")
    page.keyboard.press("Alt+p")
    page.get_by_role("heading", name="Publish").wait_for()


def editing(page: Page) -> None:
    """A condition open in the head, a new line being typed."""
    script(page, "Write")
    page.keyboard.press("Alt+h")
    page.get_by_role("button", name="+ only some people").first.click()
    page.wait_for_load_state("networkidle")
    assert faults(page) == []
    page.keyboard.press("Escape")
    page.get_by_role("article").first.click()
    page.get_by_role("button", name="Write the next line").click()
    page.keyboard.type("after 2 days te")


def enrolling(page: Page) -> None:
    """People chosen on Watch, and the question whom to enrol."""
    script(page, "Watch")
    page.get_by_label("choose all").check()
    page.wait_for_load_state("networkidle")
    assert faults(page) == []
    page.get_by_role("button", name="Enrol people…").click()
    page.get_by_role("radio", name="a few at a time").check()


def nothing(page: Page) -> None: ...


@pytest.mark.parametrize(
    ("path", "then"),
    [
        ("/", nothing),
        ("/tern-harbour/today", nothing),
        ("/tern-harbour/replies", lambda page: page.locator("article a.name").first.click()),
        ("/tern-harbour/people", nothing),
        ("/tern-harbour/people", lambda page: page.locator("tbody a").first.click()),
        ("/tern-harbour/people/bring-in", nothing),
        ("/tern-harbour/workflows", nothing),
        ("/tern-harbour/workflows", lambda page: script(page, "Write")),
        ("/tern-harbour/workflows", lambda page: script(page, "Rehearse")),
        ("/tern-harbour/workflows", lambda page: script(page, "Watch")),
        ("/tern-harbour/workflows/waits", nothing),
        ("/tern-harbour/workflows/starters", nothing),
        ("/tern-harbour/workflows/uses", nothing),
        ("/tern-harbour/workflows/2/versions", nothing),
        ("/tern-harbour/workflows", publishing),
        ("/tern-harbour/workflows", editing),
        ("/tern-harbour/diary", nothing),
        ("/tern-harbour/diary?as=month", nothing),
        ("/tern-harbour/outside?mine=1", nothing),
        ("/tern-harbour/workflows", enrolling),
        (
            "/tern-harbour/outside",
            lambda page: page.get_by_label("Whose phone", exact=True).locator("li button").first.click(),
        ),
    ],
)
def test_a_view_passes_axe(open_page: Callable[..., Page], path: str, then: Callable[[Page], None]) -> None:
    page = open_page(path)
    page.wait_for_load_state("networkidle")
    then(page)
    page.wait_for_load_state("networkidle")
    assert faults(page) == []


@pytest.mark.parametrize(
    "path",
    [
        "/tern-harbour/today",
        "/tern-harbour/replies",
        "/tern-harbour/people",
        "/tern-harbour/people/quick",
        "/tern-harbour/people/1",
        "/tern-harbour/diary",
        "/tern-harbour/outside",
    ],
)
def test_what_the_team_uses_fits_a_phone(open_page: Callable[..., Page], path: str) -> None:
    page = open_page(path, email="mel@example.com", width=390)
    page.wait_for_load_state("networkidle")
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    assert faults(page) == []


OPENED: list[tuple[str, Callable[[Page], None]]] = [
    ("people", lambda page: page.get_by_role("button", name="Add one").click()),
    ("people", lambda page: page.get_by_text(re.compile("^Export")).click()),
    ("people", lambda page: page.keyboard.press("Control+k")),
    ("people", lambda page: page.keyboard.press("Control+j")),
    ("people", lambda page: page.keyboard.press("?")),
    ("people/words", lambda page: page.get_by_role("button", name="Drop").first.click()),
    ("people/words", lambda page: page.get_by_role("button", name="New rule").click()),
    ("people/sorting", lambda page: page.get_by_role("button", name="Merge…").first.click()),
    ("workflows", lambda page: page.get_by_role("button", name="Stop all sending…").click()),
    ("workflows", lambda page: page.get_by_role("button", name="Write a new one").click()),
    ("today", lambda page: page.locator(".who").get_by_role("button").click()),
]


@pytest.mark.parametrize("width", [1280, 390])
def test_what_opens_over_a_page_passes_axe_and_fits(open_page: Callable[..., Page], address: str, width: int) -> None:
    page = open_page(None, width=width)
    for number, (path, then) in enumerate(OPENED):
        page.goto(f"{address}/tern-harbour/{path}")
        expect(page.locator("main h1")).to_be_visible()
        page.wait_for_load_state("networkidle")
        then(page)
        over = page.locator("[role='dialog']:visible, .dropdown-menu.show")
        expect(over.first, f"what opens over {path} ({number})").to_be_visible(timeout=8_000)
        assert width < 768 or faults(page) == [], path  # what is read out is the same at both
        assert page.evaluate("document.documentElement.scrollWidth") <= width, path
    if width < 768:
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Areas").click()
        expect(page.get_by_role("dialog").get_by_role("link", name="Diary")).to_be_visible()
        assert faults(page) == []


def test_a_button_that_stands_in_every_row_names_its_row(open_page: Callable[..., Page], address: str) -> None:
    """By its name or its description, which a screen reader says after it."""
    page = open_page(None)
    for path in (
        "people/sorting",
        "people/segments",
        "people/words",
        "people/forms",
        "workflows",
        "today",
        "replies",
        "people/duplicates",
    ):
        page.goto(f"{address}/tern-harbour/{path}")
        expect(page.locator("main h1")).to_be_visible()
        page.wait_for_load_state("networkidle")
        said = page.locator("main button:visible").evaluate_all(
            """all => all.map(one => (one.ariaLabel || one.innerText.trim()) + ' | ' +
               (one.getAttribute('aria-describedby') ? document.getElementById(one.getAttribute('aria-describedby'))?.innerText : ''))"""
        )
        twice = sorted({one for one in said if said.count(one) > 1 and one.split(" | ")[0] not in OUTCOMES})
        assert not twice, (path, twice)


OUTCOMES = ("They want out 1", "They do not 2")  # of a group that names its contact


def test_the_sign_in_page_passes_axe(browser, address: str) -> None:  # type: ignore[no-untyped-def]
    page = browser.new_page()
    page.goto(address)
    page.get_by_role("button", name="Sign in").wait_for()
    assert faults(page) == []
    page.close()


def test_what_keeps_things_from_going_on_is_said_on_every_page(open_page: Callable[..., Page]) -> None:
    page = open_page("/tern-harbour/people")
    told = page.get_by_role("alert").filter(has_text=re.compile("worker runs|does not answer"))
    page.get_by_role("heading", name="People").wait_for()
    assert not told.count()
    page.route("**/pulse", lambda route: route.fulfill(json={"last": 1, "working": False}))
    expect(told).to_contain_text("no worker runs. What is due waits, and nothing is lost.")
    assert faults(page) == []
    page.unroute("**/pulse")
    expect(told).to_have_count(0)
    page.route("**/pulse", lambda route: route.abort())
    expect(told).to_contain_text("Bluffside does not answer.")
    page.unroute("**/pulse")
    expect(told).to_have_count(0)
