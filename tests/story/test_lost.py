"""What is lost on the way loses nothing that was typed: the network, a piece of the application, a page that breaks, a press
beside a dialog, a publish that came too late."""

import re
from collections.abc import Callable

from playwright.sync_api import Page, Route, expect

from tests.story.test_two_writers import two_at
from tests.story.writing import Writer

HERE = "/tern-harbour/"


def test_what_was_typed_without_a_network_is_there_after_a_reload_and_is_kept_then(
    open_page: Callable[..., Page],
) -> None:
    page = open_page("/two-brakes/workflows")
    writer = Writer(page)
    writer.new("Typed on a train")
    writer.line("tag one")
    expect(page.get_by_text(re.compile("kept \\d"))).to_be_visible()
    page.route("**/draft", lambda route: route.abort())
    writer.line("tag two")
    writer.line("text hello: From the train")
    expect(page.get_by_text("not kept: The server cannot be reached.")).to_be_visible()
    page.once("dialog", lambda dialog: dialog.accept())  # the browser asks whether to leave what is not kept
    page.reload()
    expect(writer.lines).to_have_count(3)
    expect(page.get_by_text("What you typed here before, and was not kept, is here again.")).to_be_visible()
    page.unroute("**/draft")
    expect(page.get_by_text(re.compile("kept \\d"))).to_be_visible()
    page.reload()
    expect(writer.lines).to_contain_text(["one", "two", "Hello"])
    expect(page.get_by_text("is here again")).to_have_count(0)


def test_a_piece_that_is_gone_since_a_new_version_is_loaded_anew_once(open_page: Callable[..., Page]) -> None:
    page = open_page(HERE + "today")
    expect(page.get_by_role("heading", name="Today", exact=True)).to_be_visible()
    asked: list[str] = []

    def gone(route: Route) -> None:
        asked.append(route.request.url)
        route.abort() if len(asked) == 1 else route.continue_()

    page.route("**/assets/DiaryPage-*.js", gone)
    page.get_by_role("link", name="Diary", exact=True).click()
    expect(page.get_by_role("heading", name="Diary", exact=True)).to_be_visible()
    assert len(asked) == 2


def test_a_page_that_breaks_leaves_the_rest_and_can_be_opened_again(open_page: Callable[..., Page]) -> None:
    page = open_page(HERE + "people/quick")  # everybody's page has read the segments already
    page.route("**/segments", lambda route: route.fulfill(json=[None]))
    page.get_by_role("link", name="Segments", exact=True).click()
    expect(page.get_by_role("heading", name="This page broke")).to_be_visible()
    page.get_by_role("link", name="Quick entry").click()  # the area's own links stay
    expect(page.get_by_role("heading", name="Quick entry")).to_be_visible()
    page.unroute("**/segments")
    page.get_by_role("link", name="Segments", exact=True).click()
    expect(page.get_by_role("heading", name="Segments", exact=True)).to_be_visible()


def test_a_press_beside_a_dialog_never_throws_away_what_was_typed_and_faults_stand_at_their_fields(
    open_page: Callable[..., Page],
) -> None:
    page = open_page(HERE + "people")
    page.get_by_role("button", name="Add one").click()
    asked = page.get_by_role("dialog", name="Add one")
    page.mouse.click(5, 400)
    expect(asked).to_have_count(0)
    page.get_by_role("button", name="Add one").click()
    asked.get_by_label("First name").fill("Nell")
    page.mouse.click(5, 400)
    expect(asked.get_by_label("First name")).to_have_value("Nell")
    asked.get_by_label("Email").fill("nell at home")
    asked.get_by_label("Mobile").fill("12")
    page.keyboard.press("Enter")
    email, mobile = asked.get_by_label("Email"), asked.get_by_label("Mobile")
    expect(email).to_have_accessible_description("“nell at home” is not an email address.")
    expect(mobile).to_have_accessible_description("“12” is not a number anybody can have.")
    expect(email).to_be_focused()
    email.fill("nell.fenn@example.com")
    mobile.fill("")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Nell", exact=True)).to_be_visible()
    expect(page).to_have_title("Nell · People · Tern Harbour Sailing · Bluffside")


def test_publish_can_be_pressed_again_once_it_has_caught_up_with_who_wrote_meanwhile(
    open_page: Callable[..., Page],
) -> None:
    first, second = two_at(open_page, "Published by two", "tag one")
    first.get_by_role("button", name="Publish…").click()
    asked = first.get_by_role("dialog", name="Publish")
    expect(asked.get_by_text("This becomes version 1.")).to_be_visible()
    second.bring_to_front()
    Writer(second).to(Writer(second).lines.nth(0))
    with second.expect_response(re.compile("/draft$")):
        Writer(second).line("tag theirs")
    first.bring_to_front()
    asked.get_by_role("button", name="Publish version 1").click()
    expect(asked.get_by_role("alert")).to_contain_text("the draft was changed since you looked at it")
    asked.get_by_role("button", name="Publish version 1").click()
    expect(first.get_by_text("Version 1 is published.")).to_be_visible()
    expect(Writer(first).lines).to_contain_text(["one", "theirs"])
