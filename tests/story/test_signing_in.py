"""Coming in, and being let out: invitations, passkeys, new passwords, a stolen session, a right that is lost, a colleague who
leaves. Whoever is changed here was invited here, so that the sessions of other stories stay."""

import re
import time
from collections.abc import Callable, Iterator
from uuid import uuid4

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect

from tests.story.test_pages import faults

Open = Callable[..., Page]
PASSWORD = "slack-water-7"


@pytest.fixture
def named(address: str) -> str:
    """By a name: a passkey belongs to one, and an address of numbers is none."""
    return address.replace("127.0.0.1", "localhost")


@pytest.fixture
def context(browser: Browser) -> Iterator[BrowserContext]:
    context = browser.new_context(viewport={"width": 1280, "height": 800}, locale="en-GB")
    context.set_default_timeout(30_000)
    yield context
    context.close()


def link_mailed_to(page: Page, address: str, email: str, door: str) -> str:
    """By the simulated mailbox of the demo."""
    page.goto(f"{address}/mailbox")
    page.get_by_label("To", exact=True).fill(email)
    found = page.get_by_role("link", name=f"/{door}#").first
    expect(found).to_be_visible(timeout=20_000)
    return str(found.get_attribute("href")).split("#")[1]


def csrf(page: Page) -> dict[str, str]:
    return {"X-CSRFToken": page.evaluate("document.cookie.match(/csrftoken=([^;]+)/)[1]")}


def come_in(
    open_page: Open, context: BrowserContext, where: str, account: str, name: str, role: str = "team member"
) -> str:
    """Invited by the consultant, on the team's page; comes in by the link. Answers the address."""
    email = f"{uuid4().hex[:8]}@example.com"
    consultant = open_page(f"/{account}/set-up/team?ask=invite")
    ask = consultant.get_by_role("dialog", name="Invite somebody")
    ask.get_by_label("Email").fill(email)
    ask.get_by_label("Works as").select_option(label=role)
    ask.get_by_role("button", name="Invite").click()
    expect(consultant.get_by_label("Invited").get_by_text(email)).to_be_visible()
    page = context.new_page()
    key = link_mailed_to(page, where, email, "join")
    page.goto(f"{where}/join#{key}")
    page.get_by_label("What are you called?").fill(name)
    page.get_by_label("Password").fill(PASSWORD)
    assert faults(page) == []
    page.get_by_role("button", name="Come in").click()
    expect(page.get_by_role("heading", name="Today", level=1)).to_be_visible()
    page.goto(f"{where}/join#{key}")
    expect(page.get_by_text("This invitation has run out, was used, or was taken back.")).to_be_visible()
    page.close()
    return email


def test_somebody_is_invited_makes_a_passkey_and_comes_back_by_it(
    open_page: Open, context: BrowserContext, named: str
) -> None:
    email = come_in(open_page, context, named, "two-brakes", "Fen Aldous")
    page = context.new_page()
    devtools = context.new_cdp_session(page)
    devtools.send("WebAuthn.enable")
    device = {
        "protocol": "ctap2", "transport": "internal", "hasResidentKey": True, "hasUserVerification": True,
        "isUserVerified": True, "automaticPresenceSimulation": True,
    }  # fmt: skip
    devtools.send("WebAuthn.addVirtualAuthenticator", {"options": device})
    page.goto(f"{named}/myself")
    assert faults(page) == []
    page.get_by_role("button", name="Add one").click()
    page.get_by_label("What do you call it?").fill("my bench")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Recovery codes").get_by_role("listitem")).to_have_count(10)
    page.get_by_role("button", name="I have them").click()
    expect(page.get_by_text("Passkey: my bench")).to_be_visible()
    page.get_by_role("button", name="Fen Aldous").click()
    page.get_by_role("menuitem", name="Sign out").click()
    page.get_by_role("button", name="With a passkey").click()
    expect(page.get_by_role("button", name="Fen Aldous")).to_be_visible()

    # With a password alone nobody gets further: the step is asked for, and the passkey is one.
    page.get_by_role("button", name="Fen Aldous").click()
    page.get_by_role("menuitem", name="Sign out").click()
    page.get_by_label("Email").fill(email)
    page.get_by_label("Password").fill("wrong-altogether")
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("alert")).to_have_text("That email and password do not go together.")
    page.get_by_label("Password").fill(PASSWORD)
    page.keyboard.press("Enter")
    expect(page.get_by_label("Code", exact=True)).to_be_focused()
    page.get_by_role("button", name="With a passkey").click()
    expect(page.get_by_role("button", name="Fen Aldous")).to_be_visible()


