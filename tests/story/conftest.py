"""The real application for tests in the browser: its own database with a short demo, gunicorn and a worker, Chromium."""

import os
import subprocess
import sys
from collections.abc import Callable, Iterator
from urllib.parse import urlsplit, urlunsplit

import psycopg
import pytest
from django.conf import settings
from launcher.database import app_url, free_port
from launcher.running import until_it_answers, web_command
from launcher.shots import open_browser, sign_in
from playwright.sync_api import Browser, Page, expect, sync_playwright

DATABASE = "bluffside_story"
expect.set_options(timeout=15_000)  # as long as for acts: a machine that stalls is not a wrong result
# The demo's clock is moved on to a Wednesday, two in the afternoon in London: what a test sees does not depend on the hour
# at which it runs.
TO_WEDNESDAY = """
import django; django.setup()
from datetime import datetime, time, timedelta
from bluffside.core.timing.local import at_time, to_local
from bluffside.server import travel
from bluffside.server.practice import clock
today = to_local(clock.now(), "Europe/London").date()
days = (today + timedelta(days=n) for n in range(9))
moments = (at_time(day, time(14), "Europe/London") for day in days if day.weekday() == 2)
travel.run_through(next(at for at in moments if at > clock.now()), clock.move_to)
"""


def run(url: str, address: str, *command: str, how: str = "-m") -> subprocess.Popen[bytes]:
    env = os.environ | {"DATABASE_URL": url, "BLUFFSIDE_ADDRESS": address, "PYTHONPATH": str(settings.ROOT / "src")}
    return subprocess.Popen([sys.executable, how, *command], env=env, cwd=settings.ROOT)


@pytest.fixture(scope="session")
def address() -> Iterator[str]:
    server = urlsplit(os.environ["DATABASE_URL"])
    with psycopg.connect(os.environ["DATABASE_URL"], autocommit=True) as admin:
        admin.execute(f"DROP DATABASE IF EXISTS {DATABASE} WITH (FORCE)")
        admin.execute(f"CREATE DATABASE {DATABASE}")
    url, here = urlunsplit(server._replace(path=f"/{DATABASE}")), f"http://127.0.0.1:{free_port()}"
    for command in (["migrate", "-v", "0"], ["load_demo", "--weeks", "2"]):
        assert run(url, here, "django", *command).wait() == 0
    assert run(url, here, TO_WEDNESDAY, how="-c").wait() == 0
    url = app_url(url)
    how, *web_arguments = web_command(here, "error")
    web = run(url, here, *web_arguments, how=how)
    worker = run(url, here, "django", "work")
    try:
        until_it_answers(here)
        yield here
    finally:
        for process in (web, worker):
            process.terminate()
            process.wait()


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        browser = open_browser(playwright)
        yield browser
        browser.close()


@pytest.fixture
def open_page(browser: Browser, address: str) -> Iterator[Callable[..., Page]]:
    """Opens a signed-in page; fails the test when the page itself reports an error."""
    faults: list[str] = []
    pages: list[Page] = []

    def opened(path: str = "/", email: str = "imogen@example.com", width: int = 1280) -> Page:
        page = browser.new_page(viewport={"width": width, "height": 800}, locale="en-GB")
        page.set_default_timeout(15_000)
        page.on("pageerror", lambda error: faults.append(str(error)))
        sign_in(page, address, email)
        page.goto(address + path)
        pages.append(page)
        return page

    yield opened
    for page in pages:
        page.close()
    assert not faults
