"""Words: parts of a text, telling answers apart, opt-outs, conditions, merge fields."""

from collections.abc import Callable
from datetime import date
from decimal import Decimal

import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from smsutil import split

from bluffside.core.channels.answers import is_opt_out
from bluffside.core.channels.text_parts import BASIC, EXTENSION, measure
from bluffside.core.conditions import AllOf, AnyOf, Case, FieldTest, NoneOf, ReachTest, TagTest
from bluffside.core.facts import Contact, Facts
from bluffside.core.messages.merge import BadTemplate, faults, own_path, render, render_with_liquid, uses
from tests.core.examples import ADA, MONDAY


# 3GPP TS 23.038: 160 septets in one part, 153 in each of several; 70 and 67 for UCS-2 (section 6.1.2 and 6.2.3);
# extension characters take two septets (table 6.2.1.1).
@pytest.mark.parametrize(
    ("text", "parts", "used", "alphabet"),
    [
        ("", 1, 0, "GSM-7"),
        ("a" * 160, 1, 160, "GSM-7"),
        ("a" * 161, 2, 161, "GSM-7"),
        ("a" * 306, 2, 306, "GSM-7"),
        ("a" * 307, 3, 307, "GSM-7"),
        ("€" * 80, 1, 160, "GSM-7"),
        ("€" * 81, 2, 162, "GSM-7"),
        ("a" * 152 + "€" * 77, 3, 306, "GSM-7"),  # an escape is not divided, so one septet of part 1 stays free
        ("’" + "a" * 69, 1, 70, "UCS-2"),
        ("’" + "a" * 70, 2, 71, "UCS-2"),
        ("’" * 134, 2, 134, "UCS-2"),
        ("’" * 135, 3, 135, "UCS-2"),
        ("⛵" * 70, 1, 70, "UCS-2"),
        ("🌊" * 36, 2, 72, "UCS-2"),
    ],
)
def test_parts_are_counted_as_3gpp_ts_23_038_says(text: str, parts: int, used: int, alphabet: str) -> None:
    length = measure(text)
    assert (length.parts, length.used, length.alphabet) == (parts, used, alphabet)


def test_the_alphabet_has_the_size_of_the_standard() -> None:
    """Tables 6.2.1 and 6.2.1.1 of TS 23.038: 127 characters beside the escape; 9 and form feed beyond it."""
    assert len(BASIC) == 127
    assert len(EXTENSION) == 10


@given(st.text(st.sampled_from(sorted(BASIC | (EXTENSION - {"\f"}))), max_size=500))
@example("a" * 152 + "€" * 77)
def test_smsutil_counts_the_same_parts_in_gsm_7(text: str) -> None:
    assert measure(text).parts == max(1, len(split(text).parts))


@given(st.text(st.sampled_from("aé’ñ⛵ж🌊"), max_size=200))
def test_smsutil_counts_the_same_parts_in_ucs_2(text: str) -> None:
    if measure(text).alphabet == "UCS-2":
        assert measure(text).parts == max(1, len(split(text).parts))


# The words of 47 CFR 64.1200(a)(10), from memory of the rule's text as DESIGN lists them.
@pytest.mark.parametrize("word", ["stop", "quit", "end", "revoke", "opt out", "cancel", "unsubscribe"])
@pytest.mark.parametrize("form", ["{}", "{}.", " {}! ", "{} please"])
def test_words_that_revoke_consent_are_known_in_any_dress(word: str, form: str) -> None:
    assert is_opt_out(form.format(word))
    assert is_opt_out(form.format(word.upper()))


@pytest.mark.parametrize(
    "text", ["I will stop by on Monday", "No end in sight", "", "cancel my Tuesday and keep Friday"]
)
def test_a_sentence_with_such_a_word_in_it_is_not_an_opt_out(text: str) -> None:
    assert not is_opt_out(text)


