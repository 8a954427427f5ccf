"""Letters in lines: read by two parsers of HTML, safe against what people write, and the same in words."""

import re
from dataclasses import replace
from html.parser import HTMLParser
from typing import Any

import html5lib
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from bluffside.core.care.house import Care
from bluffside.core.care.quiet import Opening, OpeningHours
from bluffside.core.channel_kinds.email import EmailMessage
from bluffside.core.letters.compiling import BUSINESS, LEAVE, OWN_PAGE, OWN_WORDS, WEB, filled, sources
from bluffside.core.letters.document import LINES, Letter
from bluffside.core.letters.inline import pieces
from bluffside.core.letters.pasted import safe
from bluffside.core.letters.sheet import Look
from bluffside.core.messages.merge import render
from bluffside.core.workflow.files import parse_workflow
from tests.core.examples import ADA

LOOK = Look("Tern Harbour <Sailing>", "Courses & boats", logo="https://app.example.com/b/logo")
HELLO = '{{ contact.first_name | default: "sailor" }}'
BELOW = {BUSINESS: "The Old Slip", OWN_PAGE: "https://app.example.com/p/1", OWN_WORDS: "Change what we send", LEAVE: "https://app.example.com/u/1", WEB: "https://app.example.com/r/1"}  # fmt: skip
ADDRESSES = st.sampled_from(["https://example.com/a?b=1&c=2", "mailto:mel@example.com", "javascript:alert(1)", "", "{{ account.booking_link }}"])  # fmt: skip
SAID = st.text(
    st.sampled_from("ab <>&\"'*_[]()\\{}|\n:/.") | st.characters(exclude_categories=["Cs", "Cc"]), max_size=30
)
WORDS = st.builds("{}{}{}".format, SAID, st.sampled_from(["", HELLO, "**now**", "[dates](https://example.com/d)", "https://example.com/e"]), SAID)  # fmt: skip
# What is pasted: pieces of mails, and of attacks on who opens one, in any order, cut anywhere.
PIECES = (
    "<style>p{color:red;background:url(https://spy.example.com/s)} @import 'https://spy.example.com/c.css';</style>", "<p class=a>Hello</p>",
    "<link rel=stylesheet href='file:///etc/passwd'>", "<script>alert(1)</script>", "<img src=https://example.com/a.png onerror=alert(1) alt='{{ x }}'>",
    "<a href='javascript:alert(1)'>bad</a>", "<a href='https://example.com/d?a=1&amp;b=2'>dates</a>", "<a href='{{ account.booking_link }}'>book</a>",
    "<form action=https://spy.example.com><input name=q></form>", "<iframe src=https://spy.example.com></iframe>", HELLO, "<svg><script>alert(1)</script></svg>",
    "<table><tr><td style='background-image:url(https://spy.example.com/t); color:blue'>cell</td></tr></table>", "<!-- [if mso]><b>x</b><![endif] -->",
    "<div style='color:{{ contact.first_name }}'>", "</td></tr></table></div>", "<math><mi href='javascript:x'>", "<base href=https://spy.example.com>", "xmerge0x", "&#0;<", "<title>",
)  # fmt: skip
PASTED = st.builds(
    lambda some, cut: "".join(some)[:cut], st.lists(st.sampled_from(PIECES), max_size=8), st.integers(1, 900)
)


def letter(*lines: dict[str, Any], preview: str = "") -> Letter:
    return Letter.model_validate({"preview": preview, "lines": [{"id": f"l{n}", **one} for n, one in enumerate(lines)]})


@st.composite
def letters(draw: st.DrawFn) -> Letter:
    """Of every kind of line, with words of every sort."""
    some: list[dict[str, Any]] = [
        {"kind": "heading", "words": draw(WORDS), "size": draw(st.sampled_from(["large", "small"]))},
        {"kind": "paragraph", "words": draw(WORDS)},
        {"kind": "picture", "address": "https://example.com/p.png", "words": draw(SAID), "leads_to": draw(ADDRESSES)},
        {"kind": "button", "words": draw(WORDS), "leads_to": draw(ADDRESSES)},
        {"kind": "list", "items": draw(st.lists(WORDS, max_size=3)), "numbered": draw(st.booleans())},
        {"kind": "quotation", "words": draw(WORDS), "who": draw(SAID)},
        {"kind": "pasted", "html_as_pasted": draw(PASTED)},
        *({"kind": kind} for kind in ("rule", "details", "hours", "appointment", "closing")),
    ]
    beside = [[one | {"id": f"c{n}{m}"} for m, one in enumerate(draw(st.lists(st.sampled_from(some), max_size=2)))] for n in (1, 2)]  # fmt: skip
    columns = {"kind": "columns", "columns": [{"lines": lines} for lines in beside]}
    assert {one["kind"] for one in (*some, columns)} == set(LINES), "a new kind of line belongs here"
    return letter(*draw(st.permutations([*some, columns])), preview=draw(SAID))


