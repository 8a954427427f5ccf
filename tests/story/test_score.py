"""The lead score in the browser: a rule is changed and added in its sentence, it says who would move, and it counts when somebody lets it."""

import re
from collections.abc import Callable

from playwright.sync_api import Page, expect

from tests.story.test_pages import faults

Open = Callable[..., Page]


def test_rules_are_changed_looked_at_and_let_count_by_keys(open_page: Open) -> None:
    page = open_page("/tern-harbour/set-up/score")
    expect(page.get_by_role("heading", name="Before it counts")).to_be_visible()
    expect(page.get_by_role("img", name=re.compile("^How many people stand"))).to_be_visible()
    expect(page.get_by_text(re.compile("rise to warm|rise to ready")).first).to_be_visible()
    assert faults(page) == []
    page.get_by_role("button", name="One more of what they do…").press("Enter")
    added = page.get_by_label(re.compile("^Points: they click"))
    expect(added).to_have_count(2)
    new = page.get_by_label("Points: they click any link (2)").or_(added.last).first
    new.fill("-5")
    new.press("Enter")
    expect(page.get_by_label(re.compile("^Points: ")).last).to_have_value("−5")
    half = page.get_by_label(re.compile("^Days to half: ")).last
    half.fill("14")
    half.press("Enter")
    expect(half).to_have_value("14")
    page.get_by_role("button", name=re.compile("^Take away: they click")).last.press("Enter")
    expect(added).to_have_count(1)
    warm = page.get_by_label("warm: from so many points")
    warm.fill("25")
    warm.press("Enter")
    expect(page.get_by_label("warm: from so many points")).to_have_value("25")
    assert faults(page) == []

    page.get_by_role("button", name=re.compile("^Let it count for")).press("Enter")
    expect(page.get_by_role("heading", name="As it stands")).to_be_visible()
    expect(page.get_by_text(re.compile("Counted anew"))).to_be_visible()
    page.get_by_role("button", name="Learned", exact=True).press("Enter")
    expect(page.get_by_text(re.compile("There are too few to learn from|Of two people"))).to_be_visible()
    page.get_by_label("What became of them").select_option(value="won")
    expect(page.get_by_role("table", name="Points by hand and learned")).to_be_visible()
    assert faults(page) == []
    page.get_by_role("button", name="As it was").press("Enter")
    expect(page.get_by_role("listitem").filter(has_text="Imogen Farrow").first).to_be_visible()
    assert faults(page) == []


def test_a_further_score_is_named_given_rules_let_count_and_read_by_keys(open_page: Open) -> None:
    """And a field is barred meanwhile: it is said why a rule that goes by it cannot count."""
    page = open_page("/tern-harbour/set-up/score")
    name = page.get_by_label("The name of one more score")
    name.fill("Racing")
    name.press("Enter")
    expect(page.get_by_role("heading", name="Racing", level=1)).to_be_visible()
    page.get_by_role("button", name="One more of what they do…").press("Enter")
    expect(page.get_by_label(re.compile("^Points: "))).to_have_count(1)
    page.get_by_label("A field that the score may not go by").select_option(label="postal address")
    expect(page.get_by_role("button", name="May go by postal address again")).to_be_visible()
    assert faults(page) == []
    page.get_by_role("button", name=re.compile("^Let it count for")).press("Enter")
    expect(page.get_by_text(re.compile("Counted anew"))).to_be_visible()
    page.get_by_role("button", name="Lead score", exact=True).press("Enter")
    expect(page.get_by_role("heading", name="Lead score", level=1)).to_be_visible()
    expect(page.get_by_label(re.compile("^Points: ")).nth(1)).to_be_visible()
    page.goto(page.url.replace("set-up/score", "people"))
    page.get_by_role("columnheader", name="Score").click()
    page.get_by_role("columnheader", name="Racing").click()
    expect(page.get_by_role("columnheader", name="Racing")).to_have_attribute("aria-sort", re.compile("cending"))
    expect(page.get_by_role("row").nth(1)).to_be_visible()


def test_the_team_reads_the_score_and_changes_nothing(open_page: Open) -> None:
    page = open_page("/tern-harbour/set-up/score", email="mel@example.com", width=390)
    expect(page.get_by_role("heading", name="Lead score")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("^Let it count"))).to_have_count(0)
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    assert faults(page) == []