def test_conditions_hold_read_and_nest() -> None:
    contact = Contact("Ada", mobile="+447700900123", tags=frozenset({"crew"}))
    crew, mail = TagTest(tag="crew"), ReachTest(channel="email")
    case = Case(Facts(contact), MONDAY)
    assert AllOf(of=(crew, NoneOf(of=(mail,)))).holds(case)
    assert AnyOf(of=(mail, FieldTest(field="first_name", compare="is", value="ada"))).holds(case)
    assert not AllOf(of=(crew, mail)).holds(case)
    assert AllOf(of=(crew, AnyOf(of=(mail, TagTest(tag="x", has=False))))).describe() == (
        "has the tag “crew” and (can be reached by email or lacks the tag “x”)"
    )
    assert AllOf(of=(crew, mail)).seen(case) == {"tags": "crew", "email": "no email address"}


def test_words_for_empty_stand_in_and_values_are_never_run() -> None:
    body = 'Hi {{ contact.first_name | default: "there" }}'
    assert render(body, Facts()) == "Hi there"
    tricky = Facts(Contact(first_name="{{ account.name }}{% if %}<b>"))
    assert render(body, tricky) == "Hi {{ account.name }}{% if %}<b>"
    assert [(use.path, use.words) for use in uses(body)] == [("contact.first_name", "there")]


PATHS = [
    "contact.first_name", "contact.last_name", "contact.fields.boat", "contact.fields.size", "contact.fields.none",
    "contact.first_name.size", "account.name", "member.first_name", "appointment.day", "deal.name", "contact", "nobody.x",
]  # fmt: skip
bodies = st.lists(
    st.one_of(
        st.sampled_from([" ", "Hi", "{", "}", "}}", "{%", "\n", '"', "{{ '{' }}", "{{- account.name -}}", "%"]),
        st.builds("{{{{ {} }}}}".format, st.sampled_from(PATHS)),
        st.builds(
            "{{{{{}|default:{!r}}}}}".format, st.sampled_from(PATHS), st.sampled_from(["there", "", "it's", "a\\nb"])
        ),
        st.builds('{{{{ {} | default: "{}" | upcase }}}}'.format, st.sampled_from(PATHS), st.just("you")),
    ),
    max_size=5,
).map("".join)


@given(
    bodies,
    st.sampled_from(["Ada", "", " ", "{{ account.name }}", "<b>"]),
    st.sampled_from(["cutter", "", None, ("a", "b")]),
)
def test_plain_merge_fields_are_put_together_as_liquid_does(body: str, name: str, boat: object) -> None:
    """python-liquid decides: what it renders is rendered alike, and what it refuses is refused."""
    facts = Facts(Contact(name, mobile="+447700900123", fields={"boat": boat, "size": "41"}), ADA.account, ADA.member)  # type: ignore[dict-item]

    def outcome(rendered: Callable[..., str]) -> str:
        try:
            return rendered(body, facts)
        except BadTemplate as error:
            return f"refused: {error}"

    assert outcome(render) == outcome(render_with_liquid)


@pytest.mark.parametrize(
    "body",
    [
        "{{ contact.first_name",
        "{% for a in b %}x{% endfor %}",
        "{% include 'x' %}",
        "{{ 'a' | replace: 'a', 'b' }}",
        "x" * 20_001,
    ],
)
def test_what_is_beyond_the_limits_is_refused_in_words(body: str) -> None:
    assert faults(body)
    with pytest.raises(BadTemplate):
        render(body, ADA)


def test_an_unknown_field_is_named() -> None:
    assert faults("{{ contact.shoe_size }}") == ["“contact.shoe_size” is not a merge field"]


@pytest.mark.parametrize(
    ("name", "value", "shown"),
    [
        ("Date of birth", date(1987, 4, 3), "3 April 1987"),
        ("Boat's name", "Curlew", "Curlew"),
        ("2nd boat", ("Dinghy", "Kayak"), "Dinghy, Kayak"),
        ("paid", True, "yes"),
        ("owes", Decimal("1200.50"), "1200.50"),
    ],
)
def test_a_field_of_any_name_and_kind_is_merged_as_people_read_it(name: str, value: object, shown: str) -> None:
    facts = Facts(Contact(fields={name: value}))  # type: ignore[dict-item]
    assert render(f"It is {{{{ {own_path(name)} }}}}.", facts) == f"It is {shown}."
    assert not faults(f"{{{{ {own_path(name)} }}}}")
