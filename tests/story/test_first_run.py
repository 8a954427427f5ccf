"""An empty installation in real use: from the link that is printed to a published workflow, in the browser, as a new user."""

import os
import re
import subprocess
import sys
import time
from collections.abc import Iterator

import psycopg
import pytest
from django.conf import settings
from launcher.database import app_url, free_port
from launcher.running import until_it_answers, web_command
from playwright.sync_api import Browser, expect

from tests import databases
from tests.server.test_signing_in import code_of
from tests.story.test_pages import faults

TEN_MINUTES = 600


@pytest.fixture
def installed(worker_id: str, monkeypatch: pytest.MonkeyPatch) -> Iterator[tuple[str, str]]:
    """The link that was printed, and where its database is. Email is simulated, so that codes can be read."""
    from tests.story.conftest import run

    here = f"http://localhost:{free_port()}"
    with databases.copy(databases.blank(), f"bluffside_first_{worker_id}") as url:
        monkeypatch.setenv("BLUFFSIDE_SIMULATED", "email,text")
        env = os.environ | {"DATABASE_URL": url, "BLUFFSIDE_ADDRESS": here, "PYTHONPATH": str(settings.ROOT / "src")}
        told = subprocess.check_output([sys.executable, "-m", "django", "take_into_use"], env=env, text=True)
        processes = [
            run(app_url(url), here, *web_command(here.replace("localhost", "127.0.0.1"), "error")),
            run(app_url(url), here, "-m", "django", "work"),
        ]
        try:
            until_it_answers(here)
            yield re.findall(r"http\S+", told)[0], url
        finally:
            for process in processes:
                process.terminate()
                process.wait()


def mailed(url: str, to: str, pattern: str) -> str:
    """What a mail to an address says, by a pattern; it is waited for."""
    for _ in range(100):
        with psycopg.connect(url) as line:
            rows = line.execute("SELECT text FROM outside_item WHERE theirs = %s ORDER BY id DESC", [to]).fetchall()
        for row in rows:
            if found := re.search(pattern, row[0]):
                return found[1]
        time.sleep(0.1)
    raise AssertionError(f"nothing was mailed to {to}")


def test_who_opens_the_link_comes_to_a_published_workflow(browser: Browser, installed: tuple[str, str]) -> None:
    link, url = installed
    began = time.monotonic()
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

    # A second step: an authenticator app, by the key that stands beside the picture.
    page.get_by_role("button", name="Set it up").click()
    expect(page.get_by_alt_text("A picture for your authenticator app")).to_be_visible()
    assert faults(page) == []
    page.get_by_label("The code it shows now").fill(code_of(page.locator(".key").inner_text().replace(" ", "")))
    page.keyboard.press("Enter")
    expect(page.get_by_label("Recovery codes").get_by_role("listitem")).to_have_count(10)
    page.get_by_role("button", name="I have them").click()
    page.get_by_role("button", name="Go on").click()

    # The first account, and whom its emails come from.
    page.get_by_label("What is the business called?").fill("Kelp Lane Bakery")
    page.get_by_label("Where is it?").fill("Lisb")
    expect(page.get_by_label("By the clock of")).to_have_value("Europe/Lisbon")
    page.get_by_role("button", name="Make the account").click()
    page.get_by_label("Emails come from").fill("hello@kelp.example.com")
    page.keyboard.press("Enter")
    code = page.get_by_label("Code", exact=True)
    expect(code).to_be_visible()
    code.fill(mailed(url, "hello@kelp.example.com", r"an hour: (\d{6})"))
    page.keyboard.press("Enter")

    # An empty People page, which says what to do next; then a workflow of the starter set.
    expect(page.get_by_text("Nobody is here yet.")).to_be_visible()
    expect(page.get_by_text("Messages reach your own team alone.")).to_be_visible()
    page.goto(page.url.split("/people")[0] + "/workflows/starters")
    page.get_by_role("button", name="Use this one").click()
    page.get_by_role("button", name=re.compile("^Publish")).click()
    page.get_by_role("dialog").get_by_role("button", name=re.compile("^Publish")).click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    assert time.monotonic() - began < TEN_MINUTES

    page.goto(link)  # used up: who is signed in is where they were
    expect(page.get_by_label("What is your practice called?")).to_have_count(0)
    page.close()
