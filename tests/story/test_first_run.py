"""An empty installation in real use: from the link that is printed to an account that is set up, in the browser."""

import os
import re
import subprocess
import sys
from collections.abc import Iterator

import pytest
from django.conf import settings
from launcher.database import app_url, free_port
from launcher.running import until_it_answers, web_command
from playwright.sync_api import Browser, expect

from tests import databases
from tests.story.conftest import run
from tests.story.test_pages import faults


@pytest.fixture
def link(worker_id: str) -> Iterator[str]:
    here = f"http://127.0.0.1:{free_port()}"
    with databases.copy(databases.blank(), f"bluffside_first_{worker_id}") as url:
        env = os.environ | {"DATABASE_URL": url, "BLUFFSIDE_ADDRESS": here, "PYTHONPATH": str(settings.ROOT / "src")}
        told = subprocess.check_output([sys.executable, "-m", "django", "take_into_use"], env=env, text=True)
        web = run(app_url(url), here, *web_command(here, "error"))
        try:
            until_it_answers(here)
            yield re.findall(r"http\S+", told)[0]
        finally:
            web.terminate()
            web.wait()


def test_who_opens_the_link_comes_to_an_account_that_is_set_up(browser: Browser, link: str) -> None:
    page = browser.new_page(viewport={"width": 1280, "height": 800}, locale="en-GB")
    page.goto(link)
    expect(page.get_by_label("What is your practice called?")).to_be_focused()
    assert faults(page) == []
    page.keyboard.type("Hale Follow-up")
    for label, value in [
        ("What are you called?", "Wren Hale"),
        ("Email", "wren@example.com"),
        ("Password", "1234567890"),
    ]:
        page.get_by_label(label, exact=True).fill(value)
    page.keyboard.press("Enter")
    expect(page.get_by_text("This password is too common.")).to_be_visible()
    page.get_by_label("Password", exact=True).fill("slack-water-7")
    page.keyboard.press("Enter")
    asked = page.get_by_role("dialog", name="A new account")
    asked.get_by_label("What is the business called?").fill("Kelp Lane Bakery")
    asked.get_by_label("Where is it?").fill("Lisb")
    expect(asked.get_by_label("By the clock of")).to_have_value("Europe/Lisbon")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="The business", level=1)).to_be_visible()
    expect(page.get_by_text("Messages reach your own team alone.")).to_be_visible()
    page.get_by_role("link", name="People", exact=True).click()
    expect(page.get_by_text("Nobody is here yet.")).to_be_visible()
    page.goto(link)  # used up: who is signed in is where they were
    expect(page.get_by_label("What is your practice called?")).to_have_count(0)
