"""What was recorded of a call can be taken back for some seconds: until then no workflow has heard of it, and nothing goes on
over it either; afterwards it is refused."""

from collections.abc import Callable
from datetime import timedelta

import pytest
from django.test import Client

from bluffside.server.diary.models import Task
from bluffside.server.diary.services import TAKEN_BACK_FOR, CannotRecord, record_outcome, take_back_outcome
from bluffside.server.events.models import Event, Pending
from bluffside.server.events.stream import Cause
from bluffside.server.messaging.models import Message
from bluffside.server.messaging.services import take_reply
from bluffside.server.people.models import Contact
from bluffside.server.practice import clock
from bluffside.server.practice.models import Membership, Person
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling
from bluffside.server.workflows.models import Enrolment
from tests.server.conftest import NOON, House

SECOND = timedelta(seconds=1)
Outcome = Task.Outcome


def rung(house: House) -> Contact:
    """Somebody who is to be rung up to three times, and for whom a workflow waits a day to hear how it went."""
    contact = house.contact()
    heard = {"kind": "task_done", "step": "ring", "outcomes": ["reached"]}
    lanes = [
        {"id": "yes", "on": heard, "steps": [said("Nice talking")]},
        {"id": "late", "steps": [said("Sorry to have missed you")]},
    ]
    steps = [
        {"kind": "call", "id": "ring", "about": "it", "attempts": 3},
        {"kind": "wait_for", "id": "w", "limit": "1 day", "lanes": lanes},
    ]
    enrolling.enrol(house.workflow(steps=steps, leaves_on=[{"kind": "opted_out"}]), [contact.id], "test", Cause())
    until_quiet()
    return contact


def said(name: str) -> dict[str, object]:
    return {"kind": "text", "id": name.split()[0].lower(), "message": {"name": name, "body": name}}


def texts() -> list[str]:
    until_quiet()
    return list(Message.objects.filter(enrolment_id__isnull=False).order_by("id").values_list("name", flat=True))


def test_an_outcome_is_heard_once_it_cannot_be_taken_back_any_more(house: House) -> None:
    with clock.at(NOON) as move_to:
        contact = rung(house)
        task = record_outcome(Task.objects.get(), Outcome.REACHED, house.member, "", None, TAKEN_BACK_FOR)
        take_reply(house.sailing, "text", contact.mobile, "hello again", "in:1")  # what comes after it waits behind it
        assert texts() == [] and Pending.objects.filter(contact_id=contact.id).count() == 2
        move_to(NOON + TAKEN_BACK_FOR)
        assert texts() == ["Nice talking"] and not Pending.objects.exists()
        with pytest.raises(CannotRecord, match="cannot be taken back any more"):
            take_back_outcome(task)
        assert Task.objects.get().done_at == NOON


@pytest.mark.parametrize("outcome", [Outcome.REACHED, Outcome.NO_ANSWER, Outcome.RING_BACK, Outcome.DROPPED])
def test_what_is_taken_back_was_never_heard_and_the_task_is_as_before(house: House, outcome: str) -> None:
    with clock.at(NOON) as move_to:
        rung(house)
        as_before = Task.objects.values().get()
        at = NOON + timedelta(days=1) if outcome == Outcome.RING_BACK else None
        task = record_outcome(Task.objects.get(), Outcome(outcome), house.member, "a word", at, TAKEN_BACK_FOR)
        move_to(NOON + 5 * SECOND)
        take_back_outcome(task)
        assert Task.objects.values().get() == as_before
        assert not Event.objects.filter(kind__in=["task.done", "task.tried"]).exists()
        with pytest.raises(CannotRecord, match="nothing to take back"):
            take_back_outcome(task)
        move_to(NOON + 9 * SECOND)
        assert texts() == []
        record_outcome(Task.objects.get(), Outcome.REACHED, house.member)
        assert texts() == ["Nice talking"]


def test_the_limit_does_not_pass_over_an_outcome_that_can_still_be_taken_back(house: House) -> None:
    with clock.at(NOON) as move_to:
        rung(house)
        limit = Enrolment.objects.get().due_at
        move_to(limit - SECOND)
        record_outcome(Task.objects.get(), Outcome.REACHED, house.member, "", None, TAKEN_BACK_FOR)
        move_to(limit + SECOND)
        assert texts() == []
        move_to(limit + TAKEN_BACK_FOR)
        assert texts() == ["Nice talking"]


def test_over_the_api_who_may_do_tasks_takes_back(house: House, signed_in: Callable[[Person], Client]) -> None:
    viewer = Person.objects.create_user("viewer@example.com", "long-enough-7", name="Vi", practice=house.practice)
    Membership.objects.create(account=house.sailing, person=viewer, role="viewer")
    with clock.at(NOON):
        rung(house)
    url = f"/api/accounts/sailing/tasks/{Task.objects.get().id}/outcome"
    team = signed_in(house.member)
    said = team.post(url, {"outcome": "reached"}, content_type="application/json").json()  # by the clock that runs
    assert said == {"comes_back": "", "undo_for": TAKEN_BACK_FOR.total_seconds()}
    assert signed_in(viewer).delete(url).status_code == 403
    assert (team.delete(url).status_code, team.delete(url).status_code) == (204, 409)