class Seen(HTMLParser):
    """What Python's own parser sees: elements, and where links lead."""

    def __init__(self, html: str) -> None:
        super().__init__()
        self.tags, self.links = set[str](), set[str]()
        self.feed(html)

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.tags.add(tag)
        assert not any(name.startswith("on") for name, _ in attrs)
        if tag == "a" and "href" in (said := dict(attrs)):  # one without leads nowhere
            self.links.add(said["href"] or "")


@given(letters(), st.lists(SAID, min_size=1, max_size=3))
def test_whatever_people_write_is_read_without_an_error_and_never_run(one: Letter, values: list[str]) -> None:
    """By html5lib (the parsing of the HTML standard, every parse error told) and by Python's own parser."""
    said = {source: values[n % len(values)] for n, source in enumerate(sources(one))}
    html = filled(one, LOOK, said | BELOW)
    parser = html5lib.HTMLParser()
    parser.parse(html)
    assert parser.errors == []
    seen = Seen(html)
    assert not seen.tags & {"script", "iframe", "form", "object", "embed"}
    assert all(re.match(r"https?:|mailto:|tel:|#$", link) for link in seen.links), seen.links
    assert {BELOW[OWN_PAGE], BELOW[LEAVE], BELOW[WEB]} <= seen.links


@given(letters())
def test_the_plain_words_hold_every_link_and_the_same_merge_fields(one: Letter) -> None:
    plain = one.plain()
    written = {use for text in one.texts() if text != one.preview for use in re.findall(r"\{\{[^{}]*\}\}", text)}
    for use in written:
        assert use in plain or not re.search(r"\w", use), use
    for link in Seen(filled(one, LOOK, dict.fromkeys(sources(one), "x") | BELOW)).links:
        if link.startswith("http") and link not in BELOW.values():
            assert link in plain


def test_a_letter_says_what_it_is_written_to_say() -> None:
    one = letter(
        {"kind": "heading", "words": "Spring on the water"},
        {"kind": "paragraph", "words": f"Hello {HELLO}, we sail **on Tuesday**. [The dates](https://example.com/dates?a=1&b=2)"},
        {"kind": "list", "items": ["A towel", "Tea"], "numbered": True},
        {"kind": "button", "words": "Hold me a place", "leads_to": "{{ account.booking_link }}"},
        {"kind": "quotation", "words": "Best day", "who": "Ivy"},
    )  # fmt: skip
    assert one.plain() == (
        "Spring on the water\n\n"
        f"Hello {HELLO}, we sail on Tuesday. The dates: https://example.com/dates?a=1&b=2\n\n"
        " 1. A towel\n 2. Tea\n\nHold me a place: {{ account.booking_link }}\n\n“Best day”\nIvy"
    )
    counted = {"https://book.example.com": "https://app.example.com/l/1"}
    html = filled(
        one, LOOK, {HELLO: "<Ada>", "{{ account.booking_link }}": "https://book.example.com"} | BELOW, counted
    )
    assert "Hello &lt;Ada&gt;, we sail <strong>on Tuesday</strong>." in html
    assert {"https://app.example.com/l/1", "https://example.com/dates?a=1&b=2"} <= Seen(html).links
    assert 'href="https://example.com/dates?a=1&amp;b=2"' in html and "Tern Harbour &lt;Sailing&gt;" in html
    assert "prefers-color-scheme: dark" in html


def test_emphasis_is_read_as_commonmark_has_it() -> None:
    """CommonMark 0.31.2, examples 350 to 482 in short: flanking, escapes, nesting, and links that lead nowhere."""
    looks = {
        "**bold**": [("bold", True, False, "")],
        "*it **both***": [("it ", False, True, ""), ("both", True, True, "")],
        "5 * 3 * 2": [("5 * 3 * 2", False, False, "")],
        "\\*as it is\\*": [("*as it is*", False, False, "")],
        "[x](javascript:alert(1))": [("[x](javascript:alert(1))", False, False, "")],
        "[x](https://e.example.com)": [("x", False, False, "https://e.example.com")],
    }
    for words, said in looks.items():
        found = [(one.text, one.bold, one.italic, one.link) for one in pieces(words)]
        joined = [("".join(one[0] for one in found), *found[0][1:])] if len({one[1:] for one in found}) == 1 else found
        assert joined == said, words