def test_a_forgotten_password_is_set_anew_and_a_stolen_session_ends_in_the_open_page(
    open_page: Open, browser: Browser, context: BrowserContext, address: str
) -> None:
    email = come_in(open_page, context, address, "two-brakes", "Ash Penrow")
    thief = browser.new_context(storage_state=context.storage_state(), locale="en-GB")
    stolen = thief.new_page()
    stolen.goto(f"{address}/two-brakes/today")
    expect(stolen.get_by_role("heading", name="Today", level=1)).to_be_visible()

    other = browser.new_context(locale="en-GB")
    page = other.new_page()
    page.goto(address)
    page.get_by_role("button", name="Forgotten your password?").click()
    page.get_by_label("Email").fill(email)
    page.keyboard.press("Enter")
    expect(page.get_by_role("status").filter(has_text="If somebody signs in with")).to_be_visible()
    key = link_mailed_to(page, address, email, "new-password")
    page.goto(f"{address}/new-password#{key}")
    page.get_by_label("New password").fill("another-tide-8")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Your new password is set")).to_be_visible()
    # The page that listens only is told at once, without a press.
    expect(stolen.get_by_role("dialog", name="You have been signed out")).to_be_visible(timeout=15_000)
    page.goto(address)
    page.get_by_label("Email").fill(email)
    page.get_by_label("Password").fill("another-tide-8")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Ash Penrow")).to_be_visible()

    # The same by hand, from the list of one's sessions.
    again = browser.new_context(storage_state=other.storage_state(), locale="en-GB")
    for one in (thief, again):
        one.close()
    second = browser.new_context(locale="en-GB")
    held = second.new_page()
    held.goto(address)
    held.get_by_label("Email").fill(email)
    held.get_by_label("Password").fill("another-tide-8")
    held.keyboard.press("Enter")
    expect(held.get_by_role("button", name="Ash Penrow")).to_be_visible()
    held.goto(f"{address}/two-brakes/today")
    expect(held.get_by_role("heading", name="Today", level=1)).to_be_visible()
    page.goto(f"{address}/myself")
    page.get_by_role("button", name="End it").click()
    expect(page.get_by_text("Ended: whoever holds it is signed out.")).to_be_visible()
    expect(held.get_by_role("dialog", name="You have been signed out")).to_be_visible(timeout=15_000)
    for one in (second, other):
        one.close()


def test_a_right_that_is_lost_is_gone_from_the_open_page_and_refused_in_words(
    open_page: Open, context: BrowserContext, address: str
) -> None:
    come_in(open_page, context, address, "slipware-lane", "Rue Calder", "manager")
    page = context.new_page()
    page.goto(f"{address}/slipware-lane/set-up")
    expect(page.get_by_role("heading", name="The business", level=1)).to_be_visible()
    consultant = open_page("/slipware-lane/set-up/team")
    consultant.get_by_label("Rue Calder works as").select_option(label="viewer")
    expect(consultant.get_by_text("Kept.")).to_be_visible()
    page.get_by_label("Trade").fill("glass")
    page.keyboard.press("Enter")
    expect(page.get_by_text("As viewer of Slipware Lane Pottery you may not do that").first).to_be_visible()
    page.goto(f"{address}/slipware-lane/people")
    expect(page.get_by_role("heading", name="People", level=1)).to_be_visible()
    expect(page.get_by_role("link", name="Set-up")).to_have_count(0)
    expect(page.locator("tbody tr").nth(3)).to_be_visible()
    assert "@" not in page.locator("tbody").inner_text()  # a viewer sees no addresses


def test_whoever_leaves_hands_over_what_they_have_in_hand(
    open_page: Open, context: BrowserContext, address: str
) -> None:
    come_in(open_page, context, address, "slipware-lane", "Lowen Tarr")
    page = context.new_page()
    page.goto(f"{address}/slipware-lane/today")
    consultant = open_page("/slipware-lane/people")
    base = f"{address}/api/accounts/slipware-lane"
    found = consultant.request.post(f"{base}/contacts/find", data={"who": {}}, headers=csrf(consultant))
    some = [one["id"] for one in found.json()["rows"][:2]]
    body = {"who": {"ids": some}, "member": "Lowen Tarr"}
    given = consultant.request.post(f"{base}/contacts/assign", data=body, headers=csrf(consultant))
    assert given.ok, given.text()
    consultant.goto(f"{address}/slipware-lane/set-up/team")
    row = consultant.get_by_role("row", name=re.compile("^Lowen Tarr"))
    expect(row).to_contain_text("2 contacts")
    assert faults(consultant) == []
    row.get_by_role("button", name="Leaves…").click()
    ask = consultant.get_by_role("dialog", name="Lowen Tarr leaves")
    ask.get_by_label("Who takes over 2 contacts?").select_option(label="Imogen Farrow")
    ask.get_by_role("button", name="They leave").click()
    expect(consultant.get_by_text("Lowen Tarr has left. Imogen Farrow has what was theirs.")).to_be_visible()
    one = consultant.request.get(f"{base}/contacts/{some[0]}").json()
    assert one["responsible"] == "Imogen Farrow"
    page.reload()
    time.sleep(0.2)
    expect(page.get_by_role("heading", name=re.compile("There is no such account|Accounts"))).to_be_visible()
