"""The head of an email: how it addresses people, where answers go, how links are tagged; and wordings by shares."""

from collections import Counter
from urllib.parse import parse_qsl, urlsplit

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from bluffside.core.care.pause import share_of
from bluffside.core.channel_kinds.email import EmailMessage
from bluffside.core.channel_kinds.mail_head import MailHead
from bluffside.core.contrast import contrast
from bluffside.core.letters.link_tags import LONGEST, NAMES, LinkTags, tagged
from bluffside.core.letters.pasted_colours import colour, faint
from bluffside.core.messages.merge import render
from bluffside.core.workflow.differences import side_by_side
from tests.core.examples import ADA
from tests.core.test_message_checks import FILE, saying

WORDS = st.text(max_size=20)
TAGS = LinkTags("bluffside", "email", "Spring dates")


@given(st.builds(LinkTags, WORDS, WORDS, WORDS), st.sampled_from(["", "?a=1&b=%20x", "?a=1#top", "#top", "?empty="]))
def test_a_tagged_link_leads_where_it_led_and_says_its_tags(tags: LinkTags, rest: str) -> None:
    """Read by Python's own reader of addresses (RFC 3986)."""
    before = f"https://harbour.example.com/a/b{rest}"
    after = tagged(before, tags)
    old, new = urlsplit(before), urlsplit(after)
    assert new._replace(query="") == old._replace(query="")
    told = parse_qsl(new.query, keep_blank_values=True)
    assert told[: len(parse_qsl(old.query, keep_blank_values=True))] == parse_qsl(old.query, keep_blank_values=True)
    assert [one for one in told if one[0] in NAMES] == [
        (name, said) for name, said in zip(NAMES, tags, strict=True) if said
    ]
    assert tagged(after, LinkTags("other")) == after or not any(tags), "one that is tagged already is left"


@pytest.mark.parametrize("left", ["mailto:mel@example.com", "tel:+447700900100", "/b/abcdefghijkl", "https://[broken", "https://e.example.com/?UTM_Source=x", "https://e.example.com/" + "a" * LONGEST])  # fmt: skip
def test_what_is_no_link_of_the_web_or_tagged_by_somebody_stays(left: str) -> None:
    assert tagged(left, TAGS) == left


def test_a_head_is_said_for_one_person() -> None:
    def of(text: str) -> str:
        return render(text, ADA)

    usual = MailHead().for_one(of, LinkTags("bluffside", "email"), "Spring dates")
    assert (usual.called, usual.reply_to, usual.tags) == (ADA.contact.name, "", TAGS), (
        "the campaign is the message's name"
    )
    assert MailHead(tagged="not").for_one(of, TAGS, "x").tags == LinkTags()
    assert MailHead().for_one(of, LinkTags(), "x").tags == LinkTags(), "nothing is tagged where nothing is usual"
    own = MailHead(
        called="first", reply_to="{{ contact.email }}", tagged="own", source="{{ account.name }}", medium="x"
    )
    said = own.for_one(of, TAGS, "Spring dates")
    assert (said.called, said.reply_to) == (ADA.contact.first_name, ADA.contact.email)
    assert said.tags == LinkTags(ADA.account.name, "x", "Spring dates")
    assert MailHead(reply_to="{{ contact.last_name }}").for_one(of, TAGS, "x").reply_to == "", (
        "what is no address is left out"
    )
    assert list(MailHead(reply_to="Mel").faults()) and not list(MailHead(reply_to="mel@example.com").faults())
    assert "answers go to mel@example.com" in MailHead(reply_to="mel@example.com").describe()
    with pytest.raises(ValidationError):
        MailHead.model_validate({"files": [FILE | {"name": "../x"}]})
    [row] = side_by_side(saying(), saying(head={"files": [FILE], "reply_to": "mel@example.com"}))
    assert [one.label for one in row.parts] == ["head"] and "Prices.pdf" in row.parts[0].new


@given(st.lists(st.integers(0, 5), min_size=1, max_size=6))
def test_by_shares_everybody_always_reads_the_same_wording_and_the_shares_hold(shares: list[int]) -> None:
    others = [{"body": str(n), "share": share} for n, share in enumerate(shares[1:], start=1)]
    message = EmailMessage.model_validate({"body": "0", "share": shares[0], "by_share": True, "others": others})
    people = 2_000
    read = Counter(message.by_its_share(share_of("wording", "News", str(n))) for n in range(people))
    for number, share in enumerate(shares):
        due = share / (sum(shares) or 1)
        # Four standard deviations of a binomial share.
        assert (
            abs(read[number] / people - (due if sum(shares) else number == 0))
            <= 4 * (due * (1 - due) / people) ** 0.5 + 1e-9
        )
    assert message.key_of(0) != message.key_of(1) or len(shares) == 1, "each is known by its words"


def test_colours_are_read_and_compared_as_the_guidelines_have_it() -> None:
    """WCAG 2.2: black on white is 21 to 1; #777 on white 4.48 to 1, #767676 4.54 (the often named borders of 4.5; from memory)."""
    assert contrast("#000000", "#ffffff") == pytest.approx(21)
    assert (round(contrast("#777777", "#ffffff"), 2), round(contrast("#767676", "#ffffff"), 2)) == (4.48, 4.54)
    assert (colour("navy"), colour("rgb(255, 0, 0)"), colour("#abc"), colour("inherit"), colour("rgba(0,0,0,0)")) == (
        "#000080",
        "#ff0000",
        "#aabbcc",
        "",
        "",
    )
    found = faint(
        "<div style='background:#fff'><b style='color:#777'>One</b><span style='color:#767676'>Two</span></div>"
    )
    assert found is not None and (found.words, found.ink, found.ground) == ("One", "#777777", "#ffffff")
    assert faint("<p>As it is</p><img alt=x><br>") is None
