"""The client's yes: what is shown by a link, what they say about it, and that nothing of any contact is in it."""

from collections.abc import Callable
from datetime import timedelta
from typing import Any

import pytest
from django.test import Client

from bluffside.core.workflow.files import parse_workflow, to_data
from bluffside.server.events.models import Event
from bluffside.server.practice import clock
from bluffside.server.practice.models import StaffMail
from bluffside.server.workflows import showing, writing
from bluffside.server.workflows.models import Remark, Showing, Workflow
from tests.core.examples import MONDAY
from tests.server.conftest import House
from tests.server.test_mail_heads import LETTER

JSON = "application/json"
STEPS: list[dict[str, Any]] = [
    {"kind": "text", "id": "hello", "message": {"name": "Hello", "body": "Hi {{ contact.first_name | default: 'there' }}, <b>us</b>", "others": [{"body": "Another way"}]}},
    {"kind": "wait_for_reply", "id": "ask", "limit": "2 days", "lanes": [{"id": "yes", "answer": "yes", "words": ["yes"], "steps": [
        {"kind": "email", "id": "mail", "message": {"name": "Mail", "subject": "For {{ contact.first_name }}", "letter": LETTER}}]}]},
]  # fmt: skip


@pytest.fixture
def shown(house: House, signed_in: Callable[..., Client]) -> tuple[Client, Workflow, dict[str, Any]]:
    workflow = house.workflow(name="After the taster day", steps=STEPS)
    client = signed_in(house.consultant)
    given = {"client": " Ros  Penhale ", "words": "Is the price right?"}
    made = client.post(f"/api/accounts/sailing/workflows/{workflow.pk}/showings", given, JSON)
    assert made.status_code == 201
    return client, workflow, made.json()


def page_of(made: dict[str, Any]) -> str:
    return "/s/" + str(made["address"]).rpartition("/")[2]


def test_the_client_reads_it_whole_and_nothing_of_any_contact(
    house: House, shown: tuple[Client, Workflow, dict[str, Any]]
) -> None:
    _, _, made = shown
    contacts = [house.contact(n) for n in range(1, 6)]
    page = Client().get(page_of(made))
    words = page.content.decode()
    assert page.status_code == 200 and "noindex" in words and page["Cache-Control"] == "no-store"
    for said in (
        "After the taster day",
        "Is the price right?",
        "Hi [first name, or “there”], &lt;b&gt;us&lt;/b&gt;",
        "Another way",
        "or, to others:",
    ):
        assert said in words, said
    letter = Client().get(f"{page_of(made)}/mail/message/0")
    assert letter.status_code == 200 and "Hello <strong>[first name]</strong>" in letter.content.decode()
    assert (
        "frame-ancestors 'self'" in letter["Content-Security-Policy"] and "sandbox" in letter["Content-Security-Policy"]
    )
    for elsewhere in ("mail/message/7", "hello/message/0", "nowhere/message/0", "mail/id/0"):
        assert Client().get(f"{page_of(made)}/{elsewhere}").status_code == 404, elsewhere
    for one in contacts:
        assert not any(
            text and text in words + letter.content.decode() for text in (one.first_name, one.email, one.mobile)
        )
    assert Client().get(page_of(made)[:-2] + "xx").status_code == 404


