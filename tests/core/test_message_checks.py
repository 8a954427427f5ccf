"""What is risky about what a message says, each with the words that are not."""

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bluffside.core.message_checks import CHECKS
from bluffside.core.message_checks.shouting import calmer, shouts
from bluffside.core.workflow.checks import check
from bluffside.core.workflow.document import Workflow
from bluffside.core.workflow.files import parse_workflow
from bluffside.core.workflow.house import House
from bluffside.core.workflow.mending import mended

P, PICTURE = (
    {"kind": "paragraph", "id": "p"},
    {"kind": "picture", "id": "i", "address": "https://e.example.com/a.png", "words": "A boat"},
)


FILE = {"digest": "a" * 64, "name": "Prices.pdf", "size": 40_000}


def saying(purpose: str = "marketing", **message: Any) -> Workflow:
    fine: dict[str, Any] = {"name": "News", "subject": "The dates are out", "body": "Hello"}
    step = {"kind": "email", "id": "m", "purpose": purpose, "message": fine | message}
    return parse_workflow({"name": "x", "steps": [step]})


def codes(document: Workflow, house: House | None = None) -> set[str]:
    return {one.code for one in check(document, house or House())}


def letter(*lines: dict[str, Any]) -> dict[str, Any]:
    return {"letter": {"lines": list(lines)}}


RISKY: dict[str, dict[str, Any]] = {
    "subject-cut": {"subject": "All of the dates of this year and of the next one, for {{ contact.first_name }}"},
    "shouting": {"subject": "LAST CHANCE TODAY!!!"},
    "only-pictures": letter(PICTURE, {"kind": "rule", "id": "r"}, {"kind": "paragraph", "id": "e", "words": ""}),
    "too-large": letter({"kind": "pasted", "id": "h", "html_as_pasted": "<p style='color:#123;padding:4px'>x</p>" * 3000}),
    "link-text": letter(P | {"words": "See [harbour.example.com](https://www.elsewhere.example.com/x)"}),
    "attached": {"head": {"files": [FILE]}},
    "attached-heavy": {"head": {"files": [FILE | {"size": 3 * 1024 * 1024}]}},
    "contrast": letter({"kind": "pasted", "id": "h", "html_as_pasted": "<style>td{color:#999}</style><table bgcolor=silver><tr><td><b>Dates</b></td></tr></table>"}),
}  # fmt: skip
FINE: dict[str, dict[str, Any]] = {
    "subject-cut": {"subject": "{{ contact.first_name | default: 'a name that stands here when it is empty' }}, the dates"},
    "shouting": {"subject": "RYA and RNLI dates! A word by {{ account.name }}"},
    "only-pictures": letter(PICTURE, P | {"words": "A boat"}),
    "too-large": letter(*({"kind": "paragraph", "id": f"p{n}", "words": "words " * 300} for n in range(5))),
    "link-text": letter(P | {"words": "See [www.harbour.example.com](https://harbour.example.com/x) or [the dates](https://e.example.com)"}),
    "attached": {"purpose": "service", "head": {"files": [FILE]}},
    "attached-heavy": {"purpose": "service", "head": {"files": [FILE | {"size": 2 * 1024 * 1024}]}},
    "contrast": letter({"kind": "pasted", "id": "h", "html_as_pasted": "<p style='color:#777;font-size:18pt'>Large</p><div style='background:navy'><p style='color:rgb(255, 255, 0)'>Dates</p></div>"}),
}  # fmt: skip


@pytest.mark.parametrize("code", RISKY)
def test_what_is_risky_is_said_and_what_is_not_is_not(code: str) -> None:
    assert {one.__module__.rpartition(".")[2] for one in CHECKS} == {
        code.partition("-heavy")[0].replace("-", "_") for code in RISKY
    }, "each check has its words here"
    assert code in codes(saying(**RISKY[code]))
    assert not set(RISKY) & codes(saying(**FINE[code]))


@given(st.text(st.sampled_from("aBÉß! {}.") | st.characters(categories=["Lu", "Ll", "Po"]), max_size=40))
def test_a_mend_of_shouting_ends_it_and_leaves_merge_fields_alone(text: str) -> None:
    whole = text + "{{ contact.first_name | default: 'YOU' }}"
    said = calmer(whole)
    assert not shouts(said) or said == whole
    assert said.endswith("{{ contact.first_name | default: 'YOU' }}") or not text
    loud = saying(subject="BUY NOW BEFORE MAY!!")
    found = next(one for one in check(loud, House()) if one.code == "shouting")
    assert found.mend is not None
    assert "shouting" not in codes(mended(loud, found.step, found.mend, "new"))


def test_marketing_needs_a_postal_address_and_no_other_clients_words() -> None:
    words = saying(body="Hello from Port Alder Pottery and from Tern Harbour")
    house = House(business="Tern Harbour", postal_address=" ", clients=frozenset({"port alder pottery", "Huon"}))
    assert {"no-postal-address", "another-client"} <= codes(words, house)
    told = [one.sentence for one in check(words, house) if one.code == "another-client"]
    assert told == ["“News” names “port alder pottery”, another client."]
    assert not {"no-postal-address"} & codes(saying("service"), house)
    at_home = House(business="Tern Harbour", postal_address="The Old Slip", clients=frozenset({"Huon"}))
    assert not {"no-postal-address", "another-client"} & codes(words, at_home)
