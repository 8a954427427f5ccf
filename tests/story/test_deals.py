"""Deals in the browser: a pipeline is set up in sentences; a deal is made, walked to, moved, taken back, lost and won by keys; several at
once; dragged with the mouse; on a phone one stage at a time."""

import re
from collections.abc import Callable

from playwright.sync_api import Page, expect

from tests.story.test_pages import faults

Open = Callable[..., Page]


def count_in(page: Page, stage: str) -> int:
    head = page.get_by_role("columnheader", name=re.compile(f"^{stage}")).locator(".fig").first
    return int(head.inner_text())


def test_a_pipeline_is_set_up_and_a_deal_goes_through_it_by_keys(open_page: Open) -> None:
    page = open_page("/tern-harbour/set-up/pipelines")
    page.get_by_label("Another pipeline").fill("Boats")
    page.keyboard.press("Enter")
    page.get_by_label("One more stage of Boats").fill("Handed over")
    page.keyboard.press("Enter")
    handed = page.get_by_label("Handed over: its name")
    expect(handed).to_be_visible()
    page.get_by_role("button", name="Handed over up").press("Enter")
    rests = page.get_by_label("Offered: days that a deal may rest there").last
    rests.fill("3")
    rests.press("Enter")
    reasons = page.get_by_label("Boats: reasons for losing")
    reasons.fill("too dear, no berth")
    reasons.blur()
    likely = page.get_by_label("Offered: how many of a hundred are won from there").last
    likely.fill("40")
    likely.blur()
    page.get_by_role("button", name=re.compile("^Handed over: what must be known before")).press("Enter")
    page.get_by_role("checkbox", name="what it is worth").press("Space")
    expect(
        page.get_by_role("button", name="Handed over: what must be known before: when it is known what it is worth")
    ).to_be_visible()
    expect(page.get_by_text("3 days").first.or_(rests)).to_be_visible()
    assert faults(page) == []

    page.goto(page.url.replace("/set-up/pipelines", "/deals?pipeline=Boats"))
    expect(page.get_by_text("No deal is open")).to_be_visible()
    page.get_by_role("button", name="New deal").press("Enter")
    asked = page.get_by_role("dialog", name="A new deal")
    asked.get_by_role("button", name=re.compile("somebody")).press("Enter")
    page.get_by_label("Search a contact").fill("Ada")
    page.get_by_role("button", name=re.compile("^Ada ")).first.wait_for()
    page.keyboard.press("Enter")
    asked.get_by_label("What about").fill("A used dinghy")
    asked.get_by_label(re.compile("^Worth")).fill("1200")
    asked.get_by_role("button", name="Make it").press("Enter")
    expect(asked).to_have_count(0)
    deal = page.get_by_role("article").filter(has_text="A used dinghy")
    expect(deal).to_be_focused()
    assert faults(page) == []
    page.keyboard.press("ArrowRight")
    said = page.get_by_text(re.compile("Ada .+ is in Talking"))
    expect(said).to_be_visible()
    expect(page.get_by_role("columnheader", name=re.compile("^Talking")).locator(".fig").first).to_have_text("1")
    expect(deal).to_be_focused()
    page.keyboard.press("Control+z")
    expect(page.get_by_text("Taken back.")).to_be_visible()
    expect(page.get_by_role("columnheader", name=re.compile("^New")).locator(".fig").first).to_have_text("1")
    deal.focus()
    page.keyboard.press("l")
    lost = page.get_by_role("dialog", name=re.compile("lost, why"))
    lost.get_by_role("radio", name="no berth").check()
    lost.get_by_role("button", name="Close it as lost").press("Enter")
    expect(page.get_by_text("Lost: 1, £1,200")).to_be_visible()
    expect(deal).to_have_count(0)


def test_several_deals_move_at_once_and_are_put_back_at_once(open_page: Open) -> None:
    page = open_page("/tern-harbour/deals?pipeline=Courses", email="mel@example.com")
    talking = page.get_by_role("columnheader", name=re.compile("^Talking"))
    expect(talking).to_be_visible()
    before = count_in(page, "Talking"), count_in(page, "Place held")
    page.locator("tbody tr td:nth-of-type(2)").get_by_role("article").first.focus()
    page.keyboard.press("Shift+ ")
    picked = page.get_by_role("article").filter(has_text="picked:")
    expect(picked.first).to_be_visible()
    shown = picked.count()
    assert faults(page) == []
    page.keyboard.press("ArrowRight")
    held = page.get_by_role("columnheader", name=re.compile("^Place held")).locator(".fig").first
    expect(held).to_have_text(str(before[1] + shown))
    page.get_by_role("button", name=re.compile("^(Undo|Take)")).first.press("Enter")
    expect(held).to_have_text(str(before[1]))
    nothing = page.get_by_role("button", name=re.compile("^Nothing next"))
    count = int(nothing.inner_text().split()[-1])  # by the day of the demo there may be none
    nothing.press("Enter")
    expect(page.get_by_role("rowheader")).to_have_count(min(count, 1))
    nothing.press("Enter")
    page.get_by_label("Whose deals").select_option(label="nobody’s")
    expect(page).to_have_url(re.compile("whose=0"))