def test_a_remark_and_a_yes_are_kept_with_who_and_when_and_told_once(
    house: House, shown: tuple[Client, Workflow, dict[str, Any]]
) -> None:
    client, workflow, made = shown
    outside, page = Client(enforce_csrf_checks=True), page_of(made)
    refused = outside.post(page, {"does": "remark", "line": "hello", "who": "", "words": "Too <i>stiff</i>"})
    assert refused.status_code == 422 and "Please say who you are." in refused.content.decode()
    assert "Too &lt;i&gt;stiff&lt;/i&gt;" in refused.content.decode() and not Remark.objects.exists(), (
        "what was written stands there still"
    )
    for line in ("hello", ""):
        sent = outside.post(page, {"does": "remark", "line": line, "who": "Ros", "words": "Too <i>stiff</i>"})
        assert sent.status_code == 302 and "will be read" in outside.get(sent["Location"]).content.decode(), (
            "loaded again, it sends nothing"
        )
    assert outside.post(page, {"does": "remark", "line": "elsewhere", "who": "Ros", "words": "x"}).status_code == 422
    assert outside.post(page, {"does": "remark", "line": "", "who": "Ros", "words": "x" * 2_001}).status_code == 422
    assert StaffMail.objects.count() == 1, "of two remarks in a row one mail"
    said = client.get(f"/api/accounts/sailing/workflows/{workflow.pk}/showings").json()[0]["remarks"]
    assert [(one["line"], one["who"], one["words"]) for one in said] == [
        ("hello", "Ros", "Too <i>stiff</i>"),
        ("", "Ros", "Too <i>stiff</i>"),
    ]
    standing = client.get(f"/api/accounts/sailing/workflows/{workflow.pk}/shown").json()
    assert (standing["client"], standing["remark_by"], standing["is_current"]) == ("Ros Penhale", "Ros", True)
    for one in said:
        assert (
            client.post(
                f"/api/accounts/sailing/showings/remarks/{one['id']}/answer", {"words": "It is softer now"}, JSON
            ).status_code
            == 204
        )
    assert "It is softer now" in outside.get(page).content.decode()
    for who in ("Ros Penhale", "Somebody else"):
        assert "agreed on" in outside.post(page, {"does": "agree", "who": who}, follow=True).content.decode()
    standing = client.get(f"/api/accounts/sailing/workflows/{workflow.pk}/shown").json()
    assert (standing["agreed_by"], standing["remark_by"], standing["is_current"]) == ("Ros Penhale", "", True)
    assert StaffMail.objects.count() == 2
    kinds = [
        "showing.made",
        "showing.remarked",
        "showing.remarked",
        "showing.answered",
        "showing.answered",
        "showing.agreed",
    ]
    assert (
        list(Event.objects.filter(kind__startswith="showing.").order_by("id").values_list("kind", flat=True)) == kinds
    )
    data = to_data(writing.draft_of(workflow))
    data["steps"][0]["message"]["body"] = "Something else"
    writing.save_draft(workflow, parse_workflow(data), workflow.revision, house.consultant)
    assert not client.get(f"/api/accounts/sailing/workflows/{workflow.pk}/shown").json()["is_current"], (
        "they agreed to other words"
    )
    assert "Something else" not in outside.get(page).content.decode(), "what was shown stays what was shown"


def test_a_link_ends_by_itself_or_when_it_is_taken_back_and_is_bounded(
    house: House,
    shown: tuple[Client, Workflow, dict[str, Any]],
    monkeypatch: pytest.MonkeyPatch,
    signed_in: Callable[..., Client],
) -> None:
    client, workflow, made = shown
    outside, page = Client(), page_of(made)
    monkeypatch.setattr(showing, "MOST_REMARKS", 1)
    monkeypatch.setattr(showing, "MOST_SHOWINGS", 2)
    given = {"does": "remark", "line": "", "who": "Ros", "words": "x"}
    assert [outside.post(page, given).status_code for _ in range(2)] == [302, 422]
    assert outside.post(page, given | {"words": "x" * 200_000}).status_code == 413
    path = f"/api/accounts/sailing/workflows/{workflow.pk}/showings"
    assert [client.post(path, {"client": who}, JSON).status_code for who in ("", "Ros", "Ros")] == [422, 201, 422]
    with clock.at(MONDAY):
        old = Showing.objects.get(pk=made["id"])
        Showing.objects.filter(pk=old.pk).update(shown_at=MONDAY - showing.OPEN_FOR + timedelta(minutes=1))
        assert outside.get(page).status_code == 200
        Showing.objects.filter(pk=old.pk).update(shown_at=MONDAY - showing.OPEN_FOR)
        assert outside.get(page).status_code == 410 and outside.post(page, given).status_code == 410
    newest = client.get(path).json()[0]
    assert client.post(f"/api/accounts/sailing/showings/{newest['id']}/end").status_code == 204
    assert outside.get(page_of(newest)).status_code == 410 and client.get(path).json()[0]["address"] == ""
    assert signed_in(house.member).post(path, {"client": "Ros"}, JSON).status_code == 403, (
        "who may not write does not show"
    )
    assert client.post(f"/api/accounts/pottery/showings/{made['id']}/end").status_code == 404
