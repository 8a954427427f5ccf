"""Two people write one draft at the same time: what each did stays, and where both did the same, one of them says whose."""

import re
from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from tests.story.writing import Writer


def two_at(open_page: Callable[..., Page], name: str, *lines: str) -> tuple[Page, Page]:
    """Two people at a script with these lines, as it is kept."""
    first, second = open_page("/two-brakes/workflows"), open_page("/two-brakes/workflows")
    Writer(first).new(name)
    for line in lines:
        Writer(first).line(line)
    Writer(first).kept()
    first.wait_for_timeout(800)
    second.goto(first.url)
    expect(Writer(second).lines).to_have_count(len(lines))
    return first, second


def test_two_write_different_lines_at_once_and_both_are_kept(open_page: Callable[..., Page]) -> None:
    first, second = two_at(open_page, "Written by two", "tag one", "tag two")
    # Both change something before either hears of the other.
    Writer(first).press("ArrowUp")
    Writer(first).line("tag mine")
    Writer(second).to(Writer(second).lines.nth(1))
    Writer(second).line("tag theirs")
    for page in (first, second):
        expect(Writer(page).lines).to_contain_text(["one", "mine", "two", "theirs"])
    # The same part differently, before the second hears of it: nothing is overwritten, and somebody says whose stands.
    second.route("**/revision", lambda route: route.abort())
    with first.expect_response(re.compile("/draft$")):
        rename(first, "First name")
    rename(second, "Second name")
    expect(second.get_by_role("alert")).to_contain_text("the name")
    second.get_by_role("button", name="Mine", exact=True).click()
    expect(second.get_by_role("alert")).to_have_count(0)
    expect(second.get_by_label("Name of the workflow")).to_have_value("Second name")
    expect(first.get_by_label("Name of the workflow")).to_have_value("Second name")


def rename(page: Page, name: str) -> None:
    page.get_by_label("Name of the workflow").fill(name)
    page.get_by_label("Name of the workflow").press("Tab")


@pytest.mark.parametrize(("choice", "stands", "undone"), [("Mine", True, False), ("Theirs", False, True)])
def test_a_line_taken_out_by_one_and_written_on_by_the_other_is_decided_upon(
    open_page: Callable[..., Page], choice: str, stands: bool, undone: bool
) -> None:
    first, second = two_at(open_page, f"Out and on, {choice}", "tag one", "text hello: Come by.", "tag two")
    second.route("**/revision", lambda route: route.abort())  # it hears of nothing before it saves
    first.bring_to_front()
    Writer(first).to(Writer(first).lines.nth(1))
    expect(Writer(first).lines.nth(1)).to_have_attribute("aria-current", "true")
    Writer(first).press("Delete")
    expect(Writer(first).lines).to_have_count(2)
    Writer(first).kept()
    first.wait_for_timeout(800)  # what is said as kept a moment ago may be what was kept before
    second.bring_to_front()
    Writer(second).to(Writer(second).lines.nth(1))
    words = second.get_by_label("Words of the text")
    words.click()
    Writer(second).press("End")
    second.keyboard.type(" Bring a friend.")
    asked = second.get_by_role("alert").filter(has_text="both changed")
    expect(asked).to_contain_text("Theirs: taken out Mine: Come by. Bring a friend.")
    asked.get_by_role("button", name=choice, exact=True).click()
    expect(asked).to_have_count(0)
    both = [["one", "Hello", "two"] if there else ["one", "two"] for there in (stands, undone)]
    for page in (first, second):
        expect(Writer(page).lines).to_have_count(len(both[0]))
        expect(Writer(page).lines).to_contain_text(both[0])
    second.get_by_role("button", name="Undo").click()  # what was not chosen is not lost
    expect(Writer(second).lines).to_have_count(len(both[1]))
    expect(Writer(second).lines).to_contain_text(both[1])
