"""A table of thousands of rows draws those in sight alone, and every row is come to."""

from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

ROWS = 5_000


@pytest.mark.parametrize("width", [1280, 390])
def test_of_thousands_of_rows_some_are_drawn_and_all_are_come_to(open_page: Callable[..., Page], width: int) -> None:
    page = open_page("/", width=width)
    tags = [{"id": n, "name": f"tag {n:04}", "contacts": n, "about": ""} for n in range(ROWS)]
    page.route("**/tags", lambda route: route.fulfill(json=tags))
    page.goto(f"{page.url.split('/', 3)[0]}//{page.url.split('/')[2]}/tern-harbour/people/sorting")
    table = page.get_by_role("table", name="Tags")
    expect(table.get_by_role("link", name="tag 0000")).to_be_visible()
    rows = table.locator("tbody tr")
    assert rows.count() < 120
    expect(table).to_have_attribute("aria-rowcount", str(ROWS + 1))
    for number in (2_500, ROWS - 1):
        before = table.evaluate("one => one.getBoundingClientRect().top + scrollY")
        height = table.locator("tbody").evaluate("one => one.getBoundingClientRect().height")
        page.evaluate("to => scrollTo(0, to)", before + height * number / ROWS - 200)
        page.wait_for_timeout(300)
        names = [int(name[4:]) for name in table.get_by_role("link").all_inner_texts()]
        assert names == list(range(names[0], names[0] + len(names))) and rows.count() < 120
        assert names[0] < number + 60 and number - 60 < names[-1], (number, names[0], names[-1])
    page.evaluate("scrollTo(0, document.body.scrollHeight)")
    page.wait_for_timeout(300)
    page.get_by_role("link", name=f"tag {ROWS - 1}").scroll_into_view_if_needed()
    expect(page.get_by_role("link", name=f"tag {ROWS - 1}")).to_be_in_viewport()
    last = rows.filter(has_text=f"tag {ROWS - 1}")
    expect(last).to_have_attribute("aria-rowindex", str(ROWS + 1))