def test_an_email_is_its_letter_and_faults_are_said() -> None:
    made = EmailMessage.model_validate({"name": "Dates", "subject": "S", "body": "old", "letter": letter({"kind": "paragraph", "words": "New"}).model_dump()})  # fmt: skip
    assert made.body == "New" and EmailMessage.model_validate(made.model_dump(mode="json")) == made
    faults = list(
        letter(
            {"kind": "button", "words": "Go"}, {"kind": "picture", "address": "https://e.example.com/a.png"}
        ).faults()
    )
    assert faults == ["A button leads nowhere yet.", "A picture has no words yet for who cannot see it."]
    inner = {"kind": "columns", "id": "in", "columns": [{"lines": []}, {"lines": []}]}
    for wrong in ([{"kind": "rule", "id": "a"}, {"kind": "rule", "id": "a"}], [{"kind": "columns", "id": "o", "columns": [{"lines": [inner]}, {"lines": []}]}]):  # fmt: skip
        with pytest.raises(ValidationError):
            Letter.model_validate({"lines": wrong})


def test_a_field_without_words_is_mended_in_the_lines_themselves() -> None:
    lines = [
        {"id": "a", "kind": "paragraph", "words": "Hi {{ contact.first_name }}"},
        {"id": "b", "kind": "list", "items": ["For {{ contact.first_name }}"]},
    ]
    step = {"id": "s", "kind": "email", "message": {"name": "E", "subject": "S", "letter": {"lines": lines}}}
    found = next(
        one
        for one in parse_workflow({"name": "W", "steps": [step]}).steps[0].faults()
        if one.code == "merge-field-no-words"
    )
    assert found.mend is not None and found.mend.path == "message.letter"
    mended = EmailMessage.model_validate({"name": "E", "subject": "S", "letter": found.mend.value})
    assert mended.body.count('| default: "there"') == 2


def test_opening_hours_are_said_in_runs_of_days_in_the_language_of_the_account() -> None:
    """Names and times as CLDR writes them in each language."""
    days = dict.fromkeys(("mon", "tue", "thu"), (Opening(),)) | {"sat": (Opening(start="13:00", end="15:30"), Opening(start="10:00", end="12:00"))}  # fmt: skip
    hours = OpeningHours.model_validate({"days": days})
    read = {}
    for language in ("", "de", "en-US"):
        account = replace(ADA.account, care=Care(opening=hours), language=language)
        read[language] = render("{{ account.opening_hours }}", replace(ADA, account=account)).split("\n")
    assert read[""] == [
        "Monday – Tuesday 09:00 – 17:00",
        "Thursday 09:00 – 17:00",
        "Saturday 10:00 – 12:00, 13:00 – 15:30",
    ]
    assert read["de"][0] == "Montag – Dienstag 09:00 – 17:00"
    assert read["en-US"][2] == "Saturday 10:00 AM – 12:00 PM, 1:00 PM – 3:30 PM"
    assert render('{{ account.opening_hours | default: "by appointment" }}', ADA) == "by appointment"


@given(PASTED)
def test_pasted_html_asks_for_nothing_runs_nothing_and_is_the_same_when_it_is_read_again(pasted: str) -> None:
    made = safe(pasted)
    seen = Seen(made)
    assert not seen.tags & {"script", "style", "iframe", "form", "input", "link", "base", "svg", "math", "title"}
    assert (
        "spy.example.com" not in made and "javascript:" not in made and "onerror" not in made and "passwd" not in made
    )
    assert "color:{{" not in made, "what a field says is never a part of a style"
    assert safe(made) == made


def test_a_mail_that_was_pasted_is_that_mail_with_its_fields_and_what_stands_under_every_letter() -> None:
    page = (
        "<html><head><style>h1 {color: #aa0000} .b {padding: 4px}</style></head><body><h1>Sale</h1>"
        '<p class="b">Hello {{ contact.first_name | default: "sailor" }}, <a href="https://example.com/d">see the dates</a></p></body></html>'
    )
    alone = letter({"kind": "pasted", "html_as_pasted": page})
    assert sources(alone) == [HELLO] and not list(alone.faults())
    html = filled(alone, LOOK, BELOW | {HELLO: "<Ada>"}, {"https://example.com/d": "https://app.example.com/l/1"})
    assert '<h1 style="color: #aa0000' in html and "padding: 4px" in html and "&lt;Ada&gt;" in html
    assert 'href="https://app.example.com/l/1"' in html and "The Old Slip" in html
    assert "masthead" not in html.split("</style>")[-1], "it has a head of its own"
    assert "see the dates: https://example.com/d" in alone.plain() and HELLO in alone.plain()
    beside = letter({"kind": "paragraph", "words": "x"}, {"kind": "pasted", "html_as_pasted": page})
    assert "masthead" in filled(beside, LOOK, BELOW).split("</style>")[-1]
    empty = letter({"kind": "pasted", "html_as_pasted": "<script>x</script>"})
    assert list(empty.faults()) == ["Nothing of the pasted HTML can stand in a mail."]
