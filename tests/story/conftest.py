"""The real application for tests in the browser: its own database with a short demo, gunicorn and a worker, Chromium."""

import os
import subprocess
import sys
from collections.abc import Callable, Iterator
from functools import cache

import pytest
from django.conf import settings
from launcher.database import app_url, free_port
from launcher.running import until_it_answers, web_command
from launcher.shots import open_browser, sign_in
from playwright.sync_api import Browser, Page, StorageState, expect, sync_playwright

from tests import databases

PATIENCE = 60_000  # milliseconds, for acts as well: a machine that stalls is not a wrong result
expect.set_options(timeout=PATIENCE)


def run(url: str, address: str, *command: str) -> subprocess.Popen[bytes]:
    env = os.environ | {"DATABASE_URL": url, "BLUFFSIDE_ADDRESS": address, "PYTHONPATH": str(settings.ROOT / "src")}
    return subprocess.Popen([sys.executable, *command], env=env, cwd=settings.ROOT)


@pytest.fixture(scope="session")
def address(worker_id: str) -> Iterator[str]:
    here = f"http://127.0.0.1:{free_port()}"
    with databases.copy(databases.lived(), f"bluffside_story_{worker_id}") as url:
        web = run(app_url(url), here, *web_command(here, "error"))
        worker = run(app_url(url), here, "-m", "django", "work")
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


@pytest.fixture(scope="session")
def cookies_of(browser: Browser, address: str) -> Callable[[str], StorageState]:
    """Somebody's cookies after they have signed in by the form, once a run."""

    @cache
    def signed_in(email: str) -> StorageState:
        page = browser.new_page()
        sign_in(page, address, email)
        state = page.context.storage_state()
        page.close()
        return state

    return signed_in


@pytest.fixture
def open_page(
    browser: Browser, address: str, cookies_of: Callable[[str], StorageState]
) -> Iterator[Callable[..., Page]]:
    """Opens a signed-in page, at a path or (None) nowhere yet; fails the test when the page itself reports an error."""
    faults: list[str] = []
    pages: list[Page] = []

    def opened(path: str | None = "/", email: str = "imogen@example.com", width: int = 1280) -> Page:
        wide = {"width": width, "height": 800}
        page = browser.new_page(viewport=wide, locale="en-GB", storage_state=cookies_of(email))
        page.set_default_timeout(PATIENCE)
        page.on("pageerror", lambda error: faults.append(str(error)))
        if path:
            page.goto(address + path)
        pages.append(page)
        return page

    yield opened
    for page in pages:
        page.close()
    assert not faults
