"""Two who come at the same moment with the same address: nobody is lost, nobody gets an error of ours, and there is one
contact. By pairs, for every way in."""

import json
import re
import threading
from collections.abc import Callable
from typing import Any

import pytest
from django.db import connection
from django.test import Client

from bluffside.server.capture import forms, leads
from bluffside.server.capture.models import FormAnswer, Lead
from bluffside.server.people.models import Contact
from bluffside.server.people.services import add_contact
from tests.server.conftest import House

PAIRS = 12
Ask = Callable[[int], int]


def at_once(ask: Ask, pairs: int = PAIRS) -> list[list[int]]:
    """The statuses that both of each pair were answered with."""
    found: list[list[int]] = []
    for number in range(pairs):
        together, answers = threading.Barrier(2), list[int]()

        def one(number: int = number, together: Any = together, answers: list[int] = answers) -> None:
            try:
                together.wait()
                answers.append(ask(number))
            finally:
                connection.close()

        both = [threading.Thread(target=one) for _ in range(2)]
        for thread in both:
            thread.start()
        for thread in both:
            thread.join()
        found.append(sorted(answers))
    return found


def email(number: int) -> str:
    return f"p{number}@example.com"


def by_api(house: House, signed_in: Any) -> Ask:
    def ask(number: int) -> int:
        client: Client = signed_in(house.consultant)
        return client.post(
            "/api/accounts/sailing/contacts", {"email": email(number)}, content_type="application/json"
        ).status_code

    return ask


def by_form(house: House, signed_in: Any) -> Ask:
    form = forms.make(house.sailing, "Open day")
    page = Client().get(f"/f/{form.token}").content.decode()
    assert re.search(r'name="page"', page)

    def ask(number: int) -> int:
        given = {"page": forms.stamp(form, ago=60), "q1": "Ana", "q2": email(number)}
        return Client().post(f"/f/{form.token}", given).status_code

    return ask


def by_lead(house: House, signed_in: Any) -> Ask:
    source = leads.make(house.sailing, "Advert")
    source.matching = {"fields": [{"path": "email", "fills": "email"}]}
    source.save()

    def ask(number: int) -> int:
        body = json.dumps({"email": email(number), "by": threading.current_thread().name})
        return Client().post(f"/in/{source.secret}", body, content_type="application/json").status_code

    return ask


@pytest.mark.parametrize(
    ("way", "answers"),
    [(by_api, [201, 422]), (by_form, [200, 200]), (by_lead, [202, 202])],
    ids=["api", "form", "lead"],
)
def test_two_with_the_same_new_email_are_one(
    committed_house: House, signed_in: Any, monkeypatch: pytest.MonkeyPatch, way: Any, answers: list[int]
) -> None:
    monkeypatch.setattr(forms, "AN_HOUR", 1_000)
    assert at_once(way(committed_house, signed_in)) == [answers] * PAIRS
    assert sorted(Contact.objects.values_list("email", flat=True)) == sorted(map(email, range(PAIRS)))
    assert not FormAnswer.objects.exclude(state="taken").exists() and not Lead.objects.exclude(state="taken").exists()
    if way is not by_api:
        assert FormAnswer.objects.count() + Lead.objects.count() == 2 * PAIRS


def test_two_who_take_the_same_address_at_once(committed_house: House, signed_in: Any) -> None:
    people = [add_contact(committed_house.sailing, {"first_name": f"N{n}"}) for n in range(2 * PAIRS)]
    turns = iter(people)
    lock = threading.Lock()

    def ask(number: int) -> int:
        with lock:
            contact = next(turns)
        client: Client = signed_in(committed_house.consultant)
        path = f"/api/accounts/sailing/contacts/{contact.id}"
        return client.patch(path, {"email": email(number)}, content_type="application/json").status_code

    assert at_once(ask) == [[200, 422]] * PAIRS


def test_an_answer_that_cannot_be_taken_is_kept_and_waits(house: House, monkeypatch: pytest.MonkeyPatch) -> None:
    form = forms.make(house.sailing, "Open day")

    def breaks(*_: Any) -> None:
        raise RuntimeError("nobody thought of this")

    monkeypatch.setattr(forms, "_take", breaks)
    given = {"page": forms.stamp(form, ago=60), "q1": "Ana", "q2": "ana@example.com"}
    assert Client().post(f"/f/{form.token}", given).status_code == 200
    answer = FormAnswer.objects.get()
    assert (answer.state, answer.answers) == ("spam", {"q1": "Ana", "q2": "ana@example.com"})
    assert answer.reason == "it could not be taken: RuntimeError: nobody thought of this"
    monkeypatch.undo()
    assert forms.let_in(answer, house.consultant).email == "ana@example.com"