def test_a_deal_is_dragged_to_a_stage_and_a_phone_shows_one_at_a_time(open_page: Open) -> None:
    page = open_page("/tern-harbour/deals?pipeline=Courses")
    deal = page.locator("tbody tr td:not(:last-child)").get_by_role("article").first
    who = deal.get_by_role("link").inner_text()
    deal.drag_to(page.get_by_role("columnheader", name=re.compile("^Deposit due")))
    expect(page.get_by_text(f"{who} is in Deposit due.")).to_be_visible()
    expect(page.locator("tbody tr td:last-child").get_by_text(who)).to_be_visible()
    phone = open_page("/tern-harbour/deals?pipeline=Courses", width=390)
    stage = phone.get_by_label("Stage")
    stage.select_option(index=3)
    expect(phone.get_by_role("columnheader", name=re.compile("^Deposit due"))).to_be_visible()
    expect(phone.get_by_role("columnheader", name=re.compile("^Talking"))).to_have_count(0)
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    assert faults(phone) == []


def test_a_deal_has_a_page_of_its_own_and_lists_are_kept_under_a_name(open_page: Open) -> None:
    page = open_page("/tern-harbour/deals/list?pipeline=Courses", email="mel@example.com")
    page.get_by_role("columnheader", name="Worth").get_by_role("button").or_(
        page.get_by_role("columnheader", name="Worth")
    ).first.click()
    expect(page).to_have_url(re.compile("sort=-?value"))
    page.get_by_role("button", name="Keep this view…").press("Enter")
    page.get_by_label("Keep this view as").fill("By worth")
    page.keyboard.press("Enter")
    expect(page.get_by_role("link", name="By worth")).to_have_class(re.compile("on"))
    assert faults(page) == []
    page.get_by_role("link", name="As a list").click()
    page.get_by_role("link", name="By worth").click()
    expect(page).to_have_url(re.compile("sort=-?value"))

    page.get_by_role("table").get_by_role("link").first.press("Enter")
    expect(page.get_by_role("heading", name="Who is in it")).to_be_visible()
    page.get_by_label("A note about the deal").fill("Wants the blue one.")
    page.get_by_role("button", name="Note it").press("Enter")
    expect(page.get_by_text("Wants the blue one.")).to_be_visible()
    page.get_by_label("Boat", exact=True).select_option(label="keelboat")
    page.get_by_role("button", name="Somebody else…").press("Enter")
    page.get_by_label("Their part").fill("pays")
    page.get_by_role("button", name=re.compile("^somebody")).press("Enter")
    page.get_by_label("Search a contact").fill("Ada")
    page.get_by_role("button", name=re.compile("^Ada ")).first.wait_for()
    page.keyboard.press("Enter")
    expect(page.get_by_label(re.compile("^What Ada .+ is in it"))).to_have_value("pays")
    expect(page.get_by_label("Boat", exact=True)).to_have_value("keelboat")
    assert faults(page) == []
    page.get_by_role("heading", level=1).click()
    page.keyboard.press("w")
    expect(page.get_by_text(re.compile("It was won on"))).to_be_visible()
    page.keyboard.press("Control+z")
    page.get_by_role("button", name="Open it again").or_(
        page.get_by_role("button", name=re.compile("^won"))
    ).first.wait_for()

    page.goto(page.url.split("/deals/")[0] + "/deals/coming?pipeline=Courses")
    expect(page.get_by_text(re.compile("will likely bring"))).to_be_visible()
    expect(page.get_by_role("img", name=re.compile("^Deals won and lost")).locator("svg")).to_be_visible()
    assert faults(page) == []
    phone = open_page("/tern-harbour/deals/coming?pipeline=Courses", width=390)
    expect(phone.get_by_text(re.compile("will likely bring"))).to_be_visible()
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
