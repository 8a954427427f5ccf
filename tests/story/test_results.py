"""Results as they are read: which workflows work, along the script, by message; a workflow is given an aim and they follow."""

import re
from collections.abc import Callable

from playwright.sync_api import Page, expect

from tests.story.test_pages import faults

HERE = "/tern-harbour/results"


def test_results_are_read_from_all_workflows_to_one_line_and_as_a_file(open_page: Callable[..., Page]) -> None:
    page = open_page(HERE)
    row = page.get_by_role("row").filter(has_text="After the taster day")
    expect(row).to_contain_text("when a deal on Courses is made, within 7 days")
    expect(row).to_contain_text(re.compile(r"\d+ of \d+"))
    assert faults(page) == []
    with page.expect_download() as download:
        page.get_by_role("link", name="CSV").click()
    assert download.value.suggested_filename.endswith(".csv")
    page.get_by_role("button", name="4 weeks").click()
    expect(page).to_have_url(re.compile("since="))
    row.get_by_role("link", name="After the taster day", exact=True).click()
    expect(page.get_by_role("heading", level=1)).to_have_text("After the taster day")
    expect(page.get_by_text("reached it", exact=False).first).to_be_visible()
    line = page.get_by_role("row").filter(has_text="Texts Thanks for coming")
    expect(line).to_contain_text(re.compile(r"\d+ of \d+"))
    assert faults(page) == []
    page.get_by_role("navigation", name="Results").get_by_role("link", name="Messages").click()
    page.get_by_role("combobox", name="Told apart").select_option("channel")
    expect(page.get_by_role("row").filter(has_text=re.compile("^texts"))).to_be_visible()
    assert faults(page) == []


def test_each_page_of_results_stands_on_a_phone_and_has_no_trouble(open_page: Callable[..., Page]) -> None:
    for path in ("", "/messages", "/team", "/sources"):
        page = open_page(HERE + path, width=390)
        page.get_by_role("heading", level=1).wait_for()
        page.wait_for_load_state("networkidle")
        assert page.evaluate("document.documentElement.scrollWidth") <= 390, path
        assert faults(page) == [], path


def test_a_workflow_without_an_aim_is_given_one_in_its_head(open_page: Callable[..., Page]) -> None:
    page = open_page("/slipware-lane/workflows")
    page.get_by_role("link", name="New enquiry for the wheel class").click()
    page.get_by_role("button", name="It is for when…").click()
    box = page.get_by_role("combobox", name="Name its aim")
    box.fill("reply")
    box.press("Enter")
    expect(page.get_by_text("Reaches its aim")).to_be_visible()
    head = page.get_by_role("group", name="How it starts and ends")
    expect(head).to_contain_text("Reaches its aim when they reply to")
    expect(head).to_contain_text("within")
    page.keyboard.press("Control+z")
    expect(page.get_by_role("button", name="It is for when…")).to_be_visible()
